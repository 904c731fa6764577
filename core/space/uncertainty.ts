import type { Back, Bundle } from './bundle';

/** The inverse of the cameras' normal equations, what takes it to the points, and the variance of what is found, px². */
export interface Uncertainty {
  readonly inverse: Float64Array;
  readonly back: Back;
  readonly variance: number;
}

/**
 * How uncertain the solution is, by the datum that leaves all cameras together where they are (free network adjustment; Triggs et al. 2000, 9). Null where the
 * cameras are not held.
 */
export function uncertaintyOf(bundle: Bundle): Uncertainty | null {
  bundle.cost(true);
  const { matrix, right, back } = bundle.reduced(0, true);
  const { values: s, base } = matrix;
  const { size } = bundle;
  let trace = 0;
  for (let r = 0; r < size; r++) trace += s[base[r]! + r]!;
  const columns = freedomsOf(bundle);
  for (const g of columns) {
    let own = 0;
    for (const v of g) own += v * v;
    const weight = trace / (size * own);
    for (let r = 0; r < size; r++) if (g[r] !== 0) for (let c = 0; c <= r; c++) s[base[r]! + c]! += weight * g[r]! * g[c]!;
  }
  right.fill(0);
  if (!matrix.factorise()) return null;
  const inverse = new Float64Array(size * size);
  for (let r = 0; r < size; r++) {
    const column = inverse.subarray(r * size, (r + 1) * size);
    column[r] = 1;
    matrix.solve(column);
  }
  let [sum, n] = [0, 0];
  for (let i = 0; i < bundle.count; i++) {
    sum += bundle.robust[i]! * (bundle.rest[2 * i]! ** 2 + bundle.rest[2 * i + 1]! ** 2);
    n += bundle.robust[i]! > 0 ? 2 : 0;
  }
  const unknowns = size + bundle.scene.points.length - columns.length;
  return { inverse, back, variance: sum / Math.max(1, n - unknowns) };
}

/**
 * How far what is put at a point would slide over the frames: of each camera the deviation, px, of where it would see the point from where it
 * is seen in truth, less what is the same on all frames.
 */
export function slideOf(bundle: Bundle, point: number, { inverse, back, variance }: Uncertainty): Float64Array {
  const { dc, dg, size, starts, seen, cameras } = bundle;
  const { focal, turning } = bundle.settings;
  const v = back.inverse.subarray(9 * point, 9 * point + 9);
  // By how much the point moves with each parameter of the cameras that see it.
  const moves = new Float64Array(3 * size);
  const add = (at: number, cross: ArrayLike<number>, o: number): void => {
    for (let a = 0; a < 3; a++) for (let b = 0; b < 3; b++) moves[a * size + at]! -= v[3 * a + b]! * cross[o + b]!;
  };
  for (let i = starts[point]!; i < starts[point + 1]!; i++)
    for (let d = 0; d < dc; d++) add(seen.camera[i]! * dc + d, back.cross, (i * dc + d) * 3);
  for (let d = 0; d < dg; d++) add(cameras * dc + d, back.global, (point * dg + d) * 3);
  const rows = new Float64Array(2 * cameras * size);
  const own = new Float64Array(cameras);
  const { poses: m, points, focals } = bundle.scene;
  const [X, Y, Z] = [points[3 * point]!, points[3 * point + 1]!, points[3 * point + 2]!];
  for (let k = 0; k < cameras; k++) {
    const at = 12 * k;
    const p = [0, 1, 2].map((r) => m[at + 4 * r]! * X + m[at + 4 * r + 1]! * Y + m[at + 4 * r + 2]! * Z) as [number, number, number];
    const c = Math.max(1e-6, p[2] + m[at + 11]!);
    const [x, y, f] = [(p[0] + m[at + 3]!) / c, (p[1] + m[at + 7]!) / c, focals[k]!];
    for (let row = 0; row < 2; row++) {
      const [da, db, dz] = row === 0 ? [f / c, 0, (-f * x) / c] : [0, f / c, (-f * y) / c];
      const to = rows.subarray((2 * k + row) * size, (2 * k + row + 1) * size);
      const j = [0, 1, 2].map((a) => da * m[at + a]! + db * m[at + 4 + a]! + dz * m[at + 8 + a]!);
      for (let i = 0; i < size; i++) to[i] = j[0]! * moves[i]! + j[1]! * moves[size + i]! + j[2]! * moves[2 * size + i]!;
      const o = k * dc;
      to[o]! += dz * p[1] - db * p[2];
      to[o + 1]! += da * p[2] - dz * p[0];
      to[o + 2]! += db * p[0] - da * p[1];
      if (!turning) [da, db, dz].forEach((d, a) => (to[o + 3 + a]! += d));
      const along = f * (row === 0 ? x : y);
      if (focal === 'each') to[o + dc - 1]! += along;
      if (focal === 'one') to[cameras * dc]! += along;
    }
  }
  // What all frames have alike is no sliding.
  for (let row = 0; row < 2; row++) {
    for (let i = 0; i < size; i++) {
      let mean = 0;
      for (let k = 0; k < cameras; k++) mean += rows[(2 * k + row) * size + i]! / cameras;
      for (let k = 0; k < cameras; k++) rows[(2 * k + row) * size + i]! -= mean;
    }
  }
  const product = new Float64Array(size);
  for (let k = 0; k < cameras; k++) {
    for (let row = 0; row < 2; row++) {
      const a = rows.subarray((2 * k + row) * size, (2 * k + row + 1) * size);
      product.fill(0);
      for (let r = 0; r < size; r++) {
        const w = a[r]!;
        if (w === 0) continue;
        const from = r * size;
        for (let i = 0; i < size; i++) product[i]! += w * inverse[from + i]!;
      }
      for (let i = 0; i < size; i++) own[k]! += product[i]! * a[i]!;
    }
  }
  return own.map((u) => Math.sqrt(Math.max(0, u) * variance));
}

/** What of the cameras cannot be seen: that the world is turned, moved and scaled with them. */
function freedomsOf(bundle: Bundle): Float64Array[] {
  const { dc, size } = bundle;
  const { poses: m } = bundle.scene;
  const { turning } = bundle.settings;
  return Array.from({ length: turning ? 3 : 7 }, (_, g) => {
    const column = new Float64Array(size);
    for (let k = 0; k < bundle.cameras; k++) {
      for (let a = 0; a < 3; a++) {
        if (g < 3) column[k * dc + a] = -m[12 * k + 4 * a + g]!;
        else if (g < 6) column[k * dc + 3 + a] = -m[12 * k + 4 * a + g - 3]!;
        else column[k * dc + 3 + a] = m[12 * k + 4 * a + 3]!;
      }
    }
    return column;
  });
}
