/** A hole in a w×h grid as a list of its pixels, with the places in that list of their four neighbours (−1: known, or beyond the edge). */
export interface Hole {
  readonly w: number;
  readonly h: number;
  /** Indices of the open pixels, row by row. */
  readonly open: Int32Array;
  /** Four a pixel: left, right, above, below. */
  readonly beside: Int32Array;
}

/** The pixels of a grid at which `is` is not 0. */
export function holeOf(is: ArrayLike<number>, w: number, h: number): Hole {
  const place = new Int32Array(w * h).fill(-1);
  let count = 0;
  for (let i = 0; i < w * h; i++) if (is[i]) place[i] = count++;
  const open = new Int32Array(count);
  const beside = new Int32Array(4 * count);
  for (let i = 0; i < w * h; i++) {
    const k = place[i]!;
    if (k < 0) continue;
    const x = i % w;
    open[k] = i;
    beside[4 * k] = x > 0 ? place[i - 1]! : -1;
    beside[4 * k + 1] = x < w - 1 ? place[i + 1]! : -1;
    beside[4 * k + 2] = i >= w ? place[i - w]! : -1;
    beside[4 * k + 3] = i < w * (h - 1) ? place[i + w]! : -1;
  }
  return { w, h, open, beside };
}

/** Of the length of the right side: where the remaining error is less, it is solved. */
const ENOUGH = 1e-7;
/** Steps that are needed at the very most; twenty are usual. */
const MOST_STEPS = 400;

/**
 * Fills a hole of a plane smoothly, in place: the membrane ∇²u = 0 inside with the known pixels around it as its edge; the edge of the grid is
 * free. With `guide` it is the seamless cloning of Pérez, Gangnet and Blake 2003: ∇²u = ∇²guide. Conjugate gradients, preconditioned by multigrid (aggregates of four; Notay 2010).
 * Where nothing is known around the hole it becomes 0, or the guide. `poll` is asked now and then.
 */
export function fillMembrane(plane: Float32Array, hole: Hole, guide?: Float32Array, poll?: () => void): void {
  const { w, h, open, beside } = hole;
  const n = open.length;
  if (n === 0) return;
  // The membrane of the difference: the guide is added to it in the end.
  const known = (i: number): number => plane[i]! - (guide ? guide[i]! : 0);
  const b = new Float64Array(n);
  const degree = new Float64Array(n);
  let edges = 0;
  for (let k = 0; k < n; k++) {
    const i = open[k]!;
    const x = i % w;
    const inside = [x > 0, x < w - 1, i >= w, i < w * (h - 1)];
    const at = [i - 1, i + 1, i - w, i + w];
    for (let d = 0; d < 4; d++) {
      if (!inside[d]) continue;
      degree[k]!++;
      if (beside[4 * k + d]! >= 0) continue;
      b[k]! += known(at[d]!);
      edges++;
    }
  }
  const u = new Float64Array(n);
  if (edges > 0) solve(u, b, levelsOf(hole, degree), poll);
  for (let k = 0; k < n; k++) plane[open[k]!] = u[k]! + (guide ? guide[open[k]!]! : 0);
}

/** A grid of unknowns: their four neighbours, what they weigh, the diagonal, and the place of each in the next coarser one. */
interface Grid {
  n: number;
  beside: Int32Array;
  weight: Float64Array;
  diagonal: Float64Array;
  up: Int32Array | null;
  /** Scratch: right side, answer, residual. */
  b: Float64Array;
  u: Float64Array;
  r: Float64Array;
}

const gridOf = (n: number, beside: Int32Array, weight: Float64Array, diagonal: Float64Array): Grid => ({
  n,
  beside,
  weight,
  diagonal,
  up: null,
  b: new Float64Array(n),
  u: new Float64Array(n),
  r: new Float64Array(n),
});

/** Unknowns of the coarsest grid, which is swept until it is solved. */
const COARSEST = 24;

const kept = new WeakMap<Hole, Grid[]>();

