import type { Vec3 } from '@/core/geometry';
import type { Affine3 } from '@/core/render';
import { pointA3 } from '@/core/render';
import type { Thing } from '@/core/space';
import type { ModelShape } from '@/engine';

/** Lines of a thing in its own axes, from place to place. */
function ownLines(thing: Thing, aspect: number, model: ModelShape | null): Vec3[][] {
  const flat = (w: number, h: number): Vec3[] => [
    [-w / 2, h / 2, 0],
    [w / 2, h / 2, 0],
    [w / 2, -h / 2, 0],
    [-w / 2, -h / 2, 0],
    [-w / 2, h / 2, 0],
  ];
  const boxed = (a: Vec3, b: Vec3): Vec3[][] => {
    const at = (k: number): Vec3 => [k & 1 ? b[0] : a[0], k & 2 ? b[1] : a[1], k & 4 ? b[2] : a[2]];
    return [[0, 1, 3, 2, 0].map(at), [4, 5, 7, 6, 4].map(at), ...[0, 1, 2, 3].map((k) => [at(k), at(k + 4)])];
  };
  switch (thing.what) {
    case 'card':
      return [flat(aspect, 1)];
    case 'catcher':
      return [flat(thing.wide, thing.wide).map(([x, y]): Vec3 => [x, 0, y])];
    case 'box':
      return boxed([-0.5, -0.5, -0.5], [0.5, 0.5, 0.5]);
    case 'model':
      return model ? boxed(...model.box) : [];
    case 'ball': {
      const ring = (put: (c: number, s: number) => Vec3): Vec3[] =>
        Array.from({ length: 33 }, (_, i) => put(Math.cos((i * Math.PI) / 16) / 2, Math.sin((i * Math.PI) / 16) / 2));
      return [ring((c, s) => [c, 0, s]), ring((c, s) => [c, s, 0]), ring((c, s) => [0, c, s])];
    }
    default:
      return [];
  }
}

/** The same in the world. */
export const linesOf = (thing: Thing, place: Affine3, aspect: number, model: ModelShape | null): Vec3[][] =>
  ownLines(thing, aspect, model).map((line) => line.map((p) => pointA3(place, p)));
