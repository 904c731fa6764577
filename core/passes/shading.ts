import type { Vec3 } from './camera';
import { along3, dot3, project, scale3, unit3 } from './camera';
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
}

export interface ShadowOptions {
  /** How far things reach behind what is seen of them, in the scene's units. */
  readonly thick: number;
  readonly steps: number;
}

/** A surface with what stands in the way of light: distances, Infinity where less than half of a pixel is covered. */
export interface Standing extends Surface {
  readonly stands: Float32Array;
}

/** The ray leaves the surface by this part of its distance to the camera. */
const BIAS = 0.002;

/**
 * Whether a lamp reaches a pixel's surface, by a walk through the depth towards it on the picture (screen-space ray march; McGuire and Mara 2014).
 * 0 where something seen stands between, 1 where nothing does; softly near its edge.
 */
export function reaches(s: Standing, w: number, region: { x0: number; y0: number }, i: number, to: Vec3, o: ShadowOptions): number {
  const { camera, distance, stands } = s;
  if (!s.placed) return 1;
  const h = distance.length / w;
  const near = distance[i]!;
  const n = s.normals!;
  const lift = BIAS * near;
  const from: Vec3 = [s.x[i]! + n[0][i]! * lift, s.y[i]! + n[1][i]! * lift, s.z[i]! + n[2][i]! * lift];
  const depthOf = (p: Vec3): number => dot3(along3(p, camera.eye, -1), camera.forward);
  let end = to;
  // Behind the camera nothing is seen: the walk ends before it.
  const [a, b] = [depthOf(from), depthOf(to)];
  if (b < 0.05 * a) end = along3(from, along3(to, from, -1), (a - 0.05 * a) / (a - b));
  const [x0, y0, z0] = project(camera, from);
  const [x1, y1, z1] = project(camera, end);
  const length = Math.max(Math.abs(x1 - x0), Math.abs(y1 - y0));
  const steps = Math.min(o.steps, Math.ceil(length));
  const start = ((i * 0.7548776662) % 1) * 0.8 + 0.2;
  for (let k = 0; k < steps; k++) {
    const t = (k + start) / steps;
    const x = Math.floor(x0 + (x1 - x0) * t) - region.x0;
    const y = Math.floor(y0 + (y1 - y0) * t) - region.y0;
    if (x < 0 || y < 0 || x >= w || y >= h) return 1;
    const j = y * w + x;
    if (j === i) continue;
    // 1/z is straight on the picture.
    const z = 1 / (1 / z0 + (1 / z1 - 1 / z0) * t);
    const there = stands[j]!;
    if (there < z - lift && there > z - o.thick) return 0;
  }
  return 1;
}

/** The direction to a lamp, and what of its light arrives, as far as nothing stands between. */
export function arrives(lamp: Lamp, p: Vec3): { to: Vec3; amount: number } {
  if (lamp.kind === 'sun') return { to: unit3(lamp.at), amount: 1 };
  const d = along3(lamp.at, p, -1);
  const length = Math.max(1e-6, Math.hypot(...d));
  const to = scale3(d, 1 / length);
  let amount = 1 / Math.max(length, lamp.radius, 1e-3) ** 2;
  if (lamp.kind === 'spot') {
    const axis = unit3(along3(lamp.aim, lamp.at, -1));
    const cos = -dot3(axis, to);
    const [outer, inner] = [Math.cos((lamp.cone * Math.PI) / 180), Math.cos((lamp.cone * (1 - lamp.soft) * Math.PI) / 180)];
    const t = Math.min(1, Math.max(0, (cos - outer) / Math.max(1e-6, inner - outer)));
    amount *= t * t * (3 - 2 * t);
  }
  return { to, amount };
}

/** Light that a glossy surface sends to the eye beside its diffuse light: GGX (Walter et al. 2007) with Smith's shadowing and Schlick's Fresnel; times π. */
export function glossOf(n: Vec3, to: Vec3, eye: Vec3, roughness: number, reflectance: number): number {
  const half = unit3(along3(to, eye));
  const [nh, nl, nv, vh] = [dot3(n, half), dot3(n, to), Math.max(1e-3, dot3(n, eye)), dot3(eye, half)];
  if (nl <= 0 || nh <= 0) return 0;
  const a2 = Math.max(1e-4, roughness ** 4);
  const d = a2 / (Math.PI * (nh * nh * (a2 - 1) + 1) ** 2);
  const smith = (c: number): number => (2 * c) / (c + Math.sqrt(a2 + (1 - a2) * c * c));
  const fresnel = reflectance + (1 - reflectance) * (1 - Math.max(0, vh)) ** 5;
  return (Math.PI * d * smith(nl) * smith(nv) * fresnel) / (4 * nl * nv);
}