/** The hole's grid and those of aggregates of 2×2 above it, with the sums of what they hold (Galerkin). */
function levelsOf(hole: Hole, degree: Float64Array): Grid[] {
  const known = kept.get(hole);
  if (known) return known;
  const { w, h, open, beside } = hole;
  const levels = [
    gridOf(
      open.length,
      beside,
      Float64Array.from(beside, (j) => (j >= 0 ? 1 : 0)),
      degree,
    ),
  ];
  let at = { w, h, cells: open };
  for (let fine = levels[0]!; fine.n > COARSEST && (at.w > 1 || at.h > 1);) {
    const [hw, hh] = [(at.w + 1) >> 1, (at.h + 1) >> 1];
    const place = new Int32Array(hw * hh).fill(-1);
    const up = new Int32Array(fine.n);
    const cells: number[] = [];
    for (let k = 0; k < fine.n; k++) {
      const i = at.cells[k]!;
      const cell = (Math.floor(i / at.w) >> 1) * hw + ((i % at.w) >> 1);
      if (place[cell]! < 0) {
        place[cell] = cells.length;
        cells.push(cell);
      }
      up[k] = place[cell]!;
    }
    const n = cells.length;
    const coarse = gridOf(n, new Int32Array(4 * n).fill(-1), new Float64Array(4 * n), new Float64Array(n));
    for (let k = 0; k < fine.n; k++) {
      const c = up[k]!;
      coarse.diagonal[c]! += fine.diagonal[k]!;
      for (let d = 0; d < 4; d++) {
        const j = fine.beside[4 * k + d]!;
        if (j < 0) continue;
        if (up[j] === c) coarse.diagonal[c]! -= fine.weight[4 * k + d]!;
        else {
          coarse.beside[4 * c + d] = up[j]!;
          coarse.weight[4 * c + d]! += fine.weight[4 * k + d]!;
        }
      }
    }
    fine.up = up;
    levels.push(coarse);
    fine = coarse;
    at = { w: hw, h: hh, cells: Int32Array.from(cells) };
  }
  kept.set(hole, levels);
  return levels;
}

/** One unknown after the other set to what its neighbours make of it, forward or back (Gauss and Seidel). */
function sweep({ n, beside, weight, diagonal }: Grid, u: Float64Array, b: Float64Array, back: boolean): void {
  for (let s = 0; s < n; s++) {
    const k = back ? n - 1 - s : s;
    let sum = b[k]!;
    for (let o = 4 * k, end = o + 4; o < end; o++) {
      const j = beside[o]!;
      if (j >= 0) sum += weight[o]! * u[j]!;
    }
    u[k] = sum / diagonal[k]!;
  }
}

function times({ n, beside, weight, diagonal }: Grid, x: Float64Array, out: Float64Array): void {
  for (let k = 0; k < n; k++) {
    let sum = diagonal[k]! * x[k]!;
    for (let o = 4 * k, end = o + 4; o < end; o++) {
      const j = beside[o]!;
      if (j >= 0) sum -= weight[o]! * x[j]!;
    }
    out[k] = sum;
  }
}

/** A W-cycle: u from nothing to about the answer of A·u = b, the same way forward and back so that it may precondition. */
function cycle(levels: readonly Grid[], l: number, u: Float64Array, b: Float64Array): void {
  const grid = levels[l]!;
  u.fill(0);
  const coarse = levels[l + 1];
  if (!coarse) {
    for (let k = 0; k < 12; k++) {
      sweep(grid, u, b, false);
      sweep(grid, u, b, true);
    }
    return;
  }
  sweep(grid, u, b, false);
  for (let again = 0; again < (l === 0 ? 1 : 2); again++) {
    times(grid, u, grid.r);
    coarse.b.fill(0);
    for (let k = 0; k < grid.n; k++) coarse.b[grid.up![k]!]! += b[k]! - grid.r[k]!;
    cycle(levels, l + 1, coarse.u, coarse.b);
    for (let k = 0; k < grid.n; k++) u[k]! += coarse.u[grid.up![k]!]!;
  }
  sweep(grid, u, b, true);
}

/** Conjugate gradients on the first grid; the answer in u. */
function solve(u: Float64Array, b: Float64Array, levels: readonly Grid[], poll?: () => void): void {
  const grid = levels[0]!;
  const { n } = grid;
  const [r, z, p, q] = [Float64Array.from(b), new Float64Array(n), new Float64Array(n), new Float64Array(n)];
  cycle(levels, 0, z, r);
  p.set(z);
  let [rz, right] = [0, 0];
  for (let k = 0; k < n; k++) {
    rz += r[k]! * z[k]!;
    right += b[k]! * b[k]!;
  }
  let left = right;
  for (let step = 0; step < MOST_STEPS && left > ENOUGH * ENOUGH * right; step++) {
    poll?.();
    times(grid, p, q);
    let pq = 0;
    for (let k = 0; k < n; k++) pq += p[k]! * q[k]!;
    if (!(pq > 0)) return;
    const a = rz / pq;
    left = 0;
    let change = 0;
    for (let k = 0; k < n; k++) {
      u[k]! += a * p[k]!;
      const next = r[k]! - a * q[k]!;
      left += next * next;
      r[k] = next;
    }
    cycle(levels, 0, z, r);
    let next = 0;
    for (let k = 0; k < n; k++) {
      next += r[k]! * z[k]!;
      change += a * q[k]! * z[k]!;
    }
    // The cycle is not quite the same from step to step: the flexible form bears that (Notay 2000).
    const beta = -change / rz;
    rz = next;
    for (let k = 0; k < n; k++) p[k] = z[k]! + beta * p[k]!;
  }
}
