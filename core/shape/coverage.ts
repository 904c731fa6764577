import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { EMPTY, area, height, intersect, isEmpty, rect, sameRect, union, width } from '../geometry/rect';
import type { Outline } from './outline';
import { OUTLINE_SIZE, flatten } from './outline';
import type { Posed } from './pose';
import { FALLOFFS, OPERATIONS, POINT_SIZE } from './shapes';
import { coveringEdges } from './winding';

/** A shape made ready to be drawn. */
interface Drawn {
  readonly shape: Posed;
  readonly outline: Outline;
  /** Around what it covers, and, of one that is feathered or a line, coarser pieces for distances: x0, y0, x1, y1 and the feather at both ends. */
  readonly edges: Float64Array;
  readonly soft: Float64Array | null;
  /** Where it covers anything. */
  readonly reach: Rect;
}

const drawn = new WeakMap<Posed, Drawn>();
const NONE = new Float64Array();

function drawnOf(shape: Posed): Drawn {
  const known = drawn.get(shape);
  if (known) return known;
  const outline = flatten(shape);
  let [x0, y0, x1, y1, most, least] = [Infinity, Infinity, -Infinity, -Infinity, 0, 0];
  for (let i = 0; i < outline.length; i += OUTLINE_SIZE) {
    const x = outline[i]!;
    const y = outline[i + 1]!;
    const feather = outline[i + 2]!;
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    if (y > y1) y1 = y;
    if (feather > most) most = feather;
    if (feather < least) least = feather;
  }
  // A line is soft over a pixel at its edge.
  const out = shape.closed ? Math.max(0, most) : shape.width / 2 + Math.max(0.5, most);
  const reach = outline.length === 0 ? EMPTY : rect(Math.floor(x0 - out), Math.floor(y0 - out), Math.ceil(x1 + out), Math.ceil(y1 + out));
  const feathered = !shape.closed || most > 0 || least < 0;
  const made = {
    shape,
    outline,
    edges: shape.closed ? coveringEdges(outline) : NONE,
    soft: feathered ? featheredEdges(shape) : null,
    reach,
  };
  drawn.set(shape, made);
  return made;
}

/** Where shapes together can cover anything; null where that is everywhere, since they begin with cutting out of the whole. */
export function reachOfShapes(shapes: readonly Posed[]): Rect | null {
  if (shapes[0]?.operation === 'subtract') return null;
  const adds = shapes.filter((s, i) => i === 0 || s.operation === 'add' || s.operation === 'exclude');
  return adds.reduce<Rect>((all, s) => union(all, drawnOf(s).reach), EMPTY);
}

/** The farthest that a point of a shape goes between two looks at it, px. */
export function farthest(a: readonly Posed[], b: readonly Posed[]): number {
  let most = 0;
  a.forEach((s, i) => {
    const other = b[i]?.points;
    if (!other || other.length !== s.points.length) return;
    for (let k = 0; k < other.length; k += POINT_SIZE)
      most = Math.max(most, Math.hypot(other[k]! - s.points[k]!, other[k + 1]! - s.points[k + 1]!));
  });
  return most;
}

/** How far straight pieces may lie from a curve whose distance is asked for, px: a feather is soft, and costs by the piece. */
const SOFT = 0.25;

/** Pieces with the feather at both ends: six doubles each. */
function featheredEdges(shape: Posed): Float64Array {
  const outline = flatten(shape, SOFT);
  const n = outline.length / OUTLINE_SIZE;
  // A line of one point is a dot.
  const count = shape.closed ? n : Math.max(1, n - 1);
  const out = new Float64Array(6 * count);
  for (let i = 0; i < count; i++) {
    const [a, b] = [i * OUTLINE_SIZE, ((i + 1) % n) * OUTLINE_SIZE];
    out.set([outline[a]!, outline[a + 1]!, outline[b]!, outline[b + 1]!, outline[a + 2]!, outline[b + 2]!], 6 * i);
  }
  return out;
}

/** Rows of a picture, from y0 to before y1. */
type Rows = Pick<Rect, 'y0' | 'y1'>;

/** Works coverage out in the kernels' memory; what it takes there it gives back. */
class Rasteriser {
  private readonly taken: Plane[] = [];
  constructor(private readonly kernels: Kernels) {}

