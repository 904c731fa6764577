import { solve } from '../../geometry/solve';
import type { Gray } from '../../readings/gray';
import type { ChartPattern } from '../reading';

export interface Refined {
  x: number;
  y: number;
  /** Share of what is seen in the window that the fitted crossing explains, 0..1. */
  fit: number;
}

const ROUNDS = 12;
const UNKNOWN = 9;
/** No crossing is moved farther than this from where it was looked for, as a share of the window. */
const FARTHEST = 0.6;
/** Deviation of a window below which there is nothing to be seen in it but rounding. */
const FLAT = 1e-4;

/**
 * A crossing to a few hundredths of a pixel: the whole window is explained at once by two soft edges (a product of tanh) or two soft dark lines
 * through a point, over a slope of the light, by Gauss–Newton with damping. All noise of the window is averaged, and neither blur nor
 * the curve of the code values moves it, as both sides of it are alike. Null where nothing of the kind is there.
 */
export function refineCrossing(
  gray: Gray,
  pattern: ChartPattern,
  at: { x: number; y: number; axes: readonly [number, number] },
  radius: number,
): Refined | null {
  const { width: w, height: h, data } = gray;
  const [x0, x1] = [Math.max(0, Math.round(at.x - radius)), Math.min(w, Math.round(at.x + radius))];
  const [y0, y1] = [Math.max(0, Math.round(at.y - radius)), Math.min(h, Math.round(at.y + radius))];
  const n = (x1 - x0) * (y1 - y0);
  if (x1 - x0 < 5 || y1 - y0 < 5) return null;
  let mean = 0;
  for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) mean += data[y * w + x]! / n;
  // x, y, the axes, softness, light, contrast, slopes.
  const p = Float64Array.from([at.x, at.y, at.axes[0], at.axes[1], 1.5, mean, 0, 0, 0]);
  const model = pattern === 'checker' ? checker : grid;
  const row = new Float64Array(UNKNOWN);
  // Contrast of the first guess: what of the window goes along with it.
  p[6] = 1;
  let [along, total] = [0, 0];
  let shapeAt = model(p);
  for (let y = y0; y < y1; y++) {
    for (let x = x0; x < x1; x++) {
      const shape = shapeAt(x + 0.5, y + 0.5, row) - mean;
      along += shape * (data[y * w + x]! - mean);
      total += shape * shape;
    }
  }
  p[6] = total > 0 ? along / total : 0;
  const costOf = (q: Float64Array): number => {
    let sum = 0;
    const at = model(q);
    for (let y = y0; y < y1; y++) {
      for (let x = x0; x < x1; x++) {
        const off = data[y * w + x]! - at(x + 0.5, y + 0.5, row);
        sum += off * off;
      }
    }
    return sum;
  };
  let cost = costOf(p);
  let damping = 1e-3;
  for (let round = 0; round < ROUNDS; round++) {
    const a = Array.from({ length: UNKNOWN }, () => new Float64Array(UNKNOWN));
    const b = new Float64Array(UNKNOWN);
    shapeAt = model(p);
    for (let y = y0; y < y1; y++) {
      for (let x = x0; x < x1; x++) {
        const left = data[y * w + x]! - shapeAt(x + 0.5, y + 0.5, row);
        for (let i = 0; i < UNKNOWN; i++) {
          const r = row[i]!;
          const line = a[i]!;
          b[i]! += r * left;
          for (let j = 0; j <= i; j++) line[j]! += r * row[j]!;
        }
      }
    }
    for (let i = 0; i < UNKNOWN; i++) for (let j = i + 1; j < UNKNOWN; j++) a[i]![j] = a[j]![i]!;
    let better = false;
    for (let tries = 0; tries < 5 && !better; tries++) {
      const damped = a.map((r, i) => Float64Array.from(r, (v, j) => (i === j ? v * (1 + damping) + 1e-9 : v)));
      const step = solve(damped, Float64Array.from(b));
      if (!step.every(Number.isFinite)) return null;
      const next = p.map((v, i) => v + step[i]!);
      next[4] = Math.min(radius, Math.max(0.3, next[4]!));
      const reached = costOf(next);
      if (reached < cost) {
        const moved = Math.hypot(step[0]!, step[1]!);
        p.set(next);
        better = true;
        damping *= 0.3;
        const settled = moved < 5e-4 && cost - reached < 1e-4 * cost;
        cost = reached;
        if (settled) round = ROUNDS;
      } else damping *= 8;
    }
    if (!better) break;
  }
  let spread = 0;
  for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) spread += (data[y * w + x]! - mean) ** 2;
  const [x, y] = [p[0]!, p[1]!];
  if (Math.hypot(x - at.x, y - at.y) > FARTHEST * radius || !(spread > n * FLAT * FLAT)) return null;
  return { x, y, fit: 1 - cost / spread };
}

