import type { Kernels, Plane } from '@/kernels';
import type { Vec3 } from '../geometry/vec3';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';
import type { Affine3 } from './affine';
import { determinantA3, multiplyA3, normalsA3 } from './affine';
import type { Material, Mesh } from './mesh';
import type { Texture } from './texture';

/** A pinhole camera over pixels: from the world, y up, to its own axes, x right, y down, z ahead. */
export interface View {
  readonly matrix: Affine3;
  /** px */
  readonly focal: number;
  readonly centre: readonly [number, number];
}

/** Where on the picture a place of the world is, px, and how far ahead. */
export function seenBy({ matrix: m, focal, centre }: View, p: Vec3): Vec3 {
  const [x, y, z] = [0, 4, 8].map((r) => m[r]! * p[0] + m[r + 1]! * p[1] + m[r + 2]! * p[2] + m[r + 3]!) as [number, number, number];
  return [centre[0] + (focal * x) / z, centre[1] + (focal * y) / z, z];
}

/** A mesh that stands in the world. */
export interface Drawn {
  readonly mesh: Mesh;
  readonly material: Material;
  readonly matrix: Affine3;
  /** What the object ID says, from 1. */
  readonly id: number;
  /** Hides what lies behind it and shows nothing of itself. */
  readonly holdout?: boolean;
  /** Takes shadows and mirrors, and shows nothing else. */
  readonly catcher?: Catcher;
  /** Throws shadows. */
  readonly casts?: boolean;
  /** Tells its mesh apart from others of as many triangles. */
  readonly shape?: string;
  /** Throws them in the place of its mesh: what of that is there; null where that is nothing. */
  readonly caster?: Mesh | null;
  /** Of its whole coverage. */
  readonly opacity?: number;
  readonly projection?: Projected;
  /** From the world now to where it is a frame later; the same place where absent. */
  readonly toNext?: Affine3;
}

export interface Catcher {
  /** How much of what shadows take away is taken from the picture, 0..1. */
  readonly shadow: number;
  readonly shadowColour: Vec3;
  /** How much it mirrors where it is seen along; by Schlick's law less where it is looked down upon. */
  readonly mirror: number;
}

/** A picture that is thrown onto surfaces from where a camera stood. */
export interface Projected {
  readonly view: View;
  readonly texture: Texture;
  /** Size of the picture, px. */
  readonly width: number;
  readonly height: number;
  /** What stands in its way, from there. */
  readonly seen?: (px: number, py: number, pz: number, nx: number, ny: number, nz: number) => number;
}

/** Nearer than this nothing is drawn, units. */
export const NEAR = 1e-3;

/** Floats a vertex: place in the world, normal, u and v, colour. */
export const STRIDE = 12;

const TRIANGLE = 20;

/** Triangles as they lie on the picture, with what their corners carry. */
export class Screen {
  /** Of vertices, px, and 1 over the distance ahead. */
  x = new Float64Array(1024);
  y = new Float64Array(1024);
  near = new Float64Array(1024);
  attributes = new Float32Array(1024 * STRIDE);
  vertices = 0;
  corners = new Int32Array(1024 * 3);
  surfaces = new Int32Array(1024);
  normals = new Float32Array(1024 * 3);
  records = new Float32Array(1024 * TRIANGLE);
  triangles = 0;
  readonly drawn: Drawn[] = [];
  private readonly camera = { x: new Float64Array(1024), y: new Float64Array(1024), z: new Float64Array(1024) };

  constructor(
    readonly view: View,
    readonly region: Rect,
    /** Only what lies on its outer side is drawn: normal and distance, world. */
    private readonly clip?: readonly [number, number, number, number],
    /** Back faces too. */
    private readonly both = false,
  ) {}

  add(d: Drawn): void {
    const { mesh, material } = d;
    const surface = this.drawn.push(d) - 1;
    const count = mesh.positions.length / 3;
    const from = this.vertices;
    this.roomForVertices(from + count);
    const m = d.matrix;
    const c = multiplyA3(this.view.matrix, m);
    const n = normalsA3(m);
    const { positions: p, normals: pn, uvs, colours } = mesh;
    const { attributes: a, camera } = this;
    for (let i = 0; i < count; i++) {
      const [px, py, pz] = [p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!];
      const v = from + i;
      camera.x[v] = c[0]! * px + c[1]! * py + c[2]! * pz + c[3]!;
      camera.y[v] = c[4]! * px + c[5]! * py + c[6]! * pz + c[7]!;
      camera.z[v] = c[8]! * px + c[9]! * py + c[10]! * pz + c[11]!;
      const at = STRIDE * v;
      a[at] = m[0]! * px + m[1]! * py + m[2]! * pz + m[3]!;
      a[at + 1] = m[4]! * px + m[5]! * py + m[6]! * pz + m[7]!;
      a[at + 2] = m[8]! * px + m[9]! * py + m[10]! * pz + m[11]!;
      const [qx, qy, qz] = [pn[3 * i]!, pn[3 * i + 1]!, pn[3 * i + 2]!];
      const nx = n[0]! * qx + n[1]! * qy + n[2]! * qz;
      const ny = n[3]! * qx + n[4]! * qy + n[5]! * qz;
      const nz = n[6]! * qx + n[7]! * qy + n[8]! * qz;
      const k = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
      a[at + 3] = nx * k;
      a[at + 4] = ny * k;
      a[at + 5] = nz * k;
      a[at + 6] = uvs ? uvs[2 * i]! : 0;
      a[at + 7] = uvs ? uvs[2 * i + 1]! : 0;
      for (let q = 0; q < 4; q++) a[at + 8 + q] = colours ? colours[4 * i + q]! : 1;
    }
    // Cofactors of a mirroring matrix point inward.
    const mirrored = determinantA3(m) < 0;
    if (mirrored) for (let v = from; v < from + count; v++) for (let q = 3; q < 6; q++) a[STRIDE * v + q] = -a[STRIDE * v + q]!;
    this.vertices = from + count;
    for (let v = from; v < from + count; v++) this.project(v);
    const cull = material.doubleSided || this.both ? 0 : mirrored !== determinantA3(this.view.matrix) < 0 ? 1 : -1;
    const { indices } = mesh;
    for (let t = 0; t + 2 < indices.length; t += 3)
      this.clipped(from + indices[t]!, from + indices[t + 1]!, from + indices[t + 2]!, surface, cull);
  }

