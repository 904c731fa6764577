import { solve } from '../../geometry/solve';
import type { Gray } from '../../readings/gray';
import { halved } from '../../readings/gray';
import type { ChartPattern, Crossing } from '../reading';
import { CHART_PATTERNS } from '../reading';
import type { Candidate } from './candidates';
import { findCandidates, lookAround } from './candidates';
import { orderCandidates } from './lattice';
import { refineCrossing } from './refine';
import { smoothed } from './smooth';

export interface Chart {
  pattern: ChartPattern;
  crossings: Crossing[];
}

/** A board has that many crossings at least. */
const LEAST = 6;
/** Wider pictures are searched at half their size; positions are refined at the full one. */
const WIDE = 1500;
/** Least share of the window that a crossing explains, by how it came: found by itself, or expected between neighbours. */
const EXPLAINED = 0.55;
const EXPECTED = 0.7;
/** Below it a smaller window is tried. */
const CLEAN = 0.9;
/** How far a crossing may lie off where the others have it, as a share of the spacing: among them, and at the board's edge. */
const AMONG = 0.06;
const AT_EDGE = 0.22;

/** The chart in a picture: a checkerboard, or a grid of dark or light lines; null where there is none. Crossings are numbered from 0, 0. */
export function detectChart(gray: Gray, pattern: 'auto' | ChartPattern, poll?: () => void): Chart | null {
  let best: Chart | null = null;
  let most = 0;
  for (const kind of pattern === 'auto' ? CHART_PATTERNS : [pattern]) {
    for (const look of kind === 'checker' ? [gray] : [gray, negative(gray)]) {
      poll?.();
      const { crossings, fit } = boardOf(look, kind, poll);
      const worth = crossings.length * fit;
      if (crossings.length < LEAST || worth <= most) continue;
      best = { pattern: kind, crossings };
      most = worth;
      // A board as clear as this is no accident.
      if (crossings.length >= 30 && fit > 0.85) return best;
    }
  }
  return best;
}

const negative = ({ width, height, data }: Gray): Gray => ({ width, height, data: data.map((v) => 1 - v) });

interface Node {
  column: number;
  row: number;
  x: number;
  y: number;
  axes: readonly [number, number];
  fit: number;
}

/** The crossings, and what share of their windows they explain on the mean. */
function boardOf(gray: Gray, pattern: ChartPattern, poll?: () => void): { crossings: Crossing[]; fit: number } {
  const half = gray.width > WIDE;
  const found = findCandidates(half ? halved(gray) : gray, pattern);
  const candidates: Candidate[] = half ? found.map((c) => ({ ...c, x: 2 * c.x, y: 2 * c.y })) : found;
  const placed = orderCandidates(candidates, pattern);
  if (placed.length < LEAST) return { crossings: [], fit: 0 };
  const nodes = new Map<string, Node>();
  for (const { column, row, candidate } of placed) nodes.set(`${column} ${row}`, { column, row, ...candidate, fit: 0 });
  const seen = smoothed(gray, 0.7);
  // Each by its own window, as large as its neighbours leave room.
  for (const node of nodes.values()) settle(gray, pattern, nodes, node);
  for (const [key, node] of nodes) if (node.fit < EXPLAINED) nodes.delete(key);
  dropAstray(nodes);
  const tried = new Map<string, number>();
  for (let round = 0; round < 40; round++) {
    poll?.();
    if (!grow(gray, seen, pattern, nodes, tried) && !adopt(gray, pattern, nodes, candidates)) break;
  }
  dropAstray(nodes);
  const all = [...nodes.values()];
  return { crossings: numbered(all), fit: all.reduce((s, n) => s + n.fit, 0) / Math.max(1, all.length) };
}

/** The mean distance of a node's neighbours; null where it has none. */
function spacingAt(nodes: ReadonlyMap<string, Node>, { column, row, x, y }: Pick<Node, 'column' | 'row' | 'x' | 'y'>): number | null {
  let least = Infinity;
  for (const [dc, dr] of SIDES) {
    const other = nodes.get(`${column + dc} ${row + dr}`);
    if (other) least = Math.min(least, Math.hypot(other.x - x, other.y - y));
  }
  return Number.isFinite(least) ? least : null;
}
const SIDES = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
] as const;

function settle(gray: Gray, pattern: ChartPattern, nodes: ReadonlyMap<string, Node>, node: Node): void {
  const spacing = spacingAt(nodes, node);
  // As far on one side as on the other: a window that the picture's edge cuts would pull it inward.
  const room = Math.min(node.x, node.y, gray.width - node.x, gray.height - node.y);
  const radius = Math.min(12, Math.max(4, Math.min(room, 0.36 * (spacing ?? 16))));
  let made = refineCrossing(gray, pattern, node, radius);
  if (!made || made.fit < CLEAN) {
    // Something else reaches into the window: a smaller one may be free of it.
    const closer = refineCrossing(gray, pattern, made ? { ...node, ...made } : node, Math.max(3.5, 0.6 * radius));
    if (closer && closer.fit > (made?.fit ?? 0)) made = closer;
  }
  if (!made) return void (node.fit = 0);
  Object.assign(node, { x: made.x, y: made.y, fit: made.fit });
}

