import fitCurve from 'fit-curve';
import { POINT_SIZE } from './shapes';
import { neededPoints } from '../paint/strokes';

type Point = [number, number];

/** Cosine of the turn from which a place is a corner. */
const CORNER = 0.35;
/** How far to both sides a turn is looked at, as a share of the tolerance: a tremble is no corner. */
const ARM = 4;

/**
 * A line drawn by hand (x, y after each other) as few points with tangents, within about `tolerance` px of it: cut at its corners, and each piece
 * fitted by cubic curves (Schneider 1990), which are split where they do not come near enough.
 */
export function freehandPoints(line: readonly number[], tolerance: number, closed: boolean): number[] {
  const drawn: Point[] = [];
  for (let i = 0; i < line.length; i += 2) {
    const [x, y] = [line[i]!, line[i + 1]!];
    const last = drawn.at(-1);
    if (!last || Math.hypot(last[0] - x, last[1] - y) > 1e-3) drawn.push([x, y]);
  }
  // What comes back to where it began has that place once.
  const [first] = drawn;
  if (closed && first && drawn.length > 3) {
    while (drawn.length > 3 && Math.hypot(drawn.at(-1)![0] - first[0], drawn.at(-1)![1] - first[1]) < 2 * tolerance) drawn.pop();
    drawn.push(first);
  }
  if (drawn.length < 2) return [];
  const cuts = cornersOf(drawn, tolerance, closed);
  const pieces = cuts.slice(1).map((to, i) => drawn.slice(cuts[i], to + 1));
  const curves = pieces.flatMap((piece) => fitCurve(calmed(piece), tolerance * tolerance) as Point[][]);
  const out: number[] = [];
  curves.forEach((curve, i) => {
    const [p, q] = [curve[0]!, curve[1]!];
    const before = curves[i - 1] ?? (closed ? curves.at(-1)! : undefined);
    const into = before?.[2] ?? p;
    out.push(p[0], p[1], into[0] - p[0], into[1] - p[1], q[0] - p[0], q[1] - p[1], 0);
  });
  if (!closed && curves.length > 0) {
    const [, , into, end] = curves.at(-1)! as [Point, Point, Point, Point];
    out.push(end[0], end[1], into[0] - end[0], into[1] - end[1], 0, 0, 0);
  }
  if (closed && cuts[0] === 0 && !isCorner(drawn, 0, tolerance, true)) smoothSeam(out);
  return out.length >= POINT_SIZE ? out : [];
}

/** Times that a line is calmed before it is fitted: tangents are taken from neighbours, and a hand trembles. */
const CALM = 4;

/** Each place drawn halfway to the middle of its neighbours, the ends as they are. */
function calmed(line: readonly Point[]): Point[] {
  let out = [...line];
  for (let pass = 0; pass < CALM; pass++) {
    out = out.map((p, i) => {
      const [a, b] = [out[i - 1], out[i + 1]];
      return a && b ? [(a[0] + 2 * p[0] + b[0]) / 4, (a[1] + 2 * p[1] + b[1]) / 4] : p;
    });
  }
  return out;
}

/** Where the line is cut: at its ends, and at its corners. */
function cornersOf(line: readonly Point[], tolerance: number, closed: boolean): number[] {
  const kept = neededPoints(line.flat(), tolerance);
  return [...new Set([0, ...kept.filter((i) => i > 0 && i < line.length - 1 && isCorner(line, i, tolerance, closed)), line.length - 1])];
}

/** Whether the line turns sharply at a place, seen from a little way off on both sides. */
function isCorner(line: readonly Point[], i: number, tolerance: number, closed: boolean): boolean {
  const n = line.length - (closed ? 1 : 0);
  const arm = (step: 1 | -1): Point | null => {
    let k = i;
    for (let hops = 0; hops < n; hops++) {
      k += step;
      if (closed) k = (k + n) % n;
      else if (k < 0 || k >= line.length) return null;
      const [dx, dy] = [line[k]![0] - line[i]![0], line[k]![1] - line[i]![1]];
      if (Math.hypot(dx, dy) >= ARM * tolerance) return [dx, dy];
    }
    return null;
  };
  const [a, b] = [arm(-1), arm(1)];
  if (!a || !b) return false;
  return -(a[0] * b[0] + a[1] * b[1]) / (Math.hypot(...a) * Math.hypot(...b)) < CORNER;
}

/** Where a closed line was begun it goes on as it ended: both tangents get one direction. */
function smoothSeam(points: number[]): void {
  const [ix, iy, ox, oy] = points.slice(2, 6) as [number, number, number, number];
  const [a, b] = [Math.hypot(ix, iy), Math.hypot(ox, oy)];
  if (a < 1e-6 || b < 1e-6) return;
  const [dx, dy] = [ox / b - ix / a, oy / b - iy / a];
  const d = Math.hypot(dx, dy);
  if (d < 0.2) return;
  points.splice(2, 4, (-dx / d) * a, (-dy / d) * a, (dx / d) * b, (dy / d) * b);
}

/** A dense closed outline as so many points with tangents, at even steps of its own points: each leads to its neighbours as the outline does. */
export function outlinePoints(outline: readonly number[], count: number): number[] {
  const n = outline.length / 2;
  const at = (i: number): [number, number] => {
    const k = ((Math.round(i) % n) + n) % n;
    return [outline[2 * k]!, outline[2 * k + 1]!];
  };
  const way = (from: number, to: number): number => {
    let sum = 0;
    for (let i = from; i < to; i++) {
      const [a, b] = [at(i), at(i + 1)];
      sum += Math.hypot(b[0] - a[0], b[1] - a[1]);
    }
    return sum;
  };
  return Array.from({ length: count }, (_, k) => {
    const [before, here, after] = [k - 1, k, k + 1].map((j) => Math.round((j * n) / count)) as [number, number, number];
    const [x, y] = at(here);
    const [p, q] = [at(here - 1), at(here + 1)];
    const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
    const d = Math.hypot(dx, dy) || 1;
    const [a, b] = [way(before, here) / 3 / d, way(here, after) / 3 / d];
    return [x, y, -dx * a, -dy * a, dx * b, dy * b, 0];
  }).flat();
}
