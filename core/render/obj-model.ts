import { strFromU8 } from 'fflate';
import { MediaError } from '../errors';
import type { Material, Mesh } from './mesh';
import { PLAIN, flatShaded } from './mesh';
import type { Model } from './model';
import { modelOf } from './model';

/** Corners of all faces of one material: x, y, z, u, v, normal. */
interface Gathered {
  positions: number[];
  uvs: number[];
  normals: number[];
}

/**
 * A Wavefront OBJ file: v, vt, vn, f (any number of corners, negative numbers count from the end), a material a `usemtl`, in plain grey: OBJ keeps its looks elsewhere. Throws MediaError with the
 * line, or ShotError where it is too large.
 */
export function readObjModel(bytes: Uint8Array, file: string): Model {
  const [v, vt, vn]: [number[], number[], number[]] = [[], [], []];
  const groups = new Map<string, Gathered>();
  let name = 'plain';
  strFromU8(bytes)
    .replaceAll('\\\n', ' ')
    .split('\n')
    .forEach((line, n) => {
      const [word, ...rest] = line.trim().split(/\s+/);
      const wrong = (what: string): never => {
        throw new MediaError(file, `line ${n + 1}: ${what}`);
      };
      const numbers = (count: number): number[] => {
        const list = rest.slice(0, count).map(Number);
        if (list.length < count || list.some((x) => !Number.isFinite(x))) wrong(`${count} numbers are needed after ${word}`);
        return list;
      };
      if (word === 'v') v.push(...numbers(3));
      else if (word === 'vt') vt.push(...numbers(2));
      else if (word === 'vn') vn.push(...numbers(3));
      else if (word === 'usemtl') name = rest.join(' ') || 'plain';
      else if (word === 'f') {
        if (rest.length < 3) wrong('a face needs three corners');
        const corners = rest.map((c) => {
          const [a, b, d] = c.split('/');
          const at = (text: string | undefined, list: number[], size: number): number => {
            if (!text) return -1;
            const i = Number(text);
            const k = i < 0 ? list.length / size + i : i - 1;
            if (!Number.isInteger(k) || k < 0 || k >= list.length / size) wrong(`there is no corner ${text}`);
            return k;
          };
          return [at(a, v, 3), at(b, vt, 2), at(d, vn, 3)] as const;
        });
        let group = groups.get(name);
        if (!group) groups.set(name, (group = { positions: [], uvs: [], normals: [] }));
        for (let k = 1; k + 1 < corners.length; k++) {
          for (const [p, t, q] of [corners[0]!, corners[k]!, corners[k + 1]!]) {
            if (p < 0) wrong('a corner has no place');
            group.positions.push(v[3 * p]!, v[3 * p + 1]!, v[3 * p + 2]!);
            // Its v runs upward.
            group.uvs.push(t < 0 ? 0 : vt[2 * t]!, t < 0 ? 0 : 1 - vt[2 * t + 1]!);
            group.normals.push(...(q < 0 ? [0, 0, 0] : vn.slice(3 * q, 3 * q + 3)));
          }
        }
      }
    });
  const pieces = [...groups].map(([material, g]) => ({ mesh: meshOf(g), material: { ...PLAIN, name: material } satisfies Material }));
  return modelOf([{ name: file, parent: -1, shift: [0, 0, 0], turn: [0, 0, 0, 1], stretch: [1, 1, 1], pieces }], 0, [], file);
}

function meshOf(g: Gathered): Mesh {
  const count = g.positions.length / 3;
  const rest = {
    positions: Float32Array.from(g.positions),
    uvs: Float32Array.from(g.uvs),
    indices: Uint32Array.from({ length: count }, (_, i) => i),
  };
  const normals = Float32Array.from(g.normals);
  let some = true;
  for (let i = 0; i < normals.length; i += 3) {
    const k = Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!);
    if (k < 1e-6) some = false;
    else for (let c = 0; c < 3; c++) normals[i + c] = normals[i + c]! / k;
  }
  return some ? { ...rest, normals } : flatShaded(rest);
}
