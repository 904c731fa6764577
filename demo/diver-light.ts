import type { Pose, Vec } from './diver';
import { LAMP, BOLLARD, add, distance, dot, materialAt, nearest, scaled, toObject, toWorld, unit } from './diver';
import { environment } from './quay';

/** How light finds the diver: rays, surfaces, and what each lamp gives to each part of the material. */
export const LIGHTS = ['key', 'rim', 'lamp', 'sky'] as const;
export type Light = (typeof LIGHTS)[number];
export const MATERIAL = ['diffuse', 'specular', 'reflection', 'emission'] as const;
export type Part = (typeof MATERIAL)[number];

/** Directions to the lights that are far away, and the light each gives. */
const KEY: Vec = unit([-0.55, 0.75, 0.6]);
const RIM: Vec = unit([0.7, 0.35, -0.75]);
const POWER: Record<Light, Vec> = {
  key: [0.55, 0.68, 0.92],
  rim: [2.6, 1.4, 0.55],
  lamp: [0.85, 0.5, 0.18],
  sky: [0.035, 0.045, 0.062],
};

/** A lamp that is not in the render: in metres of the world, Lambert by inverse square. */
export interface AddedLamp {
  at: Vec;
  colour: Vec;
}

export interface Hit {
  object: number;
  /** In object space, and its normal there. */
  at: Vec;
  normal: Vec;
}

/** Sphere tracing (Hart 1996) in object space from `near` to `far`; null where nothing is hit. */
export function trace(from: Vec, dir: Vec, near: number, far: number, pose: Pose, steps: number): Hit | null {
  let t = near;
  for (let i = 0; i < steps && t < far; i++) {
    const [x, y, z] = add(from, dir, t);
    const d = distance(x, y, z, pose);
    if (d < 0.0006) {
      const object = nearest;
      const e = 0.0009;
      const normal = unit([
        distance(x + e, y, z, pose) - distance(x - e, y, z, pose),
        distance(x, y + e, z, pose) - distance(x, y - e, z, pose),
        distance(x, y, z + e, pose) - distance(x, y, z - e, pose),
      ]);
      return { object, at: [x, y, z], normal };
    }
    t += d * 0.85;
  }
  return null;
}

/** How open the surroundings are, 0..1, by five distances along the normal (Evans 2006). */
export function openness(at: Vec, n: Vec, pose: Pose): number {
  let sum = 0;
  for (let i = 1; i <= 5; i++) {
    const h = 0.035 * i;
    const [x, y, z] = add(at, n, h);
    sum += Math.max(0, h - distance(x, y, z, pose)) / 2 ** i;
  }
  return Math.min(1, Math.max(0, 1 - 9 * sum));
}

export const materialOf = ({ object, at }: Hit, pose: Pose): ReturnType<typeof materialAt> =>
  materialAt(object, object === LAMP ? add(at, pose.lamp, -1) : object === BOLLARD ? toWorld(at, pose.turn) : at);

function lit(hit: Hit, dir: Vec, pose: Pose, far = 1.6): number {
  const from = add(hit.at, hit.normal, 0.006);
  return trace(from, dir, 0.01, far, pose, 48) ? 0 : 1;
}

const times = (a: Vec, b: Vec, k: number): Vec => [a[0] * b[0] * k, a[1] * b[1] * k, a[2] * b[2] * k];

/** The face in the dark behind the glass: the one thing that no pass holds. */
export const glassLight = (hit: Hit, view: Vec): Vec =>
  hit.object === 1 ? scaled([0.075, 0.062, 0.045], 0.35 + 0.65 * Math.max(0, -dot(hit.normal, view))) : [0, 0, 0];

/** Gives the light of a hit by part of the material and by lamp; what glows by itself has no lamp. */
export function shade(hit: Hit, view: Vec, pose: Pose, occlusion: number, give: (part: Part, light: Light | null, c: Vec) => void): void {
  const { turn, lamp } = pose;
  const m = materialOf(hit, pose);
  const toLamp = add(lamp, hit.at, -1);
  const reach = Math.sqrt(dot(toLamp, toLamp));
  const lights: [Light, Vec, number][] = [
    ['key', toObject(KEY, turn), lit(hit, toObject(KEY, turn), pose)],
    ['rim', toObject(RIM, turn), lit(hit, toObject(RIM, turn), pose)],
    ['lamp', unit(toLamp), hit.object === LAMP ? 0 : Math.min(14, 0.32 / (reach * reach))],
  ];
  const power = 2 / m.roughness ** 2;
  for (const [light, dir, amount] of lights) {
    const facing = dot(hit.normal, dir);
    if (facing <= 0 || amount <= 0) continue;
    give('diffuse', light, times(m.colour, POWER[light], facing * amount));
    const half = unit(add(dir, view, -1));
    const gloss = ((power + 8) / 25) * Math.max(0, dot(hit.normal, half)) ** power * facing * amount;
    give('specular', light, times(m.specular, POWER[light], 0.35 * gloss));
  }
  give('diffuse', 'sky', times(m.colour, POWER.sky, 1.6 * occlusion * (0.65 + 0.35 * hit.normal[1])));
  const facing = Math.max(0, -dot(hit.normal, view));
  const fresnel = (1 - facing) ** 5;
  const mirror = toWorld(add(view, hit.normal, 2 * facing), turn);
  const sharp = Math.max(0, 1 - 1.6 * m.roughness);
  give(
    'reflection',
    'sky',
    times(
      add(m.specular, [1, 1, 1], (1 - m.roughness) * 0.5 * fresnel),
      environment(mirror, m.roughness),
      (0.25 + 0.75 * sharp) * occlusion,
    ),
  );
  give('emission', null, m.emission);
}

/** What an added lamp gives to a hit, its shadow counted. */
export function addedLight(hit: Hit, pose: Pose, { at, colour }: AddedLamp): Vec {
  const to = add(toObject(at, pose.turn), hit.at, -1);
  const far = Math.sqrt(dot(to, to));
  const dir = scaled(to, 1 / far);
  const facing = dot(hit.normal, dir);
  if (facing <= 0 || !lit(hit, dir, pose, far - 0.02)) return [0, 0, 0];
  return times(materialOf(hit, pose).colour, colour, facing / (far * far));
}