/** The value at a place; fills the derivatives by the parameters. */
type Shape = (x: number, y: number, row: Float64Array) => number;

const FINE = 256;
const REACH = 5;
const TANH = Float64Array.from({ length: FINE * REACH + 2 }, (_, i) => Math.tanh(i / FINE));
/** tanh from a table, linear between 1/256ths: within 2e-6. */
function tanh(v: number): number {
  const a = (v < 0 ? -v : v) * FINE;
  if (!(a < FINE * REACH)) return v < 0 ? -1 : 1;
  const i = a | 0;
  const t = TANH[i]! + (a - i) * (TANH[i + 1]! - TANH[i]!);
  return v < 0 ? -t : t;
}

/** Two soft edges. */
function checker(p: Float64Array): Shape {
  const [x0, y0, soft, light, k, gx, gy] = [p[0]!, p[1]!, p[4]!, p[5]!, p[6]!, p[7]!, p[8]!];
  const [s1, c1, s2, c2] = [Math.sin(p[2]!), Math.cos(p[2]!), Math.sin(p[3]!), Math.cos(p[3]!)];
  return (x, y, row) => {
    const dx = x - x0;
    const dy = y - y0;
    const d1 = c1 * dy - s1 * dx;
    const d2 = c2 * dy - s2 * dx;
    const t1 = tanh(d1 / soft);
    const t2 = tanh(d2 / soft);
    const e1 = (k * (1 - t1 * t1) * t2) / soft;
    const e2 = (k * (1 - t2 * t2) * t1) / soft;
    row[0] = e1 * s1 + e2 * s2 - gx;
    row[1] = -(e1 * c1 + e2 * c2) - gy;
    row[2] = -e1 * (c1 * dx + s1 * dy);
    row[3] = -e2 * (c2 * dx + s2 * dy);
    row[4] = -(e1 * d1 + e2 * d2) / soft;
    row[5] = 1;
    row[6] = t1 * t2;
    row[7] = dx;
    row[8] = dy;
    return light + k * t1 * t2 + gx * dx + gy * dy;
  };
}

/** Two soft lines that do not add up where they cross. */
function grid(p: Float64Array): Shape {
  const [x0, y0, soft, light, k, gx, gy] = [p[0]!, p[1]!, p[4]!, p[5]!, p[6]!, p[7]!, p[8]!];
  const [s1, c1, s2, c2] = [Math.sin(p[2]!), Math.cos(p[2]!), Math.sin(p[3]!), Math.cos(p[3]!)];
  const width = soft * soft;
  return (x, y, row) => {
    const dx = x - x0;
    const dy = y - y0;
    const d1 = c1 * dy - s1 * dx;
    const d2 = c2 * dy - s2 * dx;
    const g1 = Math.exp(-(d1 * d1) / (2 * width));
    const g2 = Math.exp(-(d2 * d2) / (2 * width));
    // The derivative of 1 − (1 − g1)(1 − g2) along each distance.
    const e1 = (-k * (1 - g2) * g1 * d1) / width;
    const e2 = (-k * (1 - g1) * g2 * d2) / width;
    row[0] = e1 * s1 + e2 * s2 - gx;
    row[1] = -(e1 * c1 + e2 * c2) - gy;
    row[2] = -e1 * (c1 * dx + s1 * dy);
    row[3] = -e2 * (c2 * dx + s2 * dy);
    row[4] = -(e1 * d1 + e2 * d2) / soft;
    row[5] = 1;
    row[6] = 1 - (1 - g1) * (1 - g2);
    row[7] = dx;
    row[8] = dy;
    return light + k * row[6] + gx * dx + gy * dy;
  };
}
