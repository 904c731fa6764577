import { solve } from '../geometry/solve';
import type { Gray } from '../readings/gray';
import { sampleAt } from '../readings/gray';

/** Px between places along a line, and how far to each side of it an edge is looked for. */
const EVERY = 4;
const ASIDE = 7;
/** Again, about the curve through what was found. */
const CLOSER = 2.5;
const STEP = 0.25;
/** How far to each side an edge's slope is looked at. */
const SLOPE = 1;
/** Least rise of an edge over two pixels, code values of 0..1. */
const RISE = 0.02;
/** Places farther from a smooth curve through all are another edge's. */
const OFF = 0.6;

/**
 * The edge that a drawn line lies on, at places along it, to a tenth of a pixel: where the picture, averaged a little along the line, rises or
 * falls most across it, always the same way, near a cubic through all. Two numbers a place; empty where there is no edge.
 */
export function followEdge(gray: Gray, drawn: readonly number[]): number[] {
  const places = alongPolyline(drawn);
  if (places.length < 6) return [];
  let offsets: (number | null)[] = [];
  let curve: (t: number) => number = () => 0;
  for (const [round, aside] of [ASIDE, CLOSER, CLOSER].entries()) {
    const rising = risesMost(gray, places, curve, aside);
    offsets = places.map((p, i) => edgeAt(gray, p, curve(i / places.length), aside, rising));
    const fit = cubicThrough(offsets, places.length, round === 0 ? 2 : OFF);
    if (!fit) return [];
    curve = fit;
  }
  const kept = places.flatMap((p, i) => {
    const off = offsets[i];
    return off === null || off === undefined || Math.abs(off - curve(i / places.length)) > OFF ? [] : [p.x + off * p.nx, p.y + off * p.ny];
  });
  return kept.length / 2 >= Math.max(6, places.length / 3) ? kept : [];
}

interface Place {
  x: number;
  y: number;
  nx: number;
  ny: number;
}

function alongPolyline(drawn: readonly number[]): Place[] {
  const out: Place[] = [];
  for (let i = 0; i + 3 < drawn.length; i += 2) {
    const [x0, y0, x1, y1] = drawn.slice(i, i + 4) as [number, number, number, number];
    const long = Math.hypot(x1 - x0, y1 - y0);
    const n = Math.max(1, Math.round(long / EVERY));
    const [nx, ny] = [-(y1 - y0) / (long || 1), (x1 - x0) / (long || 1)];
    for (let k = i === 0 ? 0 : 1; k <= n; k++) out.push({ x: x0 + (k / n) * (x1 - x0), y: y0 + (k / n) * (y1 - y0), nx, ny });
  }
  return out;
}

/** The picture across a line at an offset: the mean of three places along it. */
function across(gray: Gray, p: Place, off: number): number {
  let sum = 0;
  for (let k = -1; k <= 1; k++) sum += sampleAt(gray, p.x + off * p.nx + 1.3 * k * p.ny, p.y + off * p.ny - 1.3 * k * p.nx);
  return sum / 3;
}

const slope = (gray: Gray, p: Place, off: number): number => across(gray, p, off + 1) - across(gray, p, off - 1);

/** Whether the edge along the line is one where the picture rises across it: by the steepest of each place. */
function risesMost(gray: Gray, places: readonly Place[], curve: (t: number) => number, aside: number): boolean {
  let [up, down] = [0, 0];
  places.forEach((p, i) => {
    const middle = curve(i / places.length);
    let [most, least] = [0, 0];
    for (let o = -aside; o <= aside; o += 1) {
      const s = slope(gray, p, middle + o);
      [most, least] = [Math.max(most, s), Math.min(least, s)];
    }
    up += most;
    down -= least;
  });
  return up >= down;
}

/** The offset of the steepest place within reach; the nearer ones are preferred a little. Null where nothing is steep enough. */
function edgeAt(gray: Gray, p: Place, middle: number, aside: number, rising: boolean): number | null {
  const sign = rising ? 1 : -1;
  let best: { off: number; worth: number } | null = null;
  const count = Math.round((2 * aside) / STEP);
  for (let i = 0; i <= count; i++) {
    const off = middle - aside + i * STEP;
    const s = sign * slope(gray, p, off);
    const worth = s * (1 - (0.4 * Math.abs(off - middle)) / aside);
    if (s > RISE && (!best || worth > best.worth)) best = { off, worth };
  }
  if (!best) return null;
  // The middle of the whole slope is less shaken by noise than its steepest place; looked at anew about itself, so that it is not drawn to the guess.
  let at = best.off;
  for (let round = 0; round < 4; round++) {
    let [sum, total] = [0, 0];
    for (let d = -SLOPE; d <= SLOPE; d += 2 * STEP) {
      const s = Math.max(0, sign * slope(gray, p, at + d));
      sum += s * d;
      total += s;
    }
    if (!(total > 0)) return null;
    at += sum / total;
  }
  return Math.abs(at - middle) > aside ? null : at;
}

/** A cubic through offsets along the line, by least squares with those too far off left out, three times over. */
function cubicThrough(offsets: readonly (number | null)[], n: number, limit: number): ((t: number) => number) | null {
  let at: ((t: number) => number) | null = null;
  for (let round = 0; round < 4; round++) {
    const a = Array.from({ length: 4 }, () => new Float64Array(4));
    const b = new Float64Array(4);
    let used = 0;
    offsets.forEach((off, i) => {
      const t = i / n;
      if (off === null || (at && Math.abs(off - at(t)) > Math.max(limit, ASIDE / 2 ** round))) return;
      const terms = [1, t, t * t, t * t * t];
      used++;
      for (let r = 0; r < 4; r++) {
        for (let c = 0; c < 4; c++) a[r]![c]! += terms[r]! * terms[c]!;
        b[r]! += terms[r]! * off;
      }
    });
    if (used < 6) return null;
    for (let r = 0; r < 4; r++) a[r]![r]! += 1e-6;
    const k = solve(a, b);
    if (!k.every(Number.isFinite)) return null;
    at = (t) => k[0]! + t * (k[1]! + t * (k[2]! + t * k[3]!));
  }
  return at;
}

/**
 * How far the places of a line lie from its chord at most, px: what is left of a straight thing's straightness. The chord goes from the middle of the first
 * five places to that of the last five, and each place counts as the middle of three: a stray one at a corner says nothing.
 */
export function bendOf(places: readonly number[]): number {
  const n = places.length / 2;
  if (n < 12) return 0;
  const middle = (first: number, count: number): [number, number] => {
    const at = Array.from({ length: count }, (_, k) => first + k);
    const of = (axis: 0 | 1): number => at.map((k) => places[2 * k + axis]!).sort((a, b) => a - b)[count >> 1]!;
    return [of(0), of(1)];
  };
  const [[x0, y0], [x1, y1]] = [middle(0, 5), middle(n - 5, 5)];
  const long = Math.hypot(x1 - x0, y1 - y0) || 1;
  let most = 0;
  for (let k = 2; k + 3 <= n; k++) {
    const off = [-1, 0, 1].map((d) => ((x1 - x0) * (places[2 * (k + d) + 1]! - y0) - (y1 - y0) * (places[2 * (k + d)]! - x0)) / long);
    most = Math.max(most, Math.abs(off.sort((a, b) => a - b)[1]!));
  }
  return most;
}
