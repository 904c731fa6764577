import { ShotError } from '../errors';
import type { Vec3 } from '../geometry/vec3';
import type { Affine3 } from './affine';
import { IDENTITY_A3, multiplyA3, placedA3, pointA3 } from './affine';
import type { Material, Mesh } from './mesh';
import { boxOf, trianglesOf } from './mesh';

/** More than this is refused: what is drawn shall fit memory and patience. */
export const MOST_TRIANGLES = 2_000_000;

/** What moves a node, by time in seconds. */
export interface NodeMoves {
  readonly shift?: (seconds: number) => Vec3;
  readonly turn?: (seconds: number) => readonly [number, number, number, number];
  readonly stretch?: (seconds: number) => Vec3;
}

export interface ModelNode {
  readonly name: string;
  /** Index of the node that it hangs on, always a lower one; −1 for none. */
  readonly parent: number;
  readonly shift: Vec3;
  /** Unit quaternion x, y, z, w. */
  readonly turn: readonly [number, number, number, number];
  readonly stretch: Vec3;
  readonly moves?: NodeMoves;
  readonly pieces: readonly { readonly mesh: Mesh; readonly material: Material }[];
}

/** A thing of triangles, y up. */
export interface Model {
  readonly nodes: readonly ModelNode[];
  /** Length of its animation, seconds; 0 where nothing moves. */
  readonly seconds: number;
  readonly triangles: number;
  /** The corners of the box around it at its first moment. */
  readonly box: readonly [Vec3, Vec3];
  /** What of the file is not drawn, in words. */
  readonly remarks: readonly string[];
  /** Bytes that it takes. */
  readonly bytes: number;
}

/** Where each node stands at a time. */
export function nodesAt(model: Pick<Model, 'nodes'>, seconds: number): Affine3[] {
  const made: Affine3[] = [];
  for (const n of model.nodes) {
    const own = placedA3(
      n.moves?.shift?.(seconds) ?? n.shift,
      n.moves?.turn?.(seconds) ?? n.turn,
      n.moves?.stretch?.(seconds) ?? n.stretch,
    );
    made.push(n.parent < 0 ? own : multiplyA3(made[n.parent]!, own));
  }
  return made;
}

/** Counts, measures and bounds what was read. Throws ShotError where it is empty or too large. */
export function modelOf(nodes: readonly ModelNode[], seconds: number, remarks: readonly string[], name: string): Model {
  const meshes = new Set(nodes.flatMap((n) => n.pieces.map((p) => p.mesh)));
  const drawn = nodes.reduce((sum, n) => sum + n.pieces.reduce((s, p) => s + trianglesOf(p.mesh), 0), 0);
  if (drawn === 0) throw new ShotError(`${name} holds no triangles that could be drawn`);
  if (drawn > MOST_TRIANGLES)
    throw new ShotError(
      `${name} has ${drawn.toLocaleString('en')} triangles, and ${MOST_TRIANGLES.toLocaleString('en')} are drawn at most: reduce it where it was made`,
    );
  const least: [number, number, number] = [Infinity, Infinity, Infinity];
  const most: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  const places = nodesAt({ nodes }, 0);
  let bytes = 0;
  for (const m of meshes) bytes += m.positions.byteLength * 2 + (m.uvs?.byteLength ?? 0) + m.indices.byteLength;
  nodes.forEach((n, i) => {
    for (const { mesh } of n.pieces) {
      const box = boxOf(mesh.positions);
      if (!box) continue;
      for (let k = 0; k < 8; k++) {
        const p = pointA3(places[i] ?? IDENTITY_A3, [box[k & 1]![0], box[(k >> 1) & 1]![1], box[k >> 2]![2]]);
        for (let c = 0; c < 3; c++) {
          least[c] = Math.min(least[c]!, p[c]!);
          most[c] = Math.max(most[c]!, p[c]!);
        }
      }
    }
  });
  return { nodes, seconds, triangles: drawn, box: [least, most], remarks, bytes };
}
