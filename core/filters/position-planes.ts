import type { Kernels, Plane } from '@/kernels';
import type { Mapping } from '../geometry/mapping';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';

/** Pixels between positions that are worked out exactly, as kernels/assembly/lattice.ts has it. */
const CELL = 8;
/** How far the cubic between them may be off, px: checked in the middle of each cell. */
const OFF = 5e-4;

/**
 * What each pixel of a region looks at through a mapping, as two planes to be given back; NaN where that is nothing. Worked out exactly
 * at every eighth pixel, a cubic between (Catmull–Rom); cells in which that is off by more than half a thousandth of a pixel are exact throughout.
 */
export function positionPlanes(kernels: Kernels, mapping: Mapping, want: Rect, poll?: () => void): { xs: Plane; ys: Plane } {
  const [w, h] = [width(want), height(want)];
  const [columns, rows] = [Math.ceil(w / CELL) + 3, Math.ceil(h / CELL) + 3];
  const [xs, ys] = [kernels.take(w * h), kernels.take(w * h)];
  // Rows of nodes are read four at a time, also past the last one.
  const [gx, gy] = [kernels.zeros(columns * rows + 4), kernels.zeros(columns * rows + 4)];
  const between = kernels.copy(weights());
  const scratch = kernels.take(columns + 4);
  const to = new Float64Array(2);
  // A node lies on the centre of each cell's first pixel; one more before, two after.
  for (let j = 0, i = 0; j < rows; j++) {
    for (let c = 0; c < columns; c++, i++) {
      mapping.back(want.x0 + 0.5 + CELL * (c - 1), want.y0 + 0.5 + CELL * (j - 1), to);
      gx[i] = to[0]!;
      gy[i] = to[1]!;
    }
  }
  try {
    for (let j = 0; j < rows - 3; j++) {
      poll?.();
      const low = Math.min(CELL, h - CELL * j);
      for (const [grid, plane] of [
        [gx, xs],
        [gy, ys],
      ] as const) {
        const out = plane.byteOffset + 4 * w * CELL * j;
        kernels.fn.spreadNodes(grid.byteOffset, columns, j, out, w, low, between.byteOffset, scratch.byteOffset);
      }
      for (let c = 0; c < columns - 3; c++) {
        // The cubic is farthest off in the middle: of a cell that is cut there, at its last pixel.
        const [x, y] = [Math.min(CELL / 2, w - CELL * c - 1), Math.min(CELL / 2, low - 1)];
        mapping.back(want.x0 + 0.5 + CELL * c + x, want.y0 + 0.5 + CELL * j + y, to);
        const o = (CELL * j + y) * w + CELL * c + x;
        if (!(Math.abs(xs[o]! - to[0]!) + Math.abs(ys[o]! - to[1]!) < OFF)) exactly(mapping, want, { xs, ys }, c, j);
      }
    }
  } finally {
    [gx, gy, between, scratch].forEach((p) => kernels.give(p));
  }
  return { xs, ys };
}

/** Every pixel of a cell by the mapping itself. */
function exactly(mapping: Mapping, want: Rect, { xs, ys }: { xs: Plane; ys: Plane }, c: number, j: number): void {
  const [w, h] = [width(want), height(want)];
  const to = new Float64Array(2);
  for (let y = CELL * j; y < Math.min(h, CELL * (j + 1)); y++) {
    for (let x = CELL * c; x < Math.min(w, CELL * (c + 1)); x++) {
      mapping.back(want.x0 + 0.5 + x, want.y0 + 0.5 + y, to);
      xs[y * w + x] = to[0]!;
      ys[y * w + x] = to[1]!;
    }
  }
}

let known: Float32Array | null = null;
/** Catmull–Rom weights of four nodes, each at the eight pixels of a cell. */
function weights(): Float32Array {
  if (known) return known;
  known = new Float32Array(4 * CELL);
  for (let i = 0; i < CELL; i++) {
    const t = i / CELL;
    const four = [0.5 * t * (-1 + t * (2 - t)), 1 + t * t * (-2.5 + 1.5 * t), 0.5 * t * (1 + t * (4 - 3 * t)), 0.5 * t * t * (t - 1)];
    four.forEach((v, node) => (known![CELL * node + i] = v));
  }
  return known;
}
