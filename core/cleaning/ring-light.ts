import type { Param, Shot, Step } from '../document/types';
import { isLink, resolveParam } from '../document/params';
import type { ParamOf } from '../param';
import { STEPS } from '../steps';
import type { Shape } from '../shape/shapes';
import type { LightFit } from './fit-light';
import { fitLight } from './fit-light';

/** A patch as it lies by itself, without its light: over its place, and over the ring around that too. */
export function ringShots(shot: Shot, patch: Step): { inside: Shot; wide: Shot } {
  const { shapes, ring: around } = STEPS.get('patch')!.params as { shapes: ParamOf<'shapes'>; ring: ParamOf<'number'> };
  const at = shot.range.first;
  const list = resolveParam(shot, patch.params.shapes, shapes.default, at) as unknown as readonly Shape[];
  const ring = Number(resolveParam(shot, patch.params.ring, around.default, at));
  // What follows the patch's shapes, its filled hole for one, keeps them as they are.
  const kept = (p: Param): Param => (isLink(p) && p.link.step === patch.id && p.link.param === 'shapes' ? (list as unknown as Param) : p);
  const withShapes = (shapes: readonly Shape[]): Shot => ({
    ...shot,
    lanes: shot.lanes.map((l) => ({
      ...l,
      steps: l.steps.map((s) =>
        s.id === patch.id
          ? { ...s, on: true, mix: 1, params: { ...s.params, shapes: shapes as unknown as Param, light: 'none', output: 'alone' } }
          : Object.values(s.params).some(isLink)
            ? { ...s, params: Object.fromEntries(Object.entries(s.params).map(([name, p]) => [name, kept(p)])) }
            : s,
      ),
    })),
  });
  return {
    inside: withShapes(list),
    wide: withShapes(list.map((s) => ({ ...s, falloff: 'linear', feather: Math.max(0, s.feather) + ring }))),
  };
}

/** R, G, B and alpha one after the other, w×h each. */
export interface SeenPlanes {
  planes: Float32Array[];
  alpha: Float32Array;
}

/** Interleaved RGBA as planes. */
export function planesOf(pixels: Float32Array): SeenPlanes {
  const n = pixels.length / 4;
  const plane = (c: number): Float32Array => Float32Array.from({ length: n }, (_, i) => pixels[4 * i + c]!);
  return { planes: [0, 1, 2].map(plane), alpha: plane(3) };
}

/** The light that takes a patch to the plate around it: `wide` is the patch over its ring too, `inside` over its place alone, premultiplied. */
export function lightOfRing(plate: SeenPlanes, wide: SeenPlanes, inside: SeenPlanes, lift: boolean): LightFit {
  const ring = wide.alpha.map((a, i) => (a > 0.05 && inside.alpha[i]! < 0.004 ? 1 : 0));
  const bare = wide.planes.map((p) => p.map((v, i) => (ring[i] ? v / wide.alpha[i]! : 0)));
  return fitLight(bare, plate.planes, ring, { lift });
}
