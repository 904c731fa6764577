/** How the values that several frames show at one place become one. */
export type Agreement = 'median' | 'mode';

/** A value and how much noise it may have: what differs by less agrees. */
export type Tolerance = (value: number) => number;

/** Steps of the mean shift: it has settled long before. */
const SHIFTS = 6;

/**
 * Several values a channel at one place (`seen` of them in each row of `values`), made one: the median of each channel, or the most agreed value,
 * found by mean shift (Comaniciu and Meer 2002) begun at each value. Returns how many agree with it. `out` gets the three channels.
 */
export function agreeOn(values: readonly Float64Array[], seen: number, how: Agreement, tolerance: Tolerance, out: Float64Array): number {
  if (seen === 0) {
    out.fill(0);
    return 0;
  }
  if (how === 'median') for (let c = 0; c < 3; c++) out[c] = medianOf(values[c]!, seen);
  else modeOf(values, seen, tolerance, out);
  let agree = 0;
  for (let k = 0; k < seen; k++) if (near(values, k, out, tolerance)) agree++;
  return agree;
}

const sorted = new Float64Array(64);

function medianOf(list: Float64Array, n: number): number {
  for (let i = 0; i < n; i++) {
    const v = list[i]!;
    let j = i - 1;
    for (; j >= 0 && sorted[j]! > v; j--) sorted[j + 1] = sorted[j]!;
    sorted[j + 1] = v;
  }
  return n % 2 ? sorted[n >> 1]! : (sorted[(n >> 1) - 1]! + sorted[n >> 1]!) / 2;
}

function near(values: readonly Float64Array[], k: number, at: ArrayLike<number>, tolerance: Tolerance): boolean {
  for (let c = 0; c < 3; c++) if (Math.abs(values[c]![k]! - at[c]!) > tolerance(at[c]!)) return false;
  return true;
}

const point = new Float64Array(3);

function modeOf(values: readonly Float64Array[], seen: number, tolerance: Tolerance, out: Float64Array): void {
  let best = -1;
  for (let start = 0; start < seen; start++) {
    for (let c = 0; c < 3; c++) point[c] = values[c]![start]!;
    let weight = 0;
    for (let step = 0; step < SHIFTS; step++) {
      let [w, r, g, b] = [0, 0, 0, 0];
      for (let k = 0; k < seen; k++) {
        let d = 0;
        for (let c = 0; c < 3; c++) {
          const t = (values[c]![k]! - point[c]!) / tolerance(point[c]!);
          d += t * t;
        }
        const share = Math.exp(-d / 2);
        w += share;
        r += share * values[0]![k]!;
        g += share * values[1]![k]!;
        b += share * values[2]![k]!;
      }
      const moved = Math.abs(r / w - point[0]!) + Math.abs(g / w - point[1]!) + Math.abs(b / w - point[2]!);
      point[0] = r / w;
      point[1] = g / w;
      point[2] = b / w;
      weight = w;
      if (moved < 1e-6) break;
    }
    if (weight <= best) continue;
    best = weight;
    out.set(point);
  }
}
