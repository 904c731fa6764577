import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';

/**
 * Copies a plane with its NaN and infinite pixels filled: each takes the mean of those of its eight neighbours that are
 * known, in rings from the outside in. A plane with nothing known becomes 0.
 */
export function fillMissing(from: Float32Array, region: Rect, to: Float32Array): void {
  const [w, h] = [width(region), height(region)];
  to.set(from);
  let open: number[] = [];
  for (let i = 0; i < w * h; i++) if (!Number.isFinite(from[i]!)) open.push(i);
  while (open.length > 0) {
    const values: number[] = [];
    const left: number[] = [];
    const done: number[] = [];
    for (const i of open) {
      const [x, y] = [i % w, Math.floor(i / w)];
      let sum = 0;
      let count = 0;
      for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) {
          const value = to[v * w + u]!;
          if (!Number.isFinite(value)) continue;
          sum += value;
          count++;
        }
      }
      if (count === 0) left.push(i);
      else {
        done.push(i);
        values.push(sum / count);
      }
    }
    if (done.length === 0) {
      left.forEach((i) => (to[i] = 0));
      return;
    }
    done.forEach((i, k) => (to[i] = values[k]!));
    open = left;
  }
}
