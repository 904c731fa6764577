import type { Outline } from './outline';
import { OUTLINE_SIZE } from './outline';

/** Crossings beyond which an outline is sampled in thin rows instead of being cut at each. */
const MOST_CROSSINGS = 256;
/** Height of such a row, px; of an outline of thousands of edges, which nobody draws, four times that. */
const THIN = 1 / 16;
const MANY = 1000;

interface Edge {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
  /** 1 down, −1 up. */
  turn: number;
}

function edgesOf(outline: Outline): Edge[] {
  const n = outline.length / OUTLINE_SIZE;
  const edges: Edge[] = [];
  for (let i = 0; i < n; i++) {
    const [a, b] = [i * OUTLINE_SIZE, ((i + 1) % n) * OUTLINE_SIZE];
    const [x0, y0, x1, y1] = [outline[a]!, outline[a + 1]!, outline[b]!, outline[b + 1]!];
    if (y0 < y1) edges.push({ x0, y0, x1, y1, turn: 1 });
    else if (y1 < y0) edges.push({ x0: x1, y0: y1, x1: x0, y1: y0, turn: -1 });
  }
  return edges.sort((a, b) => a.y0 - b.y0);
}

const xAt = (e: Edge, y: number): number => e.x0 + ((y - e.y0) / (e.y1 - e.y0)) * (e.x1 - e.x0);

/** Where the lists of the edges lie that are looked through now: one outline after the other. */
let room = new Float64Array(0);
let counts = new Int32Array(0);

/** Edges of an outline, level ones left out, in order of the whole row in which they begin; the outline's own order within a row. */
class Edges {
  readonly count: number;
  /** Height of such a row, px. */
  readonly row: number;
  /** The upper end, the change of x a row, and the lower end. */
  readonly x: Float64Array;
  readonly top: Float64Array;
  readonly slope: Float64Array;
  readonly bottom: Float64Array;
  readonly left: Float64Array;
  readonly right: Float64Array;
  /** Where each stands in the outline: neighbours there meet in a corner. */
  readonly place: Int32Array;
  /** Room for those that are open while all are gone through. */
  readonly active: Int32Array;

  constructor(outline: Outline) {
    const n = outline.length / OUTLINE_SIZE;
    let [low, high] = [Infinity, -Infinity];
    for (let i = 1; i < outline.length; i += OUTLINE_SIZE) {
      low = Math.min(low, outline[i]!);
      high = Math.max(high, outline[i]!);
    }
    // By counting, since a comparison a pair would cost more than all else.
    const rows = Math.min(65536, Math.max(1, Math.ceil(high - low)));
    const perRow = rows / Math.max(1e-9, high - low);
    if (counts.length < 3 * n + rows + 2) counts = new Int32Array(3 * n + rows + 1024);
    const rowOf = counts.subarray(0, n);
    this.place = counts.subarray(n, 2 * n);
    this.active = counts.subarray(2 * n, 3 * n);
    const starts = counts.subarray(3 * n, 3 * n + rows + 2).fill(0);
    let count = 0;
    for (let i = 0; i < n; i++) {
      const a = outline[i * OUTLINE_SIZE + 1]!;
      const b = outline[(i + 1 === n ? 0 : i + 1) * OUTLINE_SIZE + 1]!;
      rowOf[i] = a === b ? -1 : Math.min(rows, Math.floor((Math.min(a, b) - low) * perRow));
      if (a === b) continue;
      starts[rowOf[i]! + 1]!++;
      count++;
    }
    for (let r = 0; r <= rows; r++) starts[r + 1]! += starts[r]!;
    if (room.length < 6 * count) room = new Float64Array(6 * count + 512);
    let taken = 0;
    const list = () => room.subarray(taken, (taken += count));
    this.count = count;
    this.row = 1 / perRow;
    this.x = list();
    this.top = list();
    this.slope = list();
    this.bottom = list();
    this.left = list();
    this.right = list();
    for (let i = 0; i < n; i++) {
      if (rowOf[i]! < 0) continue;
      const k = starts[rowOf[i]!]!++;
      const a = i * OUTLINE_SIZE;
      const b = (i + 1 === n ? 0 : i + 1) * OUTLINE_SIZE;
      const down = outline[a + 1]! < outline[b + 1]!;
      const u = down ? a : b;
      const v = down ? b : a;
      this.x[k] = outline[u]!;
      this.top[k] = outline[u + 1]!;
      this.bottom[k] = outline[v + 1]!;
      this.slope[k] = (outline[v]! - outline[u]!) / (outline[v + 1]! - outline[u + 1]!);
      this.left[k] = Math.min(outline[u]!, outline[v]!);
      this.right[k] = Math.max(outline[u]!, outline[v]!);
      this.place[k] = i;
    }
  }
}

