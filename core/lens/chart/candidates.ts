import type { Gray } from '../../readings/gray';
import { sampleAt } from '../../readings/gray';
import type { ChartPattern } from '../reading';
import { smoothed } from './smooth';

/** A place that looks like a crossing. */
export interface Candidate {
  x: number;
  y: number;
  /** Directions of its two edges or lines, radians in 0..π, the first the smaller. */
  axes: readonly [number, number];
  /** Of a checkerboard: whether what lies between the first axis and the second is the lighter. */
  light: boolean;
}

const SIGMA = 2;
/** Radii at which it is looked around, px: the first that shows two clean axes counts. */
const RINGS = [5, 7, 3.5];
const PLACES = 48;
/** Least contrast of a crossing, in code values of 0..1. */
const CONTRAST = 0.03;

/** Places where two edges or lines cross, found by the second derivatives of the smoothed picture and looked at along a ring. */
export function findCandidates(gray: Gray, pattern: ChartPattern): Candidate[] {
  const soft = smoothed(gray, SIGMA);
  const fine = smoothed(gray, 1);
  const { width: w, height: h } = soft;
  const strength = bySecond(soft, pattern === 'checker' ? saddle : pit);
  const least = pattern === 'checker' ? ((0.637 * CONTRAST) / (SIGMA * SIGMA)) ** 2 : (0.5 * CONTRAST) / (SIGMA * SIGMA);
  const found: Candidate[] = [];
  for (let y = 3; y < h - 3; y++) {
    for (let x = 3; x < w - 3; x++) {
      const v = strength[y * w + x]!;
      if (v < least || !isPeak(strength, w, x, y, v)) continue;
      const [px, py] = peakAt(strength, w, x, y);
      const made = lookAround(fine, px, py, pattern);
      if (made) found.push(made);
    }
  }
  return found;
}

/** A strength of each pixel by its second derivatives, 0 at the edges. */
function bySecond({ width: w, height: h, data: d }: Gray, strength: (xx: number, yy: number, xy: number) => number): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 1; y < h - 1; y++) {
    for (let x = 1, i = y * w + 1; x < w - 1; x++, i++) {
      const xx = d[i - 1]! + d[i + 1]! - 2 * d[i]!;
      const yy = d[i - w]! + d[i + w]! - 2 * d[i]!;
      const xy = 0.25 * (d[i + w + 1]! + d[i - w - 1]! - d[i + w - 1]! - d[i - w + 1]!);
      out[i] = Math.max(0, strength(xx, yy, xy));
    }
  }
  return out;
}

/** How much of a saddle it is. */
const saddle = (xx: number, yy: number, xy: number): number => xy * xy - xx * yy;
/** How steeply it rises all around: the smaller of the two curvatures. */
const pit = (xx: number, yy: number, xy: number): number => 0.5 * (xx + yy - Math.sqrt((xx - yy) ** 2 + 4 * xy * xy));

function isPeak(s: Float32Array, w: number, x: number, y: number, v: number): boolean {
  for (let b = -3; b <= 3; b++) {
    for (let a = -3; a <= 3; a++) {
      const other = s[(y + b) * w + x + a]!;
      if (other > v || (other === v && (b < 0 || (b === 0 && a < 0)))) return false;
    }
  }
  return true;
}

/** The top of the parabola through a peak's neighbours, pixel centres at .5. */
function peakAt(s: Float32Array, w: number, x: number, y: number): [number, number] {
  const i = y * w + x;
  const top = (a: number, b: number, c: number): number => {
    const bend = a + c - 2 * b;
    return bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (a - c)) / bend)) : 0;
  };
  return [x + 0.5 + top(s[i - 1]!, s[i]!, s[i + 1]!), y + 0.5 + top(s[i - w]!, s[i]!, s[i + w]!)];
}

