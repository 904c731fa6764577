import { poseAt, traceFigure } from './figure';

/** Pixels between the places of the grid on which the outline is looked for. */
const STEP = 3;
const [LEFT, TOP, RIGHT, BOTTOM] = [280, 55, 700, 730] as const;
const HALVINGS = 12;
/** Above this row there is nothing but the cap. */
const CAP = 100;
/** Points of an outline, at even distances. */
const POINTS = 720;

type P = readonly [number, number];

/**
 * The keeper's true outline at a frame, cap, face, coat and sleeve without hair, cape and lantern: x and y after each other from the crown on, at
 * even distances, going on below the frame. Marching squares (Lorensen and Cline 1987, in the plane) over what rays meet, each
 * crossing found by halving.
 */
export function trueKeeper(frame: number): number[] {
  const pose = poseAt(frame);
  const inside = (x: number, y: number): boolean => traceFigure(x, y, pose) !== null;
  const [w, h] = [Math.floor((RIGHT - LEFT) / STEP) + 1, Math.floor((BOTTOM - TOP) / STEP) + 1];
  const at = (i: number, j: number): P => [LEFT + i * STEP, TOP + j * STEP];
  const grid = Array.from({ length: w * h }, (_, k) => inside(...at(k % w, Math.floor(k / w))));
  /** Where the outline passes between two neighbours of the grid, the first inside. */
  const between = (a: P, b: P): P => {
    let [from, to] = [a, b];
    for (let k = 0; k < HALVINGS; k++) {
      const middle: P = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];
      if (inside(...middle)) from = middle;
      else to = middle;
    }
    return from;
  };
  // Each cell's pieces, by the edge that they begin at: an edge is two places of the grid.
  const next = new Map<string, { to: string; point: P }>();
  const key = (i: number, j: number, k: number, l: number): string => (i < k || j < l ? `${i} ${j} ${k} ${l}` : `${k} ${l} ${i} ${j}`);
  for (let j = 0; j + 1 < h; j++) {
    for (let i = 0; i + 1 < w; i++) {
      const corners = [
        [i, j],
        [i + 1, j],
        [i + 1, j + 1],
        [i, j + 1],
      ] as const;
      const ins = corners.map(([a, b]) => grid[b * w + a]!);
      const crossed = corners.flatMap((c, k) => {
        const d = corners[(k + 1) % 4]!;
        if (ins[k] === ins[(k + 1) % 4]) return [];
        const point = ins[k] ? between(at(...c), at(...d)) : between(at(...d), at(...c));
        return [{ key: key(...c, ...d), point, leaves: ins[k]! }];
      });
      // Around a cell the next crossing comes back in: between the two lies what is outside.
      crossed.forEach(({ key: from, point, leaves }, k) => {
        if (leaves) next.set(from, { to: crossed[(k + 1) % crossed.length]!.key, point });
      });
    }
  }
  const outline = longestRing(next);
  // The same place of the cap on every frame: right above the body's middle.
  const off = ([x, y]: P): number => (y < CAP ? Math.abs(x - pose.x) : Infinity);
  const crown = outline.reduce((best, p, i) => (off(p) < off(outline[best]!) ? i : best), 0);
  return evenly([...outline.slice(crown), ...outline.slice(0, crown)], POINTS).flat();
}

function longestRing(next: Map<string, { to: string; point: P }>): P[] {
  let best: P[] = [];
  while (next.size > 0) {
    const ring: P[] = [];
    for (let at = next.keys().next().value; at !== undefined && next.has(at);) {
      const piece = next.get(at)!;
      next.delete(at);
      ring.push(piece.point);
      at = piece.to;
    }
    if (ring.length > best.length) best = ring;
  }
  return best;
}

/** Points of a closed line at even distances along it, the first where it begins. */
function evenly(line: readonly P[], count: number): P[] {
  const way = [0];
  for (let i = 0; i < line.length; i++) {
    const [a, b] = [line[i]!, line[(i + 1) % line.length]!];
    way.push(way[i]! + Math.hypot(b[0] - a[0], b[1] - a[1]));
  }
  const total = way[line.length]!;
  let k = 0;
  return Array.from({ length: count }, (_, i) => {
    const s = (i * total) / count;
    while (way[k + 1]! < s) k++;
    const t = (s - way[k]!) / (way[k + 1]! - way[k]! || 1);
    const [a, b] = [line[k]!, line[(k + 1) % line.length]!];
    return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
  });
}
