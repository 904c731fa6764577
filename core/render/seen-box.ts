import type { Vec3 } from '../geometry/vec3';
import type { Rect } from '../geometry/rect';
import { EMPTY, intersect, rect } from '../geometry/rect';
import { pointA3 } from './affine';
import type { Mesh } from './mesh';
import { boxOf } from './mesh';
import type { Drawn, View } from './screen';
import { NEAR, seenBy } from './screen';

const boxes = new WeakMap<Mesh, ReturnType<typeof boxOf>>();

/** The part of a region that a mesh may be seen in, by the corners of its box: all of it where that reaches behind the view. */
export function seenBox(view: View, { mesh, matrix }: Pick<Drawn, 'mesh' | 'matrix'>, region: Rect): Rect {
  let box = boxes.get(mesh);
  if (box === undefined) boxes.set(mesh, (box = boxOf(mesh.positions)));
  if (!box) return EMPTY;
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < 8; k++) {
    const corner: Vec3 = [box[k & 1]![0], box[(k >> 1) & 1]![1], box[k >> 2]![2]];
    const [x, y, z] = seenBy(view, pointA3(matrix, corner));
    if (!(z > NEAR)) return region;
    [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
  }
  return intersect(rect(Math.floor(x0) - 1, Math.floor(y0) - 1, Math.ceil(x1) + 1, Math.ceil(y1) + 1), region);
}
