import { nodeKernels } from '@/engine/node/host';
import { rect } from '../geometry/rect';
import type { Vec3 } from '../geometry/vec3';
import { placedA3, quaternionOfDegrees } from '../render/affine';
import type { Affine3 } from '../render/affine';
import type { Material } from '../render/mesh';
import { PLAIN } from '../render/mesh';
import type { Moment, SceneOut } from '../render/moment';
import { renderMoment } from '../render/render';
import type { Drawn, View } from '../render/screen';
import type { Light } from '../render/shader';
import { ballMesh, boxMesh, cardMesh } from '../render/shapes';

export const [TEST_W, TEST_H] = [96, 64];

/** At a place, looking along −z, y up. */
export const lookingFrom = ([x, y, z]: Vec3, focal = 90, w = TEST_W, h = TEST_H): View => ({
  matrix: [1, 0, 0, -x, 0, -1, 0, y, 0, 0, -1, z],
  focal,
  centre: [w / 2, h / 2],
});

export const stands = (at: Vec3, turn: Vec3 = [0, 0, 0], size: Vec3 = [1, 1, 1]): Affine3 => placedA3(at, quaternionOfDegrees(turn), size);

const MESHES = { ball: ballMesh(false, 192, 96), box: boxMesh(), card: cardMesh(1, 1, 1, 1) };
/** A mesh without gloss, of one colour. */
export const thing = (mesh: keyof typeof MESHES, matrix: Affine3, material: Partial<Material> = {}, more: Partial<Drawn> = {}): Drawn => ({
  mesh: MESHES[mesh],
  matrix,
  material: { ...PLAIN, base: [1, 1, 1, 1], specular: 0, rough: 1, doubleSided: mesh === 'card', ...material },
  id: 1,
  casts: true,
  ...more,
});

export const sun = (towards: Vec3, more: Partial<Light> = {}): Light => {
  const k = 1 / Math.hypot(...towards);
  return {
    kind: 'sun',
    colour: [1, 1, 1],
    towards: [towards[0] * k, towards[1] * k, towards[2] * k],
    at: [0, 0, 0],
    aim: [0, 0, 0],
    outer: 0,
    inner: 0,
    shadow: null,
    ...more,
  };
};

export interface Drawing {
  r: Float32Array;
  g: Float32Array;
  b: Float32Array;
  a: Float32Array;
  depth: Float32Array;
  position: Float32Array[];
  normal: Float32Array[];
  motion: Float32Array[];
  id: Float32Array;
  shadow: Float32Array;
  mirror: Float32Array[];
}

/** Draws things with all layers, or the picture alone. */
export async function draw(moment: Partial<Moment> & { view: View }, size = [TEST_W, TEST_H] as const, layers = true): Promise<Drawing> {
  const kernels = await nodeKernels();
  const n = size[0] * size[1];
  const plane = (): Float32Array => kernels.take(n);
  const planes = (count: number): Float32Array[] => Array.from({ length: count }, plane);
  const out: Drawing = {
    r: plane(),
    g: plane(),
    b: plane(),
    a: plane(),
    depth: plane(),
    position: planes(3),
    normal: planes(3),
    motion: planes(2),
    id: plane(),
    shadow: plane(),
    mirror: planes(4),
  };
  const asked: SceneOut = layers ? out : { r: out.r, g: out.g, b: out.b, a: out.a };
  renderMoment(
    kernels,
    { drawn: [], cards: [], lights: [], environment: null, mirrors: new Map(), next: moment.view, ...moment },
    rect(0, 0, size[0], size[1]),
    asked,
  );
  const taken = Object.values(out).flat();
  const copy = new Map(taken.map((p) => [p, p.slice()]));
  taken.forEach((p) => kernels.give(p));
  return Object.fromEntries(
    Object.entries(out).map(([k, v]: [string, Float32Array | Float32Array[]]) => [
      k,
      Array.isArray(v) ? v.map((p) => copy.get(p)!) : copy.get(v)!,
    ]),
  ) as unknown as Drawing;
}