/** Where the board says that a place is: a quadratic through the nodes around it, but for itself; null where there are too few. */
function expected(nodes: ReadonlyMap<string, Node>, column: number, row: number, reach = 3): { x: number; y: number } | null {
  const near: Node[] = [];
  for (let r = row - reach; r <= row + reach; r++) {
    for (let c = column - reach; c <= column + reach; c++) {
      const node = c === column && r === row ? undefined : nodes.get(`${c} ${r}`);
      if (node) near.push(node);
    }
  }
  // Two ways of three terms each need nodes that do not lie on two lines.
  const [columns, rows] = [new Set(near.map((n) => n.column)).size, new Set(near.map((n) => n.row)).size];
  if (near.length < 5 || columns < 2 || rows < 2) return null;
  const terms = near.length >= 9 && columns > 2 && rows > 2 ? 6 : 3;
  const a = Array.from({ length: terms }, () => new Float64Array(terms));
  const [bx, by] = [new Float64Array(terms), new Float64Array(terms)];
  for (const n of near) {
    const [u, v] = [n.column - column, n.row - row];
    const weight = 1 / (u * u + v * v);
    const t = [1, u, v, u * u, u * v, v * v];
    for (let i = 0; i < terms; i++) {
      for (let j = 0; j < terms; j++) a[i]![j]! += weight * t[i]! * t[j]!;
      bx[i]! += weight * t[i]! * n.x;
      by[i]! += weight * t[i]! * n.y;
    }
  }
  for (let i = 0; i < terms; i++) a[i]![i]! += 1e-9;
  const x = solve(
    a.map((r) => Float64Array.from(r)),
    bx,
  )[0]!;
  const y = solve(a, by)[0]!;
  return Number.isFinite(x) && Number.isFinite(y) ? { x, y } : null;
}

/** Takes in crossings that the board says must be there, next to those it has and over small gaps. True where some were found. */
function grow(gray: Gray, seen: Gray, pattern: ChartPattern, nodes: Map<string, Node>, tried: Map<string, number>): boolean {
  const open = new Set<string>();
  for (const { column, row } of nodes.values()) {
    for (let r = -2; r <= 2; r++)
      for (let c = -2; c <= 2; c++) if (!nodes.has(`${column + c} ${row + r}`)) open.add(`${column + c} ${row + r}`);
  }
  let found = false;
  for (const key of open) {
    const [column, row] = key.split(' ').map(Number) as [number, number];
    // With no more around it than last time it would be looked for in the same place.
    const around = countAround(nodes, column, row);
    if (tried.get(key) === around) continue;
    tried.set(key, around);
    const at = expected(nodes, column, row) ?? expected(nodes, column, row, 5);
    if (!at || at.x < 1.5 || at.y < 1.5 || at.x > gray.width - 1.5 || at.y > gray.height - 1.5) continue;
    const axes = axesAt(nodes, column, row);
    if (!axes) continue;
    const node: Node = { column, row, ...at, axes, fit: 0 };
    const spacing = spacingAt(nodes, node) ?? 0;
    settle(gray, pattern, nodes, node);
    // It has to be where it was expected, and look like a crossing there and nowhere else.
    if (node.fit < EXPECTED || Math.hypot(node.x - at.x, node.y - at.y) > AT_EDGE * (spacing || 20)) continue;
    if (!edgeOf(gray, node) && !lookAround(seen, node.x, node.y, pattern)) continue;
    nodes.set(key, node);
    found = true;
  }
  return found;
}

/** How far over a gap candidates are taken in, in crossings, and how near to a whole place they have to be. */
const GAP = 4;
const NEAR_PLACE = 0.18;

/**
 * Takes in candidates beyond a wider gap (a sticker, glare): a cubic through the whole board tells which place each would have, and only one that
 * has a whole place, and looks like a crossing, is taken. True where some were.
 */
