import type { Vec3 } from '../geometry/vec3';
import type { Texture } from './texture';

/** Triangles. Counter-clockwise seen from outside, y up, as in glTF. */
export interface Mesh {
  /** x, y, z a vertex. */
  readonly positions: Float32Array;
  /** Unit, outward. */
  readonly normals: Float32Array;
  /** u to the right, v down the picture. */
  readonly uvs?: Float32Array;
  /** R, G, B, A, linear and straight. */
  readonly colours?: Float32Array;
  readonly indices: Uint32Array;
}

/** How a surface looks: metal and roughness as in glTF 2.0, all light scene-linear. */
export interface Material {
  readonly name: string;
  readonly base: readonly [number, number, number, number];
  readonly baseMap?: Texture;
  readonly metal: number;
  readonly rough: number;
  /** Green is roughness, blue is metal. */
  readonly metalRoughMap?: Texture;
  readonly normalMap?: Texture;
  readonly normalScale?: number;
  readonly emission: Vec3;
  readonly emissionMap?: Texture;
  /** Red is how open to the surroundings. */
  readonly occlusionMap?: Texture;
  /** What alpha does: nothing, cuts at `cutoff`, or blends. */
  readonly alpha: 'opaque' | 'cut' | 'blend';
  readonly cutoff: number;
  readonly doubleSided: boolean;
  /** Share of a dielectric's mirroring; 1 unless said, 0 is matt through and through. */
  readonly specular?: number;
  /** Shows its base as it is; no light falls on it. */
  readonly unlit?: boolean;
}

export const PLAIN: Material = {
  name: 'plain',
  base: [0.8, 0.8, 0.8, 1],
  metal: 0,
  rough: 0.5,
  emission: [0, 0, 0],
  alpha: 'opaque',
  cutoff: 0.5,
  doubleSided: false,
};

export const trianglesOf = (m: Mesh): number => m.indices.length / 3;

/** A mesh whose triangles do not share vertices, each with its own normal: for models that give none. */
export function flatShaded(mesh: Omit<Mesh, 'normals'>): Mesh {
  const { indices } = mesh;
  const n = indices.length;
  const spread = (from: Float32Array | undefined, size: number): Float32Array | undefined => {
    if (!from) return undefined;
    const to = new Float32Array(n * size);
    for (let i = 0; i < n; i++) for (let k = 0; k < size; k++) to[size * i + k] = from[size * indices[i]! + k]!;
    return to;
  };
  const positions = spread(mesh.positions, 3)!;
  const normals = new Float32Array(3 * n);
  for (let t = 0; t < n; t += 3) {
    const at = (k: number, c: number): number => positions[3 * (t + k) + c]!;
    const [ax, ay, az] = [at(1, 0) - at(0, 0), at(1, 1) - at(0, 1), at(1, 2) - at(0, 2)];
    const [bx, by, bz] = [at(2, 0) - at(0, 0), at(2, 1) - at(0, 1), at(2, 2) - at(0, 2)];
    const [x, y, z] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
    const k = 1 / (Math.sqrt(x * x + y * y + z * z) || 1);
    for (let v = 0; v < 3; v++) normals.set([x * k, y * k, z * k], 3 * (t + v));
  }
  const uvs = spread(mesh.uvs, 2);
  const colours = spread(mesh.colours, 4);
  return { positions, normals, ...(uvs && { uvs }), ...(colours && { colours }), indices: Uint32Array.from({ length: n }, (_, i) => i) };
}

/** The corners of the box around a mesh; null of one without vertices. */
export function boxOf(positions: Float32Array): readonly [Vec3, Vec3] | null {
  if (positions.length < 3) return null;
  const least = [Infinity, Infinity, Infinity];
  const most = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i++) {
    const c = i % 3;
    least[c] = Math.min(least[c]!, positions[i]!);
    most[c] = Math.max(most[c]!, positions[i]!);
  }
  return [least as unknown as Vec3, most as unknown as Vec3];
}
