import type { Rect } from '../geometry/rect';
import { sameRect } from '../geometry/rect';

/** A canvas as it was after so many strokes on one picture. */
interface Checkpoint {
  /** Of what the strokes were laid on, and at which scale. */
  key: string;
  region: Rect;
  /** By their names: see LaidStroke. */
  strokes: readonly string[];
  planes: readonly Float32Array[];
  bytes: number;
}

/** Strokes between two checkpoints: fewer are quickly laid again. */
export const BLOCK = 128;
const BUDGET = 96 * 2 ** 20;

const kept: Checkpoint[] = [];

/**
 * The canvas of the longest run of strokes that was laid on the same picture before, copied into the planes; how many strokes that spares. What one
 * adds to two thousand strokes is then a stroke's work, and what one changes is a block's.
 */
export function resume(key: string, region: Rect, strokes: readonly string[], planes: readonly Float32Array[]): number {
  let best: Checkpoint | null = null;
  for (const c of kept) {
    if (c.key !== key || !sameRect(c.region, region) || c.strokes.length > strokes.length) continue;
    if (best && c.strokes.length <= best.strokes.length) continue;
    if (c.strokes.every((s, i) => s === strokes[i])) best = c;
  }
  if (!best) return 0;
  planes.forEach((p, c) => p.set(best.planes[c]!));
  kept.splice(kept.indexOf(best), 1);
  kept.push(best);
  return best.strokes.length;
}

/** Keeps the canvas after some strokes; what was not used for longest goes. */
export function keep(key: string, region: Rect, strokes: readonly string[], planes: readonly Float32Array[]): void {
  const bytes = planes.reduce((s, p) => s + p.byteLength, 0);
  if (
    bytes > BUDGET / 2 ||
    kept.some(
      (c) =>
        c.key === key && sameRect(c.region, region) && c.strokes.length === strokes.length && c.strokes.every((s, i) => s === strokes[i]),
    )
  )
    return;
  kept.push({ key, region, strokes: [...strokes], planes: planes.map((p) => Float32Array.from(p)), bytes });
  for (let sum = kept.reduce((s, c) => s + c.bytes, 0); sum > BUDGET; sum -= kept.shift()!.bytes);
}
