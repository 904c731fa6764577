import type { Kernels, Plane } from '@/kernels';
import type { Vec3 } from '../geometry/vec3';
import { along3, unit3 } from '../geometry/vec3';
import type { Surface } from './positions';

/** A lamp that is set into a finished render. */
export interface Lamp {
  readonly kind: 'point' | 'spot' | 'sun';
  /** Where it is; of the sun, towards it from the origin. */
  readonly at: Vec3;
  /** Where a spot points. */
  readonly aim: Vec3;
  /** R, G, B: at one unit's distance, or of the sun everywhere, on a surface that faces it. */
  readonly light: Vec3;
  /** Nearer than this it gets no brighter. */
  readonly radius: number;
  /** Half angle in degrees, and the part of it that falls off. */
  readonly cone: number;
  readonly soft: number;
  readonly shadow: boolean;
}

export interface Shading {
  /** How far things reach behind what is seen of them, in the scene's units. */
  readonly thick: number;
  readonly steps: number;
  /** How much of the glossy reflection is added, and how it is spread. */
  readonly gloss: number;
  readonly roughness: number;
  readonly reflectance: number;
}

/** Surfaces as light finds them; all planes of the kernels' memory. */
export interface LitSurface extends Surface {
  readonly normals: readonly [Plane, Plane, Plane];
  /** What stands in the way of light: distances, Infinity where less than half of a pixel is covered. */
  readonly stands: Plane;
  /** R, G, B, premultiplied. */
  readonly albedo: readonly Plane[];
  readonly alpha: Plane;
}

/** The ray leaves the surface by this part of its distance to the camera. */
const BIAS = 0.002;
const KINDS = ['point', 'spot', 'sun'] as const;
/** Rows between two looks at whether the work is still wanted. */
const BAND = 32;

/**
 * Adds a lamp's light: Lambert times albedo, and a GGX lobe (Walter et al. 2007). Whether it reaches a surface is found by a walk through the depth
 * towards it on the picture (screen-space ray march; McGuire and Mara 2014).
 */
export function addLampLight(
  kernels: Kernels,
  s: LitSurface,
  w: number,
  region: { x0: number; y0: number },
  lamp: Lamp,
  o: Shading,
  light: readonly [Plane, Plane, Plane],
  poll: () => void,
): void {
  const { camera } = s;
  const cos = (degrees: number): number => Math.cos((degrees * Math.PI) / 180);
  const numbers = kernels.copy([
    ...camera.eye,
    ...camera.right,
    ...camera.down,
    ...camera.forward,
    camera.focal,
    ...camera.centre,
    KINDS.indexOf(lamp.kind),
    ...lamp.at,
    ...unit3(along3(lamp.aim, lamp.at, -1)),
    lamp.radius,
    cos(lamp.cone),
    cos(lamp.cone * (1 - lamp.soft)),
    ...lamp.light,
    // Without a camera nothing is known of what stands between.
    Number(lamp.shadow && s.placed),
    o.thick,
    o.steps,
    o.gloss,
    Math.max(1e-4, o.roughness ** 4),
    o.reflectance,
    region.x0,
    region.y0,
    BIAS,
  ]);
  const planes = [s.x, s.y, s.z, ...s.normals, s.distance, s.stands, ...s.albedo, s.alpha];
  const pointers = kernels.take(planes.length);
  new Uint32Array(pointers.buffer, pointers.byteOffset, planes.length).set(planes.map((p) => p.byteOffset));
  const h = s.alpha.length / w;
  const [r, g, b] = light.map((p) => p.byteOffset) as [number, number, number];
  for (let y = 0; y < h; y += BAND) {
    poll();
    kernels.fn.lampLight(numbers.byteOffset, pointers.byteOffset, w, h, y, Math.min(h, y + BAND), r, g, b);
  }
  kernels.give(numbers);
  kernels.give(pointers);
}
