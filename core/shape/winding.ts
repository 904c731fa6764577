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

/** Heights at which edges cross; null where there are too many to be cut at. */
function crossingsOf(edges: readonly Edge[]): number[] | null {
  const found: number[] = [];
  let active: Edge[] = [];
  for (const e of edges) {
    active = active.filter((o) => o.y1 > e.y0);
    const [low, high] = [Math.min(e.x0, e.x1), Math.max(e.x0, e.x1)];
    for (const o of active) {
      if (Math.max(o.x0, o.x1) < low || Math.min(o.x0, o.x1) > high) continue;
      const [from, to] = [Math.max(e.y0, o.y0), Math.min(e.y1, o.y1)];
      if (to <= from) continue;
      const [a, b] = [xAt(e, from) - xAt(o, from), xAt(e, to) - xAt(o, to)];
      // Touching in a shared corner is no crossing.
      if (a * b >= 0 || Math.min(Math.abs(a), Math.abs(b)) < 1e-9) continue;
      found.push(from + (a / (a - b)) * (to - from));
      if (found.length > MOST_CROSSINGS) return null;
    }
    active.push(e);
  }
  return found;
}

/**
 * The edges around what an outline covers by the non-zero winding rule, x0, y0, x1, y1 after each other, for coverEdges. One that
 * does not cross itself is handed on as it is; another is cut into rows between its corners and crossings, in which edges keep their order.
 */
export function coveringEdges(outline: Outline): Float64Array {
  const n = outline.length / OUTLINE_SIZE;
  const edges = edgesOf(outline);
  const crossings = crossingsOf(edges);
  if (crossings?.length === 0) {
    const out = new Float64Array(4 * n);
    for (let i = 0; i < n; i++) {
      const [a, b] = [i * OUTLINE_SIZE, ((i + 1) % n) * OUTLINE_SIZE];
      out.set([outline[a]!, outline[a + 1]!, outline[b]!, outline[b + 1]!], 4 * i);
    }
    return out;
  }
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
