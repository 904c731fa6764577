import type { Mesh } from './mesh';
import { flatShaded } from './mesh';

/** How far a grid's point lies from its flat place, by its u and v; along its normal. */
export type Lift = (u: number, v: number) => number;

/**
 * A card around the origin that faces +z, `width` × `height`, in columns and rows. Bent by an angle, degrees, about its upright: its width becomes an arc, its edges come forward. Lifted along
 * its normals where said; the normals follow.
 */
export function cardMesh(width: number, height: number, columns: number, rows: number, bend = 0, lift?: Lift): Mesh {
  const n = (columns + 1) * (rows + 1);
  const positions = new Float32Array(3 * n);
  const normals = new Float32Array(3 * n);
  const uvs = new Float32Array(2 * n);
  const angle = (bend * Math.PI) / 180;
  const radius = Math.abs(angle) > 1e-6 ? width / angle : Infinity;
  for (let j = 0, i = 0; j <= rows; j++) {
    for (let k = 0; k <= columns; k++, i++) {
      const [u, v] = [k / columns, j / rows];
      const a = angle * (u - 0.5);
      const [nx, nz] = [-Math.sin(a), Math.cos(a)];
      const up = lift?.(u, v) ?? 0;
      const [x, z] = radius === Infinity ? [width * (u - 0.5), 0] : [radius * Math.sin(a), radius * (1 - Math.cos(a))];
      positions.set([x + up * nx, height * (0.5 - v), z + up * nz], 3 * i);
      normals.set([nx, 0, nz], 3 * i);
      uvs.set([u, v], 2 * i);
    }
  }
  const indices = gridIndices(columns, rows);
  return { positions, normals: lift ? smoothNormals(positions, indices) : normals, uvs, indices };
}

function gridIndices(columns: number, rows: number): Uint32Array {
  const indices = new Uint32Array(6 * columns * rows);
  for (let j = 0, i = 0; j < rows; j++) {
    for (let k = 0; k < columns; k++, i += 6) {
      const a = j * (columns + 1) + k;
      const c = a + columns + 1;
      indices.set([a, c, a + 1, a + 1, c, c + 1], i);
    }
  }
  return indices;
}

/** Normals at vertices: the mean of the triangles around, by their area. */
function smoothNormals(positions: Float32Array, indices: Uint32Array): Float32Array {
  const out = new Float32Array(positions.length);
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [3 * indices[t]!, 3 * indices[t + 1]!, 3 * indices[t + 2]!];
    const e = (k: number, from: number): number => positions[k]! - positions[from]!;
    const [ax, ay, az] = [e(b, a), e(b + 1, a + 1), e(b + 2, a + 2)];
    const [bx, by, bz] = [e(c, a), e(c + 1, a + 1), e(c + 2, a + 2)];
    const [x, y, z] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
    for (const v of [a, b, c]) {
      out[v] = out[v]! + x;
      out[v + 1] = out[v + 1]! + y;
      out[v + 2] = out[v + 2]! + z;
    }
  }
  for (let i = 0; i < out.length; i += 3) {
    const k = 1 / (Math.sqrt(out[i]! ** 2 + out[i + 1]! ** 2 + out[i + 2]! ** 2) || 1);
    out[i] = out[i]! * k;
    out[i + 1] = out[i + 1]! * k;
    out[i + 2] = out[i + 2]! * k;
  }
  return out;
}

/** A ball of radius ½ with a latitude–longitude picture on it: its middle column ahead, at −z. Seen from inside where said: then the picture reads the right way about there. */
export function ballMesh(inward = false, columns = 96, rows = 48): Mesh {
  const n = (columns + 1) * (rows + 1);
  const positions = new Float32Array(3 * n);
  const normals = new Float32Array(3 * n);
  const uvs = new Float32Array(2 * n);
  const sign = inward ? -1 : 1;
  for (let j = 0, i = 0; j <= rows; j++) {
    const polar = (Math.PI * j) / rows;
    for (let k = 0; k <= columns; k++, i++) {
      const round = 2 * Math.PI * (k / columns - 0.5);
      const [x, y, z] = [Math.sin(polar) * Math.sin(round), Math.cos(polar), -Math.sin(polar) * Math.cos(round)];
      positions.set([x / 2, y / 2, z / 2], 3 * i);
      normals.set([sign * x, sign * y, sign * z], 3 * i);
      uvs.set([k / columns, j / rows], 2 * i);
    }
  }
  const indices = gridIndices(columns, rows);
  // Columns run to the right as seen from inside.
  if (!inward) for (let t = 0; t < indices.length; t += 3) [indices[t + 1], indices[t + 2]] = [indices[t + 2]!, indices[t + 1]!];
  return { positions, normals, uvs, indices };
}

/** A box with sides of 1 around the origin; each side shows the whole picture. */
export function boxMesh(): Mesh {
  const [positions, uvs, indices]: [number[], number[], number[]] = [[], [], []];
  for (const [axis, sign] of [0, 1, 2].flatMap((a) => [
    [a, 1],
    [a, -1],
  ]) as [number, number][]) {
    const from = positions.length / 3;
    for (const [u, v] of [
      [0, 0],
      [0, 1],
      [1, 1],
      [1, 0],
    ] as const) {
      const [right, up] = [u - 0.5, 0.5 - v];
      const front = 0.5 * sign;
      positions.push(...(axis === 2 ? [sign * right, up, front] : axis === 0 ? [front, up, -sign * right] : [right, front, -sign * up]));
      uvs.push(u, v);
    }
    indices.push(from, from + 1, from + 2, from, from + 2, from + 3);
  }
  return flatShaded({ positions: Float32Array.from(positions), uvs: Float32Array.from(uvs), indices: Uint32Array.from(indices) });
}
