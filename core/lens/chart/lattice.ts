import type { ChartPattern } from '../reading';
import type { Candidate } from './candidates';

/** A candidate with its place on the board. */
export interface Placed {
  column: number;
  row: number;
  candidate: Candidate;
}

interface Link {
  to: number;
  /** Along which axis of the one at its start, and of the one at its end, and which way. */
  axis: 0 | 1;
  sign: 1 | -1;
  distance: number;
}

/** How far a neighbour may lie off the axis, radians. */
const OFF_AXIS = 0.35;

const unit = (a: number): [number, number] => [Math.cos(a), Math.sin(a)];
/** The angle between two axes, 0..π/2. */
const between = (a: number, b: number): number => {
  const d = Math.abs(a - b) % Math.PI;
  return Math.min(d, Math.PI - d);
};

/** For each of the four ways the nearest candidate that may be its neighbour. */
function linksOf(list: readonly Candidate[], index: number, pattern: ChartPattern): (Link | null)[] {
  const from = list[index]!;
  const best: (Link | null)[] = [null, null, null, null];
  const cost = [Infinity, Infinity, Infinity, Infinity];
  const axes = from.axes.map(unit);
  list.forEach((other, to) => {
    if (to === index) return;
    const [dx, dy] = [other.x - from.x, other.y - from.y];
    const distance = Math.hypot(dx, dy);
    if (distance < 5) return;
    for (const axis of [0, 1] as const) {
      const [ax, ay] = axes[axis]!;
      const along = (dx * ax + dy * ay) / distance;
      const off = Math.acos(Math.min(1, Math.abs(along)));
      if (off > OFF_AXIS) continue;
      // It has an axis that points back, and its fields are the other way about.
      const direction = Math.atan2(dy, dx);
      const own = between(other.axes[0], direction) < between(other.axes[1], direction) ? 0 : 1;
      if (between(other.axes[own], direction) > 2 * OFF_AXIS) continue;
      if (pattern === 'checker' && lightAlong(from, axis) === lightAlong(other, own)) continue;
      const way = 2 * axis + (along > 0 ? 0 : 1);
      const price = distance * (1 + 4 * off * off);
      if (price >= cost[way]!) continue;
      cost[way] = price;
      best[way] = { to, axis, sign: along > 0 ? 1 : -1, distance };
    }
  });
  return best;
}

/** Whether the field that lies clockwise of an axis is light: turning the other way round from the second axis. */
const lightAlong = (c: Candidate, axis: 0 | 1): boolean => (axis === 0 ? c.light : !c.light);

/** The largest board among candidates: neighbours that are each other's nearest, counted out from one to the next. */
export function orderCandidates(list: readonly Candidate[], pattern: ChartPattern): Placed[] {
  const links = list.map((_, i) => linksOf(list, i, pattern));
  const mutual = links.map((own, i) => own.map((l) => (l && links[l.to]!.some((b) => b?.to === i) ? l : null)));
  const seen = new Set<number>();
  let best: Placed[] = [];
  for (let start = 0; start < list.length; start++) {
    const lengths = seen.has(start) ? null : evenSteps(mutual[start]!);
    if (!lengths) continue;
    const board = countOut(list, mutual, start, lengths, seen);
    if (board.length > best.length) best = board;
  }
  return best;
}

/** How much longer or shorter than the one before it a step on the board may be. */
const STRETCH = 1.6;

interface Basis {
  column: number;
  row: number;
  /** How long the last step along columns and along rows was, px. */
  lengths: readonly [number, number];
  /** Board steps of each axis. */
  steps: readonly (readonly [number, number])[];
}

/** The length of a step along each axis where both ways are alike; null where a neighbour is missing: it may have been stepped over. */
function evenSteps(links: readonly (Link | null)[]): [number, number] | null {
  const [a, b, c, d] = links.map((l) => l?.distance ?? 0) as [number, number, number, number];
  const even = (p: number, q: number): boolean => p > 0 && q > 0 && Math.max(p, q) < 1.4 * Math.min(p, q);
  return even(a, b) && even(c, d) && Math.max(a, c) < 2.6 * Math.min(a, c) ? [(a + b) / 2, (c + d) / 2] : null;
}

function countOut(
  list: readonly Candidate[],
  links: readonly (Link | null)[][],
  start: number,
  lengths: readonly [number, number],
  seen: Set<number>,
): Placed[] {
  const bases = new Map<number, Basis>([
    [
      start,
      {
        column: 0,
        row: 0,
        lengths,
        steps: [
          [1, 0],
          [0, 1],
        ],
      },
    ],
  ]);
  const taken = new Map<string, number>([['0 0', start]]);
  const queue = [start];
  seen.add(start);
  for (let k = 0; k < queue.length; k++) {
    const from = queue[k]!;
    const { column, row, steps, lengths: known } = bases.get(from)!;
    for (const link of links[from]!) {
      if (!link || bases.has(link.to)) continue;
      const [sc, sr] = steps[link.axis]!;
      const along = sc !== 0 ? 0 : 1;
      const ratio = link.distance / known[along];
      if (ratio > STRETCH || ratio < 1 / STRETCH) continue;
      const place = [column + sc * link.sign, row + sr * link.sign] as const;
      const key = place.join(' ');
      if (taken.has(key)) continue;
      const basis = {
        column: place[0],
        row: place[1],
        lengths: (along === 0 ? [link.distance, known[1]] : [known[0], link.distance]) as [number, number],
        steps: carried(list[from]!, list[link.to]!, steps),
      };
      bases.set(link.to, basis);
      taken.set(key, link.to);
      seen.add(link.to);
      queue.push(link.to);
    }
  }
  return [...bases].map(([i, { column, row }]) => ({ column, row, candidate: list[i]! }));
}

/** The board steps of a neighbour's axes: each is the nearer of the two axes it came from, the same way round. */
function carried(from: Candidate, to: Candidate, steps: Basis['steps']): Basis['steps'] {
  return to.axes.map((angle) => {
    const own = between(from.axes[0], angle) < between(from.axes[1], angle) ? 0 : 1;
    const same = Math.cos(angle - from.axes[own]) > 0 ? 1 : -1;
    return [steps[own]![0] * same, steps[own]![1] * same] as const;
  });
}
