import { POINT_SIZE } from './shapes';
import { simplifyLine } from '../paint/strokes';

/**
 * A line drawn by hand (x, y after each other) as points with tangents, within about `tolerance` px of it: the points that matter (Douglas and
 * Peucker 1973), smooth through each unless the line turns sharply there (Catmull and Rom's tangents, by the way to each neighbour).
 */
export function freehandPoints(line: readonly number[], tolerance: number, closed: boolean): number[] {
  const kept = simplifyLine(line, tolerance);
  // What comes back to where it began has that place once.
  const last = kept.length - 2;
  if (closed && last > 2 && Math.hypot(kept[0]! - kept[last]!, kept[1]! - kept[last + 1]!) < 2 * tolerance) kept.length = last;
  const n = kept.length / 2;
  const at = (i: number): [number, number] => {
    const k = closed ? (i + n) % n : Math.min(n - 1, Math.max(0, i));
    return [kept[2 * k]!, kept[2 * k + 1]!];
  };
  const out: number[] = [];
  for (let i = 0; i < n; i++) {
    const [p, c, q] = [at(i - 1), at(i), at(i + 1)];
    const [ax, ay, bx, by] = [c[0] - p[0], c[1] - p[1], q[0] - c[0], q[1] - c[1]];
    const [a, b] = [Math.hypot(ax, ay), Math.hypot(bx, by)];
    const turn = a && b ? (ax * bx + ay * by) / (a * b) : 1;
    const point = [c[0], c[1], 0, 0, 0, 0, 0];
    if (turn > 0.35 && a > 0 && b > 0) {
      // The direction between the neighbours', each by the nearness of its neighbour.
      const [dx, dy] = [(ax / a) * b + (bx / b) * a, (ay / a) * b + (by / b) * a];
      const d = Math.hypot(dx, dy) || 1;
      point.splice(2, 4, (-dx / d) * (a / 3), (-dy / d) * (a / 3), (dx / d) * (b / 3), (dy / d) * (b / 3));
    }
    out.push(...point);
  }
  return out.length >= POINT_SIZE ? out : [];
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
