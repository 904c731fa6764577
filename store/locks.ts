import type { Lane, Shot } from '@/core/document';
import { ShotError } from '@/core/errors';

/** What may be changed of a lane that is locked: how it is shown, and the lock itself. */
const FREE: ReadonlySet<string> = new Set(['locked', 'collapsed']);

const same = (a: Lane, b: Lane): boolean =>
  [...new Set([...Object.keys(a), ...Object.keys(b)])].every((k) => FREE.has(k) || a[k as keyof Lane] === b[k as keyof Lane]);

/**
 * Throws ShotError where a locked lane is not what it was. Both are immutable values, the one made from the other, so that
 * whatever was not touched is the same object.
 */
export function refuseLocked(before: Shot, after: Shot): void {
  for (const lane of before.lanes) {
    if (!lane.locked) continue;
    const now = after.lanes.find((l) => l.id === lane.id);
    if (!now || !same(lane, now)) throw new ShotError(`the lane "${lane.name}" is locked; unlock it in its menu first`);
  }
}