  private project(v: number): void {
    const { camera, view } = this;
    const w = 1 / camera.z[v]!;
    this.x[v] = view.centre[0] + view.focal * camera.x[v]! * w;
    this.y[v] = view.centre[1] + view.focal * camera.y[v]! * w;
    this.near[v] = w;
  }

  /** Above 0 inside: of the near plane, then of the clipping plane. */
  private side(v: number, plane: number): number {
    if (plane === 0) return this.camera.z[v]! - NEAR;
    const [a, b, c, d] = this.clip!;
    const at = STRIDE * v;
    return a * this.attributes[at]! + b * this.attributes[at + 1]! + c * this.attributes[at + 2]! - d;
  }

  private clipped(a: number, b: number, c: number, surface: number, cull: number): void {
    const { camera } = this;
    if (!this.clip && camera.z[a]! > NEAR && camera.z[b]! > NEAR && camera.z[c]! > NEAR) return this.triangle(a, b, c, surface, cull);
    let polygon = [a, b, c];
    for (let plane = 0; plane < (this.clip ? 2 : 1) && polygon.length > 0; plane++) {
      const next: number[] = [];
      polygon.forEach((v, i) => {
        const w = polygon[(i + 1) % polygon.length]!;
        const [s, t] = [this.side(v, plane), this.side(w, plane)];
        if (s > 0) next.push(v);
        if (s > 0 !== t > 0) next.push(this.between(v, w, s / (s - t)));
      });
      polygon = next;
    }
    for (let k = 1; k + 1 < polygon.length; k++) this.triangle(polygon[0]!, polygon[k]!, polygon[k + 1]!, surface, cull);
  }

  private between(v: number, w: number, t: number): number {
    const made = this.vertices;
    this.roomForVertices(made + 1);
    const { camera, attributes: a } = this;
    for (const axis of [camera.x, camera.y, camera.z]) axis[made] = axis[v]! + t * (axis[w]! - axis[v]!);
    // What was cut at the near plane lies on it, whatever was rounded.
    camera.z[made] = Math.max(camera.z[made]!, NEAR);
    for (let q = 0; q < STRIDE; q++) a[STRIDE * made + q] = a[STRIDE * v + q]! + t * (a[STRIDE * w + q]! - a[STRIDE * v + q]!);
    this.vertices++;
    this.project(made);
    return made;
  }

  protected triangle(a: number, b: number, c: number, surface: number, cull: number): void {
    const { x, y, near, region } = this;
    const [ax, ay, bx, by, cx, cy] = [x[a]!, y[a]!, x[b]!, y[b]!, x[c]!, y[c]!];
    const twice = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (!(Math.abs(twice) > 1e-12) || twice * cull < 0) return;
    const x0 = Math.max(region.x0, Math.floor(Math.min(ax, bx, cx) - 0.5));
    const x1 = Math.min(region.x1, Math.ceil(Math.max(ax, bx, cx) + 0.5));
    const y0 = Math.max(region.y0, Math.floor(Math.min(ay, by, cy) - 0.5));
    const y1 = Math.min(region.y1, Math.ceil(Math.max(ay, by, cy) + 0.5));
    if (x0 >= x1 || y0 >= y1) return;
    const t = this.triangles++;
    this.roomForTriangles(t + 1);
    const r = this.records;
    const at = TRIANGLE * t;
    const sign = twice > 0 ? 1 : -1;
    edge(r, at, ax, ay, bx, by, sign);
    edge(r, at + 3, bx, by, cx, cy, sign);
    edge(r, at + 6, cx, cy, ax, ay, sign);
    // The plane of nearness through its corners.
    const [za, zb, zc] = [near[a]!, near[b]!, near[c]!];
    const slopeX = ((zb - za) * (cy - ay) - (zc - za) * (by - ay)) / twice;
    const slopeY = ((zc - za) * (bx - ax) - (zb - za) * (cx - ax)) / twice;
    r[at + 9] = slopeX;
    r[at + 10] = slopeY;
    r[at + 11] = za - slopeX * ax - slopeY * ay;
    const whole = new Int32Array(r.buffer, 4 * (at + 16), 4);
    whole[0] = x0;
    whole[1] = y0;
    whole[2] = x1;
    whole[3] = y1;
    this.corners[3 * t] = a;
    this.corners[3 * t + 1] = b;
    this.corners[3 * t + 2] = c;
    this.surfaces[t] = surface;
    const p = this.attributes;
    for (let q = 0; q < 3; q++) {
      // Of the corners' normals, so that a rounded surface counts as one.
      this.normals[3 * t + q] = (p[STRIDE * a + 3 + q]! + p[STRIDE * b + 3 + q]! + p[STRIDE * c + 3 + q]!) / 3;
    }
  }