  private take(n: number): Plane {
    const plane = this.kernels.take(n);
    this.taken.push(plane);
    return plane;
  }

  /** Edges of so many doubles, counted from a region's corner; the numbers behind their four positions by a function. Where they lie. */
  private put({ x0, y0 }: Rect, edges: Float64Array, size: number, reach?: (feather: number) => number): number {
    const plane = this.take(2 * edges.length + 2);
    // Planes begin at multiples of 64 bytes.
    const out = new Float64Array(plane.buffer, plane.byteOffset, edges.length);
    for (let i = 0; i < edges.length; i += size) {
      out[i] = edges[i]! - x0;
      out[i + 1] = edges[i + 1]! - y0;
      out[i + 2] = edges[i + 2]! - x0;
      out[i + 3] = edges[i + 3]! - y0;
      for (let k = 4; k < size; k++) out[i + k] = reach!(edges[i + k]!);
    }
    return plane.byteOffset;
  }

  giveAll(): void {
    for (const p of this.taken.splice(0)) this.kernels.give(p);
  }

  /** Coverage of one shape in rows of a part of its reach, 0..1; of one with hard edges its differences, whose sum that is. */
  private one(d: Drawn, part: Rect, rows: Rows): { plane: Plane; summed: boolean } {
    const { fn } = this.kernels;
    const [w, h] = [width(part), height(part)];
    const [top, bottom] = [rows.y0 - part.y0, rows.y1 - part.y0];
    const n = w * (bottom - top);
    const { shape, outline } = d;
    const falloff = FALLOFFS.indexOf(shape.falloff);
    const near = (reach: (f: number) => number, sign: 1 | -1, core: number): Plane => {
      const to = this.take(n).fill(0);
      const soft = d.soft!;
      fn.coverNear(this.put(part, soft, 6, reach), soft.length / 6, to.byteOffset, w, top, bottom, sign, core);
      return to;
    };
    if (!shape.closed) {
      // Half a pixel on both sides of its edge, unless it is feathered.
      const line = near((f) => Math.max(1, f), 1, Math.max(0, shape.width / 2 - 0.5));
      const coverage = this.take(n).fill(0);
      fn.coverFeather(coverage.byteOffset, 0, line.byteOffset, n, falloff);
      return { plane: coverage, summed: true };
    }
    const differences = this.take((w + 2) * (bottom - top)).fill(0);
    fn.coverEdges(this.put(part, d.edges, 4), d.edges.length / 4, differences.byteOffset, w, h, top, bottom);
    let [inward, outward] = [false, false];
    for (let i = 2; d.soft && i < outline.length; i += OUTLINE_SIZE) {
      inward ||= outline[i]! < 0;
      outward ||= outline[i]! > 0;
    }
    if (!inward && !outward) return { plane: differences, summed: false };
    const coverage = this.take(n);
    fn.coverSum(differences.byteOffset, coverage.byteOffset, w, bottom - top);
    const [into, out] = [inward ? near((f) => f, -1, 0).byteOffset : 0, outward ? near((f) => f, 1, 0).byteOffset : 0];
    fn.coverFeather(coverage.byteOffset, into, out, n, falloff);
    return { plane: coverage, summed: true };
  }

  /** Shapes laid together, in order, into rows of a plane of a region: to the bit what they are where all rows are worked out. */
  all(shapes: readonly Posed[], region: Rect, rows: Rows, to: Plane): void {
    const { fn } = this.kernels;
    const w = width(region);
    to.subarray((rows.y0 - region.y0) * w, (rows.y1 - region.y0) * w).fill(shapes[0]?.operation === 'subtract' ? 1 : 0);
    shapes.forEach((shape, i) => {
      const d = drawnOf(shape);
      // With nothing before it, what both cover is the shape.
      const operation = i === 0 && shape.operation === 'intersect' ? 'add' : shape.operation;
      const part = intersect(d.reach, region);
      const seen = { y0: Math.max(part.y0, rows.y0), y1: Math.min(part.y1, rows.y1) };
      const none = isEmpty(part) || seen.y0 >= seen.y1;
      if (operation === 'intersect') this.clearOutside(to, region, rows, none ? null : part);
      if (none) return;
      const { plane, summed } = this.one(d, part, seen);
      const at = to.byteOffset + 4 * ((seen.y0 - region.y0) * w + part.x0 - region.x0);
      const how = OPERATIONS.indexOf(operation);
      if (summed) fn.coverLay(how, plane.byteOffset, at, width(part), seen.y1 - seen.y0, w, shape.opacity);
      else fn.coverSumLay(plane.byteOffset, how, at, width(part), seen.y1 - seen.y0, w, shape.opacity);
      this.giveAll();
    });
  }

