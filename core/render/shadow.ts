import type { Kernels } from '@/kernels';
import type { Vec3 } from '../geometry/vec3';
import { cross3, dot3, unit3 } from '../geometry/vec3';
import { rect } from '../geometry/rect';
import type { Affine3 } from './affine';
import { pointA3 } from './affine';
import { boxOf } from './mesh';
import type { Drawn } from './screen';
import { NEAR, Screen } from './screen';

/** Texels that a shadow's edge is blurred over at most, each way. */
const WIDEST = 28;
/** Texels a cell of the coarse maps. */
const CELL = 8;

/** Places spread evenly over a disc, x and y in turn. */
const disc = (n: number): Float64Array =>
  Float64Array.from({ length: 2 * n }, (_, k) => {
    const i = k >> 1;
    const a = i * 2.399963229728653;
    return Math.sqrt((i + 0.5) / n) * (k & 1 ? Math.sin(a) : Math.cos(a));
  });
const [FEW, SOME, MANY] = [disc(5), disc(12), disc(24)];
/** Enough looks for a radius in texels. */
const discFor = (radius: number): Float64Array => (radius < 2.5 ? FEW : radius < 8 ? SOME : MANY);

/** Tells how much of a lamp is seen from a place with a normal, 0..1. */
export interface Shadow {
  open(px: number, py: number, pz: number, nx: number, ny: number, nz: number): number;
}

/** Of a lamp that shines to all sides: six maps of a quarter turn each. */
export class ShadowCube implements Shadow {
  private constructor(
    private readonly at: Vec3,
    /** Along x, −x, y, −y, z, −z. */
    private readonly sides: readonly ShadowMap[],
  ) {}

  static of(kernels: Kernels, drawn: readonly Drawn[], at: Vec3, size: number, radius: number): ShadowCube | null {
    const sides = [0, 1, 2].flatMap((axis) =>
      [1, -1].flatMap((sign) => {
        const towards = [0, 1, 2].map((k) => (k === axis ? sign : 0)) as unknown as Vec3;
        return ShadowMap.ofSpot(kernels, drawn, at, towards, 90, size, radius) ?? [];
      }),
    );
    return sides.length === 6 ? new ShadowCube(at, sides) : null;
  }

  open(px: number, py: number, pz: number, nx: number, ny: number, nz: number): number {
    const x = px - this.at[0];
    const y = py - this.at[1];
    const z = pz - this.at[2];
    const [ax, ay, az] = [Math.abs(x), Math.abs(y), Math.abs(z)];
    const side = ax >= ay && ax >= az ? (x > 0 ? 0 : 1) : ay >= az ? (y > 0 ? 2 : 3) : z > 0 ? 4 : 5;
    return this.sides[side]!.open(px, py, pz, nx, ny, nz);
  }
}

/**
 * What a lamp sees: depths on a square map (Williams 1978). Shadows are softened by percentage-closer filtering (Reeves et al. 1987), the wider the farther what throws them is
 * (Fernando 2005).
 */
export class ShadowMap implements Shadow {
  /** The nearest and the farthest in cells and those around them, as far as a narrow shadow's edge reaches and as far as the widest. */
  private readonly wide: Cells;
  private readonly narrow: Cells;
  private readonly cells: number;

  private constructor(
    private readonly matrix: Affine3,
    /** px over z, or px a unit of a sun. */
    private readonly focal: number,
    private readonly size: number,
    private readonly sun: boolean,
    /** Size of the lamp, units, or of a sun the tangent of its angle. */
    private readonly soft: number,
    /** Nearness of the nearest surface: 1/distance, or −distance of a sun; 0 or −Infinity where nothing is. */
    private readonly map: Float32Array,
  ) {
    this.cells = Math.ceil(size / CELL);
    const own = cellsOf(map, size, this.cells);
    this.narrow = spread(own, this.cells, 1);
    this.wide = spread(own, this.cells, Math.ceil(WIDEST / CELL) + 1);
  }

