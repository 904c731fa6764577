import type { Format, PictureInfo } from '../picture';
import { onlyChannel, toDistance } from './depth';
import { signsOf } from './positions';
import type { PassFacts, PassRole, RoledPass } from './roles';
import { passOf } from './roles';
import type { Rect } from '../geometry/rect';

/** Data that goes along when pictures are joined, and the channels that hold it then: always meant in the same way. */
export const MERGED: readonly { role: PassRole; name: string; channels: readonly string[]; empty: number }[] = [
  { role: 'depth', name: 'Z', channels: ['Z'], empty: Infinity },
  { role: 'motion', name: 'motion', channels: ['motion.X', 'motion.Y'], empty: 0 },
  { role: 'normal', name: 'N', channels: ['N.X', 'N.Y', 'N.Z'], empty: 0 },
  { role: 'position', name: 'P', channels: ['P.X', 'P.Y', 'P.Z'], empty: 0 },
];

/** Those that either picture has. */
export const mergedOf = (...pictures: readonly (PictureInfo | undefined)[]): typeof MERGED =>
  MERGED.filter(({ role }) => role === 'depth' || pictures.some((p) => passOf(p?.passes, '', role)));

/** What is known of the passes after a join: the data in its usual meaning, the rest as it was. */
export function passesMerged(main: PictureInfo, front: PictureInfo | undefined): RoledPass[] {
  const merged = mergedOf(main, front);
  const rest = (main.passes ?? []).filter((p) => !merged.some((m) => m.role === p.role || m.name === p.name));
  return [...rest, ...merged.map(({ role, name, channels }): RoledPass => ({ name, kind: role as RoledPass['kind'], channels, role }))];
}

/** Displacement in pixels of the full format to the next frame, x right and y down, of one axis of a motion pass; in place. */
export function toPixels(plane: Float32Array, axis: 0 | 1, facts: PassFacts = {}, format: Format, scale: number): void {
  const { unit = 'px', towards = 'next' } = facts;
  const side = (axis === 0 ? format.width : format.height) / scale;
  const k = signsOf(facts)[axis] * (towards === 'next' ? 1 : -1) * (unit === 'px' ? 1 : unit === 'frame' ? side : side / 2);
  for (let i = 0; i < plane.length; i++) {
    const v = plane[i]! * k;
    plane[i] = Number.isFinite(v) ? v : 0;
  }
}

/** Brings one channel of a pass to its usual meaning, in place. */
export function toUsual(plane: Float32Array, pass: RoledPass, k: number, region: Rect, format: Format, scale: number, focal: number): void {
  if (pass.role === 'depth') toDistance(plane, region, pass.facts, focal, format);
  else if (pass.role === 'motion') toPixels(plane, k as 0 | 1, pass.facts, format, scale);
  else {
    const sign = signsOf(pass.facts)[k as 0 | 1 | 2];
    const packed = pass.facts?.packed === true;
    if (sign === 1 && !packed) return;
    for (let i = 0; i < plane.length; i++) plane[i] = sign * (packed ? 2 * plane[i]! - 1 : plane[i]!);
  }
}

/** The channels of a pass in the order of its usual ones. */
export const channelsOfPass = (pass: RoledPass): readonly string[] => (pass.role === 'depth' ? [onlyChannel(pass)] : pass.channels);
