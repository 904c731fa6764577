import type { Mesh } from './mesh';
import { cardMesh } from './shapes';
import type { Lift } from './shapes';
import type { Texture } from './texture';

/** Cells along the longer side of a card whose picture is cut out. */
const CELLS = 128;
/** Coverage at which the cut runs. */
const HALF = 0.5;
const ON_EDGE = 0.3;

/**
 * The part of a card where its picture covers half or more, in the card's own place and size: what throws its shadow. Cut by marching
 * squares (Lorensen and Cline 1987, in the plane), the cut lying where coverage is half along each cell's sides. Null where nothing
 * does, undefined where all of it does: the card itself.
 */
export function cutOut(picture: Texture, aspect: number, bend: number, lift: Lift | undefined): Mesh | null | undefined {
  const [columns, rows] = aspect >= 1 ? [CELLS, Math.ceil(CELLS / aspect)] : [Math.ceil(CELLS * aspect), CELLS];
  const grid = cardMesh(aspect, 1, columns, rows, bend, lift);
  const wide = columns + 1;
  const texel = new Float64Array(4);
  const covered = Float64Array.from({ length: wide * (rows + 1) }, (_, i) => {
    picture.sample((i % wide) / columns, Math.floor(i / wide) / rows, 1 / columns, 0, 0, 1 / rows, texel);
    return texel[3]! - HALF;
  });
  // Along the card's own edge half of each look falls beside it.
  const inner = (i: number): boolean => i % wide > 0 && i % wide < columns && i >= wide && i < wide * rows;
  if (covered.every((c, i) => c > (inner(i) ? 0 : -ON_EDGE))) return undefined;
  const positions: number[] = [];
  const normals: number[] = [];
  const vertices = new Map<number, number>();
  const count = covered.length;
  /** The vertex at a grid point, or at the cut between two. */
  const vertex = (a: number, b = a): number => {
    const [low, high] = [Math.min(a, b), Math.max(a, b)];
    const key = low * count + high;
    const known = vertices.get(key);
    if (known !== undefined) return known;
    const t = low === high ? 0 : covered[low]! / (covered[low]! - covered[high]!);
    for (let k = 0; k < 3; k++) {
      const at = (list: Float32Array): number => list[3 * low + k]! + t * (list[3 * high + k]! - list[3 * low + k]!);
      positions.push(at(grid.positions));
      normals.push(at(grid.normals));
    }
    vertices.set(key, vertices.size);
    return vertices.size - 1;
  };
  const indices: number[] = [];
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++) {
      const i = y * wide + x;
      // Round the cell; counter-clockwise from the front, as the grid's own triangles.
      const corners = [i, i + wide, i + wide + 1, i + 1];
      const outline: number[] = [];
      corners.forEach((c, k) => {
        const next = corners[(k + 1) % 4]!;
        if (covered[c]! >= 0) outline.push(vertex(c));
        if (covered[c]! >= 0 !== covered[next]! >= 0) outline.push(vertex(c, next));
      });
      for (let k = 2; k < outline.length; k++) indices.push(outline[0]!, outline[k - 1]!, outline[k]!);
    }
  if (indices.length === 0) return null;
  return { positions: new Float32Array(positions), normals: new Float32Array(normals), indices: new Uint32Array(indices) };
}
