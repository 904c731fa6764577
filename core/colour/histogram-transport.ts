/** A map of colours given at the corners of a lattice of SIDE³, in between by three linear interpolations. */
export interface Lattice {
  /** The lowest corner and the width of a cell, a channel. */
  readonly low: readonly [number, number, number];
  readonly step: readonly [number, number, number];
  /** Three values a corner, the first channel fastest. */
  readonly values: Float32Array;
}

const SIDE = 25;
const BINS = 256;
const TURNS = 18;

/** Rotations that look at colours from all sides, the same each time: axes spread evenly by the golden ratio, turned about themselves. */
function rotations(): number[][] {
  return Array.from({ length: TURNS }, (_, i) => {
    if (i === 0) return [1, 0, 0, 0, 1, 0, 0, 0, 1];
    // Angles of a golden spiral on the sphere, and a third by the same ratio.
    const z = 1 - 2 * ((i * 0.6180339887) % 1);
    const phi = i * 2.399963;
    const turn = i * 1.3247;
    const r = Math.sqrt(1 - z * z);
    const a = [r * Math.cos(phi), r * Math.sin(phi), z];
    const far = Math.abs(a[2]!) < 0.9 ? [0, 0, 1] : [1, 0, 0];
    const cross = (u: number[], v: number[]): number[] => [
      u[1]! * v[2]! - u[2]! * v[1]!,
      u[2]! * v[0]! - u[0]! * v[2]!,
      u[0]! * v[1]! - u[1]! * v[0]!,
    ];
    const unit = (v: number[]): number[] => v.map((k) => k / Math.hypot(...v));
    const u = unit(cross(a, far));
    const w = cross(a, u);
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    return [...a, ...u.map((k, j) => c * k + s * w[j]!), ...u.map((k, j) => -s * k + c * w[j]!)];
  });
}

/** A monotone map between two lists of values, by their quantiles: a table over the first one's range, straight on beyond it. */
function matching(from: Float32Array, to: Float32Array): { low: number; step: number; table: Float32Array } {
  const [a, b] = [Float32Array.from(from).sort(), Float32Array.from(to).sort()];
  const low = a[0]!;
  const step = Math.max(1e-6, (a[a.length - 1]! - low) / (BINS - 1));
  const table = new Float32Array(BINS);
  let i = 0;
  for (let k = 0; k < BINS; k++) {
    const v = low + k * step;
    while (i < a.length - 1 && a[i + 1]! <= v) i++;
    // The share of values below, between two of them linearly.
    const gap = i < a.length - 1 ? a[i + 1]! - a[i]! : 0;
    const share = Math.min(1, (i + (gap > 0 ? Math.max(0, v - a[i]!) / gap : 0)) / Math.max(1, a.length - 1));
    const at = share * (b.length - 1);
    const j = Math.min(b.length - 2, Math.floor(at));
    table[k] = b.length > 1 ? b[j]! + (at - j) * (b[j + 1]! - b[j]!) : b[0]!;
  }
  return { low, step, table };
}

function look({ low, step, table }: ReturnType<typeof matching>, v: number): number {
  const at = (v - low) / step;
  if (at <= 0) return table[0]! + (v - low);
  if (at >= BINS - 1) return table[BINS - 1]! + (v - low - step * (BINS - 1));
  const i = Math.floor(at);
  return table[i]! + (at - i) * (table[i + 1]! - table[i]!);
}

/**
 * The map that gives colours of one distribution the whole distribution of another: one axis after the other is matched by its histogram, seen from
 * turn to turn (the iterative transfer of Pitié, Kokaram and Dahyot 2007), and the way of every colour is laid down in a lattice, which also calms
 * it. Three lists of as many values each.
 */
export function histogramTransport(
  from: readonly Float32Array[],
  to: readonly Float32Array[],
  extent: readonly (readonly [number, number])[],
): Lattice {
  const low = extent.map(([a]) => a) as [number, number, number];
  const step = extent.map(([a, b]) => Math.max(1e-6, b - a) / (SIDE - 1)) as [number, number, number];
  // The corners go along with the colours.
  const corners = [0, 1, 2].map((c) =>
    Float32Array.from({ length: SIDE ** 3 }, (_, i) => low[c]! + step[c]! * (Math.floor(i / SIDE ** c) % SIDE)),
  );
  const own = from.map((p) => Float32Array.from(p));
  for (const r of rotations()) {
    const seen = (list: readonly Float32Array[], k: number): Float32Array =>
      list[0]!.map((v, i) => r[3 * k]! * v + r[3 * k + 1]! * list[1]![i]! + r[3 * k + 2]! * list[2]![i]!);
    const moved = [own, corners].map((list) => [0, 1, 2].map((k) => seen(list, k)));
    [0, 1, 2].forEach((k) => {
      const map = matching(moved[0]![k]!, seen(to, k));
      for (const list of moved) list[k]!.forEach((v, i, p) => (p[i] = look(map, v)));
    });
    [own, corners].forEach((list, n) => {
      const [a, b, c] = moved[n]! as [Float32Array, Float32Array, Float32Array];
      list.forEach((p, j) => p.forEach((_, i) => (p[i] = r[j]! * a[i]! + r[3 + j]! * b[i]! + r[6 + j]! * c[i]!)));
    });
  }
  const values = new Float32Array(3 * SIDE ** 3);
  corners.forEach((p, c) => p.forEach((v, i) => (values[3 * i + c] = v)));
  return { low, step, values };
}

/** A colour through a lattice, into `out`; beyond it what its edge is moved by. */
export function throughLattice({ low, step, values }: Lattice, a: number, b: number, c: number, out: Float64Array): void {
  const place = (v: number, k: number): [number, number, number] => {
    const at = Math.min(SIDE - 1, Math.max(0, (v - low[k]!) / step[k]!));
    const i = Math.min(SIDE - 2, Math.floor(at));
    return [i, at - i, v - (low[k]! + at * step[k]!)];
  };
  const [x, u, da] = place(a, 0);
  const [y, v, db] = place(b, 1);
  const [z, w, dc] = place(c, 2);
  const base = 3 * (x + SIDE * (y + SIDE * z));
  const beyond = [da, db, dc];
  for (let k = 0; k < 3; k++) {
    const at = (o: number): number => values[base + 3 * o + k]!;
    const row = (o: number): number => at(o) + u * (at(o + 1) - at(o));
    const sheet = (o: number): number => row(o) + v * (row(o + SIDE) - row(o));
    out[k] = sheet(0) + w * (sheet(SIDE * SIDE) - sheet(0)) + beyond[k]!;
  }
}
