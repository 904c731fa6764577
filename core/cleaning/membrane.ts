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

/**
 * Fills a hole of a plane smoothly, in place: the membrane ∇²u = 0 inside with the known pixels around it as its edge; the edge of the grid is
 * free. With `guide` it is the seamless cloning of Pérez, Gangnet and Blake 2003: ∇²u = ∇²guide. Conjugate gradients, begun at a pyramid's guess.
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
  const u = edges > 0 ? guess(plane, hole, guide) : new Float64Array(n);
  if (edges > 0) solve(u, b, degree, beside, poll);
  for (let k = 0; k < n; k++) plane[open[k]!] = u[k]! + (guide ? guide[open[k]!]! : 0);
}

/** Conjugate gradients on degree·u − Σ neighbours = b (Jacobi preconditioned); u is where it begins and where the answer lies. */
function solve(u: Float64Array, b: Float64Array, degree: Float64Array, beside: Int32Array, poll?: () => void): void {
  const n = u.length;
  const [r, z, p, q] = [new Float64Array(n), new Float64Array(n), new Float64Array(n), new Float64Array(n)];
  const times = (x: Float64Array, out: Float64Array): void => {
    for (let k = 0, o = 0; k < n; k++, o += 4) {
      let sum = degree[k]! * x[k]!;
      for (let d = 0; d < 4; d++) {
        const j = beside[o + d]!;
        if (j >= 0) sum -= x[j]!;
      }
      out[k] = sum;
    }
  };
  times(u, q);
  let [rz, right] = [0, 0];
  for (let k = 0; k < n; k++) {
    r[k] = b[k]! - q[k]!;
    z[k] = r[k]! / degree[k]!;
    p[k] = z[k]!;
    rz += r[k]! * z[k]!;
    right += (b[k]! * b[k]!) / degree[k]!;
  }
  const enough = ENOUGH * ENOUGH * Math.max(right, 1e-30);
  for (let step = 0; step < 4 * n + 20 && rz > enough; step++) {
    if (step % 32 === 0) poll?.();
    times(p, q);
    let pq = 0;
    for (let k = 0; k < n; k++) pq += p[k]! * q[k]!;
    if (!(pq > 0)) return;
    const a = rz / pq;
    let next = 0;
    for (let k = 0; k < n; k++) {
      u[k]! += a * p[k]!;
      r[k]! -= a * q[k]!;
      z[k] = r[k]! / degree[k]!;
      next += r[k]! * z[k]!;
    }
    const beta = next / rz;
    rz = next;
    for (let k = 0; k < n; k++) p[k] = z[k]! + beta * p[k]!;
  }
}

/** What a pyramid of means says of the hole: near enough that few steps are left. */
function guess(plane: Float32Array, { w, h, open }: Hole, guide?: Float32Array): Float64Array {
  interface Level {
    w: number;
    h: number;
    sum: Float64Array;
    weight: Float64Array;
  }
  const isOpen = new Uint8Array(w * h);
  for (const i of open) isOpen[i] = 1;
  const base: Level = { w, h, sum: new Float64Array(w * h), weight: new Float64Array(w * h) };
  for (let i = 0; i < w * h; i++) {
    if (isOpen[i]) continue;
    base.weight[i] = 1;
    base.sum[i] = plane[i]! - (guide ? guide[i]! : 0);
  }
  const levels = [base];
  for (let at = base; at.w > 1 || at.h > 1;) {
    const [hw, hh] = [(at.w + 1) >> 1, (at.h + 1) >> 1];
    const next: Level = { w: hw, h: hh, sum: new Float64Array(hw * hh), weight: new Float64Array(hw * hh) };
    for (let y = 0; y < at.h; y++) {
      for (let x = 0; x < at.w; x++) {
        const to = (y >> 1) * hw + (x >> 1);
        next.sum[to]! += at.sum[y * at.w + x]!;
        next.weight[to]! += at.weight[y * at.w + x]!;
      }
    }
    levels.push(next);
    at = next;
  }
  for (let l = levels.length - 2; l >= 0; l--) {
    const [fine, coarse] = [levels[l]!, levels[l + 1]!];
    for (let y = 0; y < fine.h; y++) {
      for (let x = 0; x < fine.w; x++) {
        const i = y * fine.w + x;
        if (fine.weight[i]! > 0) continue;
        // Bilinear between the coarse means.
        const [u, v] = [(x - 0.5) / 2, (y - 0.5) / 2];
        const [x0, y0] = [Math.floor(u), Math.floor(v)];
        let [sum, weight] = [0, 0];
        for (let k = 0; k < 4; k++) {
          const [cx, cy] = [Math.min(coarse.w - 1, Math.max(0, x0 + (k & 1))), Math.min(coarse.h - 1, Math.max(0, y0 + (k >> 1)))];
          const share = (k & 1 ? u - x0 : 1 - u + x0) * (k >> 1 ? v - y0 : 1 - v + y0);
          const j = cy * coarse.w + cx;
          if (coarse.weight[j]! === 0) continue;
          sum += (share * coarse.sum[j]!) / coarse.weight[j]!;
          weight += share;
        }
        if (weight === 0) continue;
        fine.sum[i] = sum / weight;
        fine.weight[i] = 1;
      }
    }
  }
  return Float64Array.from(open, (i) => base.sum[i]!);
}
