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

/** Heights at which the edges of an outline cross, up to a number of them; null where there are more. */
function crossingsOf(outline: Outline): number[] | null {
  const n = outline.length / OUTLINE_SIZE;
  // Edges by the whole row in which they begin: by counting, since a comparison a pair would cost more than all else.
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < n; i++) {
    const y = outline[i * OUTLINE_SIZE + 1]!;
    if (y < low) low = y;
    if (y > high) high = y;
  }
  const rows = Math.min(65536, Math.max(1, Math.ceil(high - low)));
  const perRow = rows / Math.max(1e-9, high - low);
  const tops = new Int32Array(n);
  const starts = new Int32Array(rows + 2);
  const next = (i: number): number => (i + 1 === n ? 0 : (i + 1) * OUTLINE_SIZE);
  for (let i = 0; i < n; i++) {
    const y = Math.min(outline[i * OUTLINE_SIZE + 1]!, outline[next(i) + 1]!);
    const row = Math.min(rows, Math.floor((y - low) * perRow));
    tops[i] = row;
    starts[row + 1]!++;
  }
  for (let r = 0; r <= rows; r++) starts[r + 1]! += starts[r]!;
  const order = new Int32Array(n);
  const fill = starts.slice();
  for (let i = 0; i < n; i++) order[fill[tops[i]!]!++] = i;
  const found: number[] = [];
  const active = new Int32Array(n);
  let count = 0;
  for (let k = 0; k < n; k++) {
    const e = order[k]!;
    const [ea, eb] = [e * OUTLINE_SIZE, next(e)];
    const [ex0, ey0, ex1, ey1] = [outline[ea]!, outline[ea + 1]!, outline[eb]!, outline[eb + 1]!];
    const [eTop, eBottom, eLeft, eRight] = [Math.min(ey0, ey1), Math.max(ey0, ey1), Math.min(ex0, ex1), Math.max(ex0, ex1)];
    const begin = low + tops[e]! / perRow;
    let kept = 0;
    for (let j = 0; j < count; j++) {
      const o = active[j]!;
      const [oa, ob] = [o * OUTLINE_SIZE, next(o)];
      const [ox0, oy0, ox1, oy1] = [outline[oa]!, outline[oa + 1]!, outline[ob]!, outline[ob + 1]!];
      if (oy0 < begin && oy1 < begin) continue;
      active[kept++] = o;
      if (oa === eb || ob === ea) continue;
      if ((ox0 < eLeft && ox1 < eLeft) || (ox0 > eRight && ox1 > eRight)) continue;
      const [from, to] = [Math.max(eTop, Math.min(oy0, oy1)), Math.min(eBottom, Math.max(oy0, oy1))];
      if (to <= from || ey0 === ey1 || oy0 === oy1) continue;
      const [es, os] = [(ex1 - ex0) / (ey1 - ey0), (ox1 - ox0) / (oy1 - oy0)];
      const a = ex0 + (from - ey0) * es - ox0 - (from - oy0) * os;
      const b = ex0 + (to - ey0) * es - ox0 - (to - oy0) * os;
      // Touching in a shared corner is no crossing.
      if (a * b >= 0 || Math.min(Math.abs(a), Math.abs(b)) < 1e-9) continue;
      found.push(from + (a / (a - b)) * (to - from));
      if (found.length > MOST_CROSSINGS) return null;
    }
    count = kept;
    active[count++] = e;
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
