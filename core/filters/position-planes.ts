import type { Kernels, Plane } from '@/kernels';
import type { Mapping } from '../geometry/mapping';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';

/** Pixels between positions that are worked out exactly. */
const CELL = 8;
/** How far the cubic between them may be off, px: checked in the middle of each cell. */
const OFF = 5e-4;

/**
 * What each pixel of a region looks at through a mapping, as two planes to be given back; NaN where that is nothing. Worked out exactly
 * at every eighth pixel, a cubic between (Catmull–Rom); cells in which that is off by more than half a thousandth of a pixel are exact throughout.
 */
export function positionPlanes(kernels: Kernels, mapping: Mapping, want: Rect, poll?: () => void): { xs: Plane; ys: Plane } {
  const [w, h] = [width(want), height(want)];
  const xs = kernels.take(w * h);
  const ys = kernels.take(w * h);
  const to = new Float64Array(2);
  const [columns, rows] = [Math.ceil(w / CELL) + 3, Math.ceil(h / CELL) + 3];
  const [gx, gy] = [new Float64Array(columns * rows), new Float64Array(columns * rows)];
  // A node lies on the centre of each cell's first pixel; one more before, two after.
  for (let j = 0, i = 0; j < rows; j++) {
    for (let c = 0; c < columns; c++, i++) {
      mapping.back(want.x0 + 0.5 + CELL * (c - 1), want.y0 + 0.5 + CELL * (j - 1), to);
      gx[i] = to[0]!;
      gy[i] = to[1]!;
    }
  }
  const between = weights();
  const [px, py] = [new Float64Array(4), new Float64Array(4)];
  for (let j = 0; j < rows - 3; j++) {
    poll?.();
    for (let c = 0; c < columns - 3; c++) {
      const from = j * columns + c;
      const middle = CELL / 2;
      mapping.back(want.x0 + 0.5 + CELL * c + middle, want.y0 + 0.5 + CELL * j + middle, to);
      let [mx, my] = [0, 0];
      for (let b = 0; b < 4; b++) {
        for (let a = 0; a < 4; a++) {
          const k = between[4 * middle + a]! * between[4 * middle + b]!;
          mx += k * gx[from + b * columns + a]!;
          my += k * gy[from + b * columns + a]!;
        }
      }
      const smooth = Math.abs(mx - to[0]!) + Math.abs(my - to[1]!) < OFF;
      const [right, low] = [Math.min(CELL, w - CELL * c), Math.min(CELL, h - CELL * j)];
      for (let y = 0; y < low; y++) {
        let o = (CELL * j + y) * w + CELL * c;
        if (smooth) {
          for (let a = 0; a < 4; a++) {
            px[a] = py[a] = 0;
            for (let b = 0; b < 4; b++) {
              px[a]! += between[4 * y + b]! * gx[from + b * columns + a]!;
              py[a]! += between[4 * y + b]! * gy[from + b * columns + a]!;
            }
          }
        }
        for (let x = 0; x < right; x++, o++) {
          if (smooth) {
            const k = 4 * x;
            xs[o] = between[k]! * px[0]! + between[k + 1]! * px[1]! + between[k + 2]! * px[2]! + between[k + 3]! * px[3]!;
            ys[o] = between[k]! * py[0]! + between[k + 1]! * py[1]! + between[k + 2]! * py[2]! + between[k + 3]! * py[3]!;
          } else {
            mapping.back(want.x0 + 0.5 + CELL * c + x, want.y0 + 0.5 + CELL * j + y, to);
            xs[o] = to[0]!;
            ys[o] = to[1]!;
          }
        }
      }
    }
  }
  return { xs, ys };
}

let known: Float64Array | null = null;
/** Catmull–Rom weights of four nodes at each pixel of a cell. */
function weights(): Float64Array {
  if (known) return known;
  known = new Float64Array(4 * CELL);
  for (let i = 0; i < CELL; i++) {
    const t = i / CELL;
    known.set([0.5 * t * (-1 + t * (2 - t)), 1 + t * t * (-2.5 + 1.5 * t), 0.5 * t * (1 + t * (4 - 3 * t)), 0.5 * t * t * (t - 1)], 4 * i);
  }
  return known;
}