  private roomForVertices(n: number): void {
    if (n <= this.x.length) return;
    const size = Math.max(n, 2 * this.x.length);
    this.x = grown(this.x, size);
    this.y = grown(this.y, size);
    this.near = grown(this.near, size);
    const { camera } = this;
    camera.x = grown(camera.x, size);
    camera.y = grown(camera.y, size);
    camera.z = grown(camera.z, size);
    const more = new Float32Array(size * STRIDE);
    more.set(this.attributes);
    this.attributes = more;
  }

  private roomForTriangles(n: number): void {
    if (n <= this.surfaces.length) return;
    const size = Math.max(n, 2 * this.surfaces.length);
    const wider = <T extends Float32Array | Int32Array>(from: T, stride: number): T => {
      const more = new (from.constructor as new (n: number) => T)(size * stride);
      more.set(from);
      return more;
    };
    this.corners = wider(this.corners, 3);
    this.surfaces = wider(this.surfaces, 1);
    this.normals = wider(this.normals, 3);
    this.records = wider(this.records, TRIANGLE);
  }

  /** The records in the kernels' memory; give them back. */
  stored(kernels: Kernels): { records: Plane; surfaces: Plane; normals: Plane } {
    const n = this.triangles;
    const put = (from: Float32Array | Int32Array, stride: number): Plane => {
      const to = kernels.take(n * stride + 4);
      new Int32Array(to.buffer, to.byteOffset, n * stride).set(new Int32Array(from.buffer, 0, n * stride));
      return to;
    };
    return { records: put(this.records, TRIANGLE), surfaces: put(this.surfaces, 1), normals: put(this.normals, 3) };
  }
}

/** The line from one corner to the next as a, b, c of a·x + b·y + c, px, above 0 inside. The same numbers from both sides, so that no sample falls between neighbours. */
function edge(to: Float32Array, at: number, ax: number, ay: number, bx: number, by: number, sign: number): void {
  const forward = ax < bx || (ax === bx && ay < by);
  const [px, py, qx, qy] = forward ? [ax, ay, bx, by] : [bx, by, ax, ay];
  const [a, b] = [py - qy, qx - px];
  const k = (forward ? sign : -sign) / (Math.sqrt(a * a + b * b) || 1);
  to[at] = a * k;
  to[at + 1] = b * k;
  to[at + 2] = -(a * px + b * py) * k;
}

function grown(from: Float64Array<ArrayBuffer>, size: number): Float64Array<ArrayBuffer> {
  const to = new Float64Array(size);
  to.set(from);
  return to;
}

/** Triangles by the tiles that they touch: starts of each tile's list, and the lists. */
export function binned(
  screen: Screen,
  tile: number,
  wanted: (surface: number) => boolean,
): { starts: Int32Array; list: Int32Array; across: number } {
  const { region, records, triangles, surfaces } = screen;
  const across = Math.ceil(width(region) / tile);
  const down = Math.ceil(height(region) / tile);
  const boxes = new Int32Array(records.buffer);
  const keep = screen.drawn.map((_, i) => wanted(i));
  const starts = new Int32Array(across * down + 1);
  const each = (put: (bin: number, t: number) => void): void => {
    for (let t = 0; t < triangles; t++) {
      if (!keep[surfaces[t]!]) continue;
      const at = TRIANGLE * t + 16;
      const [x0, y0] = [Math.floor((boxes[at]! - region.x0) / tile), Math.floor((boxes[at + 1]! - region.y0) / tile)];
      const [x1, y1] = [Math.floor((boxes[at + 2]! - 1 - region.x0) / tile), Math.floor((boxes[at + 3]! - 1 - region.y0) / tile)];
      for (let y = y0; y <= y1; y++) for (let x = x0; x <= x1; x++) put(y * across + x, t);
    }
  };
  each((bin) => starts[bin + 1]!++);
  for (let i = 0; i < starts.length - 1; i++) starts[i + 1]! += starts[i]!;
  const list = new Int32Array(starts[starts.length - 1]!);
  const next = starts.slice();
  each((bin, t) => (list[next[bin]!++] = t));
  return { starts, list, across };
}