function adopt(gray: Gray, pattern: ChartPattern, nodes: Map<string, Node>, candidates: readonly Candidate[]): boolean {
  const all = [...nodes.values()];
  if (all.length < 16) return false;
  const [w, h] = [gray.width, gray.height];
  const terms = (x: number, y: number): number[] => {
    const [u, v] = [x / w - 0.5, y / h - 0.5];
    return [1, u, v, u * u, u * v, v * v, u * u * u, u * u * v, u * v * v, v * v * v];
  };
  const a = Array.from({ length: 10 }, () => new Float64Array(10));
  const [bc, br] = [new Float64Array(10), new Float64Array(10)];
  for (const n of all) {
    const t = terms(n.x, n.y);
    for (let i = 0; i < 10; i++) {
      for (let j = 0; j < 10; j++) a[i]![j]! += t[i]! * t[j]!;
      bc[i]! += t[i]! * n.column;
      br[i]! += t[i]! * n.row;
    }
  }
  for (let i = 0; i < 10; i++) a[i]![i]! += 1e-7;
  const [columns, rows] = [bc, br].map((b) =>
    solve(
      a.map((r) => Float64Array.from(r)),
      b,
    ),
  ) as [Float64Array, Float64Array];
  let found = false;
  for (const c of candidates) {
    const t = terms(c.x, c.y);
    const at = [columns, rows].map((k) => t.reduce((s, v, i) => s + v * k[i]!, 0)) as [number, number];
    const [column, row] = at.map(Math.round) as [number, number];
    const key = `${column} ${row}`;
    if (nodes.has(key) || Math.abs(at[0] - column) > NEAR_PLACE || Math.abs(at[1] - row) > NEAR_PLACE) continue;
    const nearest = Math.min(...all.map((n) => Math.max(Math.abs(n.column - column), Math.abs(n.row - row))));
    if (nearest > GAP) continue;
    const node: Node = { column, row, x: c.x, y: c.y, axes: c.axes, fit: 0 };
    settle(gray, pattern, nodes, node);
    if (node.fit < EXPECTED || Math.hypot(node.x - c.x, node.y - c.y) > 2.5) continue;
    nodes.set(key, node);
    found = true;
  }
  return found;
}

function countAround(nodes: ReadonlyMap<string, Node>, column: number, row: number): number {
  let n = 0;
  for (let r = -5; r <= 5; r++) for (let c = -5; c <= 5; c++) if (nodes.has(`${column + c} ${row + r}`)) n++;
  return n;
}

/** Whether a ring around it leaves the picture. */
const edgeOf = ({ width, height }: Gray, { x, y }: Node): boolean => x < 3.5 || y < 3.5 || x > width - 3.5 || y > height - 3.5;

/** The directions of the board's lines at a place: those of the nearest nodes. */
function axesAt(nodes: ReadonlyMap<string, Node>, column: number, row: number): readonly [number, number] | null {
  for (let d = 1; d <= 3; d++) {
    for (let r = -d; r <= d; r++) {
      for (let c = -d; c <= d; c++) {
        const node = nodes.get(`${column + c} ${row + r}`);
        if (node && Math.max(Math.abs(c), Math.abs(r)) === d) return node.axes;
      }
    }
  }
  return null;
}

/** Whether others lie on both sides of it, both ways. */
const isAmong = (nodes: ReadonlyMap<string, Node>, { column, row }: Node): boolean =>
  SIDES.every(([c, r]) => nodes.has(`${column + c} ${row + r}`));

/** Throws out nodes that lie off the smooth board that the others make. */
function dropAstray(nodes: Map<string, Node>): void {
  const off: { key: string; away: number; spacing: number }[] = [];
  for (const [key, node] of nodes) {
    const at = expected(nodes, node.column, node.row, 2);
    const spacing = spacingAt(nodes, node);
    if (!at || !spacing) {
      if (!spacing) nodes.delete(key);
      continue;
    }
    off.push({ key, away: Math.hypot(at.x - node.x, at.y - node.y), spacing });
  }
  const usual = [...off].sort((a, b) => a.away - b.away)[off.length >> 1]?.away ?? 0;
  off.sort((a, b) => b.away / b.spacing - a.away / a.spacing);
  for (const { key, spacing } of off) {
    const node = nodes.get(key)!;
    // Again without those that went before: the neighbours of a wrong one are not to blame.
    const at = expected(nodes, node.column, node.row, 2);
    const limit = isAmong(nodes, node) ? Math.max(AMONG * spacing, 5 * usual) : AT_EDGE * spacing;
    if (at && Math.hypot(at.x - node.x, at.y - node.y) > limit) nodes.delete(key);
  }
}

/** Turned so that columns go to the right and rows down, and counted from 0. */
function numbered(nodes: readonly Node[]): Crossing[] {
  let [cx, cy, rx, ry, n] = [0, 0, 0, 0, 0];
  const byPlace = new Map(nodes.map((v) => [`${v.column} ${v.row}`, v]));
  for (const v of nodes) {
    const [right, below] = [byPlace.get(`${v.column + 1} ${v.row}`), byPlace.get(`${v.column} ${v.row + 1}`)];
    if (!right || !below) continue;
    [cx, cy, rx, ry, n] = [cx + right.x - v.x, cy + right.y - v.y, rx + below.x - v.x, ry + below.y - v.y, n + 1];
  }
  const swap = n > 0 && Math.abs(cx) < Math.abs(rx);
  const [sc, sr] = swap ? [Math.sign(rx) || 1, Math.sign(cy) || 1] : [Math.sign(cx) || 1, Math.sign(ry) || 1];
  const turned = nodes.map((v) => ({ ...v, column: sc * (swap ? v.row : v.column), row: sr * (swap ? v.column : v.row) }));
  const [c0, r0] = [Math.min(...turned.map((v) => v.column)), Math.min(...turned.map((v) => v.row))];
  return turned
    .map(({ column, row, x, y }) => ({ column: column - c0, row: row - r0, x, y, used: true }))
    .sort((a, b) => a.row - b.row || a.column - b.column);
}