/** Heights at which the edges of an outline cross, up to a number of them; null where there are more. */
function crossingsOf(outline: Outline): number[] | null {
  const n = outline.length / OUTLINE_SIZE;
  const { count, row, x, top, slope, bottom, left, right, place, active } = new Edges(outline);
  const found: number[] = [];
  let open = 0;
  for (let e = 0; e < count; e++) {
    const [eTop, eBottom, eLeft, eRight, eX, eSlope, ePlace] = [top[e]!, bottom[e]!, left[e]!, right[e]!, x[e]!, slope[e]!, place[e]!];
    let kept = 0;
    for (let j = 0; j < open; j++) {
      const o = active[j]!;
      // Later edges begin no more than a row above this one.
      if (bottom[o]! < eTop - row) continue;
      active[kept++] = o;
      if (right[o]! < eLeft || left[o]! > eRight) continue;
      const from = Math.max(eTop, top[o]!);
      const to = Math.min(eBottom, bottom[o]!);
      if (to <= from) continue;
      const apart = Math.abs(place[o]! - ePlace);
      if (apart === 1 || apart === n - 1) continue;
      const a = eX + (from - eTop) * eSlope - x[o]! - (from - top[o]!) * slope[o]!;
      const b = eX + (to - eTop) * eSlope - x[o]! - (to - top[o]!) * slope[o]!;
      // Touching in a shared corner is no crossing.
      if (a * b >= 0 || Math.min(Math.abs(a), Math.abs(b)) < 1e-9) continue;
      found.push(from + (a / (a - b)) * (to - from));
      if (found.length > MOST_CROSSINGS) return null;
    }
    open = kept;
    active[open++] = e;
  }
  return found;
}

/**
 * The edges around what an outline covers by the non-zero winding rule, x0, y0, x1, y1 after each other, for coverEdges. One that
 * does not cross itself is handed on as it is; another is cut into rows between its corners and crossings, in which edges keep their order.
 */
export function coveringEdges(outline: Outline): Float64Array {
  const n = outline.length / OUTLINE_SIZE;
  const crossings = crossingsOf(outline);
  if (crossings?.length === 0) {
    const out = new Float64Array(4 * n);
    for (let i = 0; i < n; i++) {
      const [a, b] = [i * OUTLINE_SIZE, ((i + 1) % n) * OUTLINE_SIZE];
      out[4 * i] = outline[a]!;
      out[4 * i + 1] = outline[a + 1]!;
      out[4 * i + 2] = outline[b]!;
      out[4 * i + 3] = outline[b + 1]!;
    }
    return out;
  }
  const edges = edgesOf(outline);
  const levels = crossings ? [...edges.flatMap((e) => [e.y0, e.y1]), ...crossings].sort((a, b) => a - b) : thinRows(edges);
  const out: number[] = [];
  let next = 0;
  let active: Edge[] = [];
  for (let i = 1; i < levels.length; i++) {
    const [top, bottom] = [levels[i - 1]!, levels[i]!];
    if (bottom - top < 1e-10) continue;
    const middle = (top + bottom) / 2;
    while (next < edges.length && edges[next]!.y0 < middle) active.push(edges[next++]!);
    active = active.filter((e) => e.y1 > middle);
    const row = active.map((e) => ({ e, x: xAt(e, middle) })).sort((a, b) => a.x - b.x);
    let wound = 0;
    for (const { e } of row) {
      const before = wound;
      wound += e.turn;
      if ((before === 0) === (wound === 0)) continue;
      const [x0, x1] = [xAt(e, top), xAt(e, bottom)];
      if (before === 0) out.push(x0, top, x1, bottom);
      else out.push(x1, bottom, x0, top);
    }
  }
  return Float64Array.from(out);
}

function thinRows(edges: readonly Edge[]): number[] {
  const top = edges[0]!.y0;
  const bottom = edges.reduce((m, e) => Math.max(m, e.y1), top);
  // No more of them than a picture has any use for.
  const step = Math.max(edges.length > MANY ? 4 * THIN : THIN, (bottom - top) / 16384);
  return Array.from({ length: Math.ceil((bottom - top) / step) + 1 }, (_, i) => Math.min(bottom, top + i * step));
}