/** What a ring around a place shows; null where no two lines cross there. */
export function lookAround(gray: Gray, x: number, y: number, pattern: ChartPattern): Candidate | null {
  for (const radius of RINGS) {
    if (x < radius || y < radius || x > gray.width - radius || y > gray.height - radius) continue;
    const ring = Float64Array.from({ length: PLACES }, (_, i) => {
      const a = (2 * Math.PI * i) / PLACES;
      return sampleAt(gray, x + radius * Math.cos(a), y + radius * Math.sin(a));
    });
    const axes = pattern === 'checker' ? checkerAxes(ring, sampleAt(gray, x, y)) : gridAxes(ring);
    if (axes) return { x, y, ...axes };
  }
  return null;
}

type Axes = Pick<Candidate, 'axes' | 'light'>;

/** Four fields, light and dark in turn, opposite ones alike. */
function checkerAxes(ring: Float64Array, centre: number): Axes | null {
  const middle = ring.reduce((s, v) => s + v, 0) / PLACES;
  // A line that passes through is as dark, or as light, in the middle as where it meets the ring.
  const swing = Math.sqrt(ring.reduce((s, v) => s + (v - middle) ** 2, 0) / PLACES);
  if (Math.abs(centre - middle) > 0.6 * swing) return null;
  const half = PLACES / 2;
  let [even, all] = [0, 0];
  const mean = new Float64Array(half);
  for (let i = 0; i < half; i++) {
    mean[i] = (ring[i]! + ring[i + half]!) / 2 - middle;
    even += 2 * mean[i]! ** 2;
    all += (ring[i]! - middle) ** 2 + (ring[i + half]! - middle) ** 2;
  }
  // What is not the same on the other side: slopes, and what is no crossing.
  if (!(all > PLACES * (CONTRAST / 2) ** 2) || even < 0.7 * all) return null;
  // Of the mean of both sides one turn of half a circle has one light and one dark field.
  const crossings: number[] = [];
  for (let i = 0; i < half; i++) {
    const [a, b] = [mean[i]!, mean[(i + 1) % half]!];
    if (a > 0 !== b > 0) crossings.push((i + a / (a - b)) * ((2 * Math.PI) / PLACES));
  }
  if (crossings.length !== 2) return null;
  const [first, second] = crossings.map((a) => a % Math.PI).sort((a, b) => a - b) as [number, number];
  if (second - first < 0.35 || second - first > Math.PI - 0.35) return null;
  const between = Math.round(((first + second) / 2 / (2 * Math.PI)) * PLACES) % half;
  return { axes: [first, second], light: mean[between]! > 0 };
}

/** Four dark rays, two and two in line. */
function gridAxes(ring: Float64Array): Axes | null {
  const sorted = [...ring].sort((a, b) => a - b);
  const paper = sorted[Math.floor(0.8 * PLACES)]!;
  const line = sorted[1]!;
  if (paper - line < CONTRAST) return null;
  const dark = (i: number): boolean => ring[(i + PLACES) % PLACES]! < (paper + line) / 2;
  const rays: number[] = [];
  for (let i = 0; i < PLACES; i++) {
    if (!dark(i) || dark(i - 1)) continue;
    let [sum, total] = [0, 0];
    for (let k = i; dark(k) && k < i + PLACES; k++) {
      const weight = (paper + line) / 2 - ring[k % PLACES]!;
      sum += k * weight;
      total += weight;
    }
    rays.push(((sum / total) * 2 * Math.PI) / PLACES);
  }
  if (rays.length !== 4) return null;
  const apart = (a: number, b: number): number => Math.abs(Math.atan2(Math.sin(a - b - Math.PI), Math.cos(a - b - Math.PI)));
  if (apart(rays[0]!, rays[2]!) > 0.45 || apart(rays[1]!, rays[3]!) > 0.45) return null;
  const axis = (a: number, b: number): number => {
    const turned = a + 0.5 * Math.atan2(Math.sin(b - a - Math.PI), Math.cos(b - a - Math.PI));
    return ((turned % Math.PI) + Math.PI) % Math.PI;
  };
  const [first, second] = [axis(rays[0]!, rays[2]!), axis(rays[1]!, rays[3]!)].sort((a, b) => a - b) as [number, number];
  return second - first < 0.35 || second - first > Math.PI - 0.35 ? null : { axes: [first, second], light: false };
}