  private clearOutside(to: Plane, region: Rect, rows: Rows, part: Rect | null): void {
    const w = width(region);
    for (let y = rows.y0; y < rows.y1; y++) {
      const row = to.subarray((y - region.y0) * w, (y - region.y0 + 1) * w);
      if (!part || y < part.y0 || y >= part.y1) row.fill(0);
      else {
        row.fill(0, 0, part.x0 - region.x0);
        row.fill(0, part.x1 - region.x0);
      }
    }
  }
}

/** A matte that was worked out, for the next one of nearly the same shapes. */
interface Kept {
  readonly shapes: readonly Posed[];
  readonly region: Rect;
  /** Null where nothing tells yet that nearly the same comes again. */
  readonly matte: Float32Array | null;
}

const kept = new WeakMap<Kernels, Kept>();
/** Fewer shapes are worked out as fast as they are copied; of more pixels no second matte is kept. */
const MANY_SHAPES = 8;
const MOST_PIXELS = 1 << 22;

/** The rows in which shapes differ from those of a kept matte. */
function rowsChanged(was: Kept, shapes: readonly Posed[], region: Rect): Rows {
  let rows: Rect = EMPTY;
  shapes.forEach((s, i) => {
    const old = was.shapes[i]!;
    if (s === old) return;
    // The reach of an intersection is all that lies outside of it.
    const all = s.operation === 'intersect' || old.operation === 'intersect' || (i === 0 && s.operation !== old.operation);
    rows = union(rows, all ? region : intersect(region, union(drawnOf(s).reach, drawnOf(old).reach)));
  });
  return rows;
}

/** One look at many shapes: while one of them is dragged, the rows that it is and was in are worked out, the others are as they were. */
function matteOfMany(kernels: Kernels, rasteriser: Rasteriser, shapes: readonly Posed[], region: Rect, to: Plane): void {
  const last = kept.get(kernels);
  const was = last && last.shapes.length === shapes.length && sameRect(last.region, region) ? last : null;
  const again = was !== null && shapes.filter((s, i) => s === was.shapes[i]).length * 2 >= shapes.length;
  const rows = again && was.matte ? rowsChanged(was, shapes, region) : region;
  if (rows !== region) to.set(was!.matte!);
  if (rows.y1 > rows.y0) rasteriser.all(shapes, region, rows, to);
  const matte = again ? (was.matte ?? new Float32Array(to.length)) : null;
  matte?.set(to);
  kept.set(kernels, { shapes, region, matte });
}

/**
 * The matte of shapes over a region, into `to`: exact areas of outlines (signed-area accumulation a row), bands of feather, laid together in
 * order. `looks` are the shapes at the times of a shutter, of which the mean is taken; one look is no motion blur.
 */
export function shapeMatte(kernels: Kernels, looks: readonly (readonly Posed[])[], region: Rect, to: Plane): void {
  const rasteriser = new Rasteriser(kernels);
  const n = area(region);
  try {
    const [first] = looks;
    if (looks.length === 1 && first!.length >= MANY_SHAPES && n <= MOST_PIXELS)
      return matteOfMany(kernels, rasteriser, first!, region, to.subarray(0, n));
    if (looks.length === 1) return rasteriser.all(first!, region, region, to);
    const one = kernels.take(n);
    try {
      to.fill(0);
      for (const look of looks) {
        rasteriser.all(look, region, region, one);
        kernels.fn.addScaled(to.byteOffset, one.byteOffset, to.byteOffset, n, 1 / looks.length);
      }
    } finally {
      kernels.give(one);
    }
  } finally {
    rasteriser.giveAll();
  }
}

/** Where looks at shapes can cover anything; null where that is everywhere. */
export function reachOfLooks(looks: readonly (readonly Posed[])[]): Rect | null {
  let all: Rect = EMPTY;
  for (const look of looks) {
    const one = reachOfShapes(look);
    if (!one) return null;
    all = union(all, one);
  }
  return all;
}