  /** Of a sun: over all that throws shadows. */
  static ofSun(kernels: Kernels, drawn: readonly Drawn[], towards: Vec3, size: number, angle: number): ShadowMap | null {
    const casting = castersOf(drawn);
    const ahead = unit3([-towards[0], -towards[1], -towards[2]]);
    const right = unit3(cross3(ahead, Math.abs(ahead[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]));
    const down = cross3(ahead, right);
    const rows = [right, down, ahead];
    const least = [Infinity, Infinity, Infinity];
    const most = [-Infinity, -Infinity, -Infinity];
    for (const d of casting)
      for (const p of cornersOf(d))
        rows.forEach((r, k) => {
          const v = dot3(r, p);
          least[k] = Math.min(least[k]!, v);
          most[k] = Math.max(most[k]!, v);
        });
    if (casting.length === 0 || least[0] === Infinity) return null;
    const wide = Math.max(most[0]! - least[0]!, most[1]! - least[1]!, 1e-6) * 1.04;
    const focal = (size - 2 * WIDEST) / wide;
    const shift = [0, 1].map((k) => size / 2 - (focal * (least[k]! + most[k]!)) / 2);
    // Straight rays: a camera so far away that its picture is flat would lose digits, so x and y are scaled here and z is kept.
    const matrix: Affine3 = rows.flatMap((r, k) => (k < 2 ? [...r.map((v) => v * focal), shift[k]!] : [...r, -least[2]! + 1]));
    return new ShadowMap(matrix, focal, size, true, Math.tan((angle * Math.PI) / 180), flatMap(kernels, casting, matrix, size));
  }

  /** Of a lamp that looks through a cone, degrees across; `radius` is its own size. */
  static ofSpot(
    kernels: Kernels,
    drawn: readonly Drawn[],
    at: Vec3,
    towards: Vec3,
    cone: number,
    size: number,
    radius: number,
  ): ShadowMap | null {
    const casting = castersOf(drawn);
    if (casting.length === 0) return null;
    const ahead = unit3(towards);
    const right = unit3(cross3(ahead, Math.abs(ahead[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]));
    const down = cross3(ahead, right);
    const matrix: Affine3 = [right, down, ahead].flatMap((r) => [...r, -dot3(r, at)]);
    const focal = (size / 2 - WIDEST) / Math.tan(Math.min(80, cone / 2) * (Math.PI / 180));
    return ShadowMap.seen(kernels, casting, { matrix, focal, centre: [size / 2, size / 2] }, size, radius);
  }

  /** As a camera over a square picture sees it. */
  static seen(
    kernels: Kernels,
    casting: readonly Drawn[],
    view: { matrix: Affine3; focal: number; centre: readonly [number, number] },
    size: number,
    radius: number,
  ): ShadowMap {
    const screen = new Screen(view, rect(0, 0, size, size), undefined, true);
    for (const d of casting) screen.add(d);
    return new ShadowMap(centred(view, size), view.focal, size, false, radius, drawnMap(kernels, screen, size, 0));
  }

  /** How much of the lamp is seen from a place with a normal, 0..1. */
  open(px: number, py: number, pz: number, nx: number, ny: number, nz: number): number {
    const { size, sun, map, matrix: m, focal } = this;
    const ahead = m[8]! * px + m[9]! * py + m[10]! * pz + m[11]!;
    const texel = sun ? 1 / focal : Math.max(ahead, NEAR) / focal;
    // A step off the surface, against its own shadow.
    const k = 1.5 * texel;
    const ox = px + k * nx;
    const oy = py + k * ny;
    const oz = pz + k * nz;
    const z = m[8]! * ox + m[9]! * oy + m[10]! * oz + m[11]!;
    if (!sun && z <= NEAR) return 1;
    let x = m[0]! * ox + m[1]! * oy + m[2]! * oz + m[3]!;
    let y = m[4]! * ox + m[5]! * oy + m[6]! * oz + m[7]!;
    if (!sun) {
      x = size / 2 + (focal * x) / z;
      y = size / 2 + (focal * y) / z;
    }
    if (!(x >= 0 && y >= 0 && x < size && y < size)) return 1;
    // How far a texel's depth may differ on a surface that is seen along.
    const least = sun ? 0.5 * texel - z : 1 / z + (0.5 * texel) / (z * z);
    const cell = ((y / CELL) | 0) * this.cells + ((x / CELL) | 0);
    const nearest = this.wide.nearest[cell]!;
    if (nearest <= least) return 1;
    const reach = Math.min(WIDEST, Math.max(1.5, this.penumbra(z, sun ? -nearest : 1 / nearest, texel)));
    const around = reach < CELL - 1 ? this.narrow : this.wide;
    if (around.nearest[cell]! <= least) return 1;
    if (around.farthest[cell]! > least) return 0;
    // What stands in the way, on the mean.
    let sum = 0;
    let count = 0;
    const looks = discFor(reach / 2);
    for (let i = 0; i < looks.length; i += 2) {
      const u = (x + looks[i]! * reach) | 0;
      const v = (y + looks[i + 1]! * reach) | 0;
      if (u < 0 || v < 0 || u >= size || v >= size) continue;
      const there = map[v * size + u]!;
      if (there > least) {
        sum += sun ? -there : 1 / there;
        count++;
      }
    }
    if (count === 0 && reach > 3) return 1;
    const wide = count === 0 ? 1.2 : Math.min(WIDEST, Math.max(1.2, this.penumbra(z, sum / count, texel)));
    let lit = 0;
    const taps = discFor(wide);
    for (let i = 0; i < taps.length; i += 2) {
      const u = x + taps[i]! * wide - 0.5;
      const v = y + taps[i + 1]! * wide - 0.5;
      if (!(u >= 0 && v >= 0 && u < size - 1 && v < size - 1)) {
        lit++;
        continue;
      }
      const left = u | 0;
      const top = v | 0;
      const fx = u - left;
      const fy = v - top;
      const o = top * size + left;
      if (map[o]! <= least) lit += (1 - fx) * (1 - fy);
      if (map[o + 1]! <= least) lit += fx * (1 - fy);
      if (map[o + size]! <= least) lit += (1 - fx) * fy;
      if (map[o + size + 1]! <= least) lit += fx * fy;
    }
    return (2 * lit) / taps.length;
  }

  /** Texels that the edge of a shadow is blurred over, from the middle. */
  private penumbra(receiver: number, blocker: number, texel: number): number {
    const apart = Math.max(0, receiver - blocker);
    return (this.sun ? apart * this.soft : (apart * this.soft) / Math.max(blocker, NEAR)) / texel;
  }

  /** Of a projection: how much of its camera a place sees, whichever way its surface is turned. */
  seen(px: number, py: number, pz: number, nx: number, ny: number, nz: number): number {
    const m = this.matrix;
    const away = m[8]! * nx + m[9]! * ny + m[10]! * nz > 0 ? -1 : 1;
    return this.open(px, py, pz, away * nx, away * ny, away * nz);
  }
}

/** What throws shadows, as it does. */
const castersOf = (drawn: readonly Drawn[]): Drawn[] =>
  drawn.flatMap((d) => (!d.casts || d.caster === null ? [] : d.caster ? [{ ...d, mesh: d.caster }] : [d]));

interface Cells {
  readonly nearest: Float32Array;
  readonly farthest: Float32Array;
}

function cellsOf(map: Float32Array, size: number, cells: number): Cells {
  const nearest = new Float32Array(cells * cells).fill(-Infinity);
  const farthest = new Float32Array(cells * cells).fill(Infinity);
  for (let y = 0, i = 0; y < size; y++) {
    const row = ((y / CELL) | 0) * cells;
    for (let x = 0; x < size; x++, i++) {
      const c = row + ((x / CELL) | 0);
      const v = map[i]!;
      if (v > nearest[c]!) nearest[c] = v;
      if (v < farthest[c]!) farthest[c] = v;
    }
  }
  return { nearest, farthest };
}

/** The extremes over the cells around, along rows and then columns. */
function spread(from: Cells, cells: number, by: number): Cells {
  const along = (list: Float32Array, stride: number, other: number, sign: number): Float32Array => {
    const to = new Float32Array(list.length);
    for (let j = 0; j < cells; j++)
      for (let i = 0; i < cells; i++) {
        let best = -Infinity;
        for (let k = Math.max(0, i - by); k <= Math.min(cells - 1, i + by); k++)
          best = Math.max(best, sign * list[j * other + k * stride]!);
        to[j * other + i * stride] = sign * best;
      }
    return to;
  };
  const both = (list: Float32Array, sign: number): Float32Array => along(along(list, 1, cells, sign), cells, 1, sign);
  return { nearest: both(from.nearest, 1), farthest: both(from.farthest, -1) };
}

const centred = (view: { matrix: Affine3; focal: number; centre: readonly [number, number] }, size: number): Affine3 => {
  // Its middle in the middle of the map.
  const [dx, dy] = [(view.centre[0] - size / 2) / view.focal, (view.centre[1] - size / 2) / view.focal];
  const m = view.matrix;
  return m.map((v, i) => (i < 4 ? v + dx * m[8 + i]! : i < 8 ? v + dy * m[4 + i]! : v));
};

/** The corners of the box around a mesh, in the world. */
export function cornersOf(d: Pick<Drawn, 'mesh' | 'matrix'>): Vec3[] {
  const box = boxOf(d.mesh.positions);
  if (!box) return [];
  return Array.from({ length: 8 }, (_, k) => pointA3(d.matrix, [box[k & 1]![0], box[(k >> 1) & 1]![1], box[k >> 2]![2]]));
}

function drawnMap(kernels: Kernels, screen: Screen, size: number, empty: number): Float32Array {
  const map = kernels.take(size * size).fill(empty);
  const { records, surfaces, normals } = screen.stored(kernels);
  kernels.fn.rasterDepth(records.byteOffset, screen.triangles, size, size, map.byteOffset);
  const out = new Float32Array(map);
  [map, records, surfaces, normals].forEach((p) => kernels.give(p));
  return out;
}

/** A sun's map: rays side by side, told to the screen as corners that lie 1 ahead; nearness is the distance turned over. */
function flatMap(kernels: Kernels, casting: readonly Drawn[], matrix: Affine3, size: number): Float32Array {
  const screen = new FlatScreen(matrix, size);
  for (const d of casting) screen.add(d);
  return drawnMap(kernels, screen, size, -Infinity);
}

/** A screen without perspective. */
class FlatScreen extends Screen {
  constructor(
    private readonly flat: Affine3,
    size: number,
  ) {
    super({ matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 1], focal: 1, centre: [0, 0] }, rect(0, 0, size, size), undefined, true);
  }

  override add(d: Drawn): void {
    const from = this.vertices;
    const count = d.mesh.positions.length / 3;
    super.add({ ...d, mesh: { ...d.mesh, indices: new Uint32Array(0) } });
    const a = this.attributes;
    for (let v = from; v < from + count; v++) {
      const p = pointA3(this.flat, [a[12 * v]!, a[12 * v + 1]!, a[12 * v + 2]!]);
      this.x[v] = p[0];
      this.y[v] = p[1];
      this.near[v] = -p[2];
    }
    const { indices } = d.mesh;
    for (let t = 0; t + 2 < indices.length; t += 3)
      this.triangle(from + indices[t]!, from + indices[t + 1]!, from + indices[t + 2]!, this.drawn.length - 1, 0);
  }
}
