import { rect } from '@/core/geometry/rect';
import type { Rect } from '@/core/geometry/rect';
import { floatOfId, idOfName } from '@/core/formats/cryptomatte';
import type { Vec } from './diver';
import { OBJECTS, add, distance, dot, lampAt, materialAt, nearest, scaled, toObject, toWorld, turnAt, unit, uvAt } from './diver';
import { environment } from './quay';

/** How the diver's passes are made. */
export interface DiverOptions {
  width: number;
  height: number;
  /** Rays a pixel. */
  samples: number;
}
export const SG030: DiverOptions = { width: 960, height: 540, samples: 8 };
export const DIVER_FRAMES = { first: 1, last: 12 };

/** Colour passes: three channels each, premultiplied by coverage; together they make the beauty but for the glass. */
const LIGHTS = ['key', 'rim', 'lamp', 'sky'] as const;
const COLOUR_LAYERS = ['diffuse', 'specular', 'reflection', 'emission', ...LIGHTS.map((l) => `light_${l}`)];
export const ID_NAME = 'CryptoObject';

export interface DiverFrame {
  bounds: Rect;
  /** Channels of the pass set over the bounds. */
  planes: Record<string, Float32Array>;
  /** What the passes leave out of the beauty: the light that comes through the glass. */
  glass: [Float32Array, Float32Array, Float32Array];
}

const EYE: Vec = [0, 1.35, 6.2];
const AIM = -0.055;
const FOCAL = 2.45;
/** Directions to the lights that are far away, and the light each gives. */
const KEY: Vec = unit([-0.55, 0.75, 0.6]);
const RIM: Vec = unit([0.7, 0.35, -0.75]);
const POWER: Record<(typeof LIGHTS)[number], Vec> = {
  key: [0.55, 0.68, 0.92],
  rim: [2.6, 1.4, 0.55],
  lamp: [0.85, 0.5, 0.18],
  sky: [0.035, 0.045, 0.062],
};

/** Where a point of the world is seen, in pixels, and its distance along the view. */
export function project(p: Vec, o: DiverOptions): [number, number, number] {
  const [x, y, z] = add(p, EYE, -1);
  const [c, s] = [Math.cos(AIM), Math.sin(AIM)];
  const [yy, depth] = [c * y + s * z, s * y - c * z];
  const f = FOCAL * o.height;
  return [o.width / 2 + (f * x) / depth, o.height / 2 - (f * yy) / depth, depth];
}

function rayAt(px: number, py: number, o: DiverOptions): Vec {
  const f = FOCAL * o.height;
  const [x, y] = [(px - o.width / 2) / f, (o.height / 2 - py) / f];
  const [c, s] = [Math.cos(AIM), Math.sin(AIM)];
  return unit([x, c * y + s, s * y - c]);
}

interface Hit {
  object: number;
  /** In object space, and its normal there. */
  at: Vec;
  normal: Vec;
}

/** Sphere tracing (Hart 1996) in object space from `near` to `far`; null where nothing is hit. */
function trace(from: Vec, dir: Vec, near: number, far: number, lamp: Vec, steps: number): Hit | null {
  let t = near;
  for (let i = 0; i < steps && t < far; i++) {
    const [x, y, z] = add(from, dir, t);
    const d = distance(x, y, z, lamp);
    if (d < 0.0006) {
      const object = nearest;
      const e = 0.0009;
      const normal = unit([
        distance(x + e, y, z, lamp) - distance(x - e, y, z, lamp),
        distance(x, y + e, z, lamp) - distance(x, y - e, z, lamp),
        distance(x, y, z + e, lamp) - distance(x, y, z - e, lamp),
      ]);
      return { object, at: [x, y, z], normal };
    }
    t += d * 0.85;
  }
  return null;
}

/** How open the surroundings are, 0..1, by five distances along the normal (Evans 2006). */
function openness(at: Vec, n: Vec, lamp: Vec): number {
  let sum = 0;
  for (let i = 1; i <= 5; i++) {
    const h = 0.035 * i;
    const [x, y, z] = add(at, n, h);
    sum += Math.max(0, h - distance(x, y, z, lamp)) / 2 ** i;
  }
  return Math.min(1, Math.max(0, 1 - 9 * sum));
}

type Passes = Record<string, Vec>;

/** The light of a hit in each pass. */
function shade(hit: Hit, view: Vec, turn: number, lamp: Vec): { passes: Passes; occlusion: number; glass: Vec } {
  const m = materialAt(hit.object, hit.object === 5 ? add(hit.at, lamp, -1) : hit.at);
  const passes: Passes = Object.fromEntries(COLOUR_LAYERS.map((l) => [l, [0, 0, 0] as Vec]));
  const occlusion = openness(hit.at, hit.normal, lamp);
  const times = (a: Vec, b: Vec, k: number): Vec => [a[0] * b[0] * k, a[1] * b[1] * k, a[2] * b[2] * k];
  const give = (layer: string, light: (typeof LIGHTS)[number], c: Vec): void => {
    passes[layer] = add(passes[layer]!, c);
    passes[`light_${light}`] = add(passes[`light_${light}`]!, c);
  };
  const toLamp = add(lamp, hit.at, -1);
  const reach = Math.sqrt(dot(toLamp, toLamp));
  const lights: [(typeof LIGHTS)[number], Vec, number][] = [
    ['key', toObject(KEY, turn), lit(hit, toObject(KEY, turn), lamp)],
    ['rim', toObject(RIM, turn), lit(hit, toObject(RIM, turn), lamp)],
    ['lamp', unit(toLamp), hit.object === 5 ? 0 : Math.min(14, 0.32 / (reach * reach))],
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
  passes.emission = m.emission;
  // A face in the dark behind the glass: the one thing that no pass holds.
  const glass: Vec = hit.object === 1 ? scaled([0.075, 0.062, 0.045], 0.35 + 0.65 * facing) : [0, 0, 0];
  return { passes, occlusion, glass };
}

function lit(hit: Hit, dir: Vec, lamp: Vec): number {
  const from = add(hit.at, hit.normal, 0.006);
  return trace(from, dir, 0.01, 1.6, lamp, 48) ? 0 : 1;
}

/** Where the diver can be seen in any frame of the shot. */
function boundsOf(o: DiverOptions): Rect {
  const corners = [-0.62, 0.62].flatMap((x) => [-0.02, 2.02].flatMap((y) => [-0.45, 0.45].map((z) => project([x, y, z], o))));
  const [xs, ys] = [corners.map((c) => c[0]), corners.map((c) => c[1])];
  return rect(
    Math.max(0, Math.floor(Math.min(...xs))),
    Math.max(0, Math.floor(Math.min(...ys))),
    Math.min(o.width, Math.ceil(Math.max(...xs))),
    Math.min(o.height, Math.ceil(Math.max(...ys))),
  );
}

/** All passes of a frame. Data passes are those of the nearest hit in a pixel, not blended; Z is 1000 where there is none. */
export function renderDiver(frame: number, o: DiverOptions): DiverFrame {
  const bounds = boundsOf(o);
  const w = bounds.x1 - bounds.x0;
  const n = w * (bounds.y1 - bounds.y0);
  const planes: Record<string, Float32Array> = {};
  const plane = (name: string): Float32Array => (planes[name] ??= new Float32Array(n));
  const glass: DiverFrame['glass'] = [new Float32Array(n), new Float32Array(n), new Float32Array(n)];
  const turn = turnAt(frame);
  const lamp = lampAt(frame);
  const from = toObject(EYE, turn);
  plane('Z').fill(1000);
  for (let i = 0; i < n; i++) {
    const [px, py] = [bounds.x0 + (i % w), bounds.y0 + Math.floor(i / w)];
    const covered = new Map<number, number>();
    let front: { hit: Hit; depth: number } | null = null;
    for (let s = 0; s < o.samples; s++) {
      const view = toObject(rayAt(px + (s + 0.5) / o.samples, py + (((s * 5) % o.samples) + 0.5) / o.samples, o), turn);
      const hit = trace(from, view, 5, 7.6, lamp, 90);
      if (!hit) continue;
      const share = 1 / o.samples;
      const lightOf = shade(hit, view, turn, lamp);
      for (const [layer, c] of Object.entries(lightOf.passes))
        'RGB'.split('').forEach((k, j) => (plane(`${layer}.${k}`)[i]! += c[j]! * share));
      lightOf.glass.forEach((v, j) => (glass[j]![i]! += v * share));
      plane('occlusion.V')[i]! += lightOf.occlusion * share;
      plane('A')[i]! += share;
      covered.set(hit.object, (covered.get(hit.object) ?? 0) + share);
      const depth = project(toWorld(hit.at, turn), o)[2];
      if (!front || depth < front.depth) front = { hit, depth };
    }
    if (front) writeData(front.hit, front.depth, frame, i, plane, o);
    [...covered]
      .sort((a, b) => b[1] - a[1])
      .slice(0, 4)
      .forEach(([object, share], rank) => {
        const layer = `${ID_NAME}0${rank >> 1}`;
        plane(`${layer}.${rank % 2 ? 'B' : 'R'}`)[i] = floatOfId(idOfName(OBJECTS[object]!));
        plane(`${layer}.${rank % 2 ? 'A' : 'G'}`)[i] = share;
      });
  }
  'RGB'.split('').forEach((c, j) => {
    const sum = plane(c);
    for (let i = 0; i < n; i++) {
      sum[i] = glass[j]![i]! + ['diffuse', 'specular', 'reflection', 'emission'].reduce((s, l) => s + plane(`${l}.${c}`)[i]!, 0);
    }
  });
  for (const l of ['00', '01']) for (const c of 'RGBA') plane(`${ID_NAME}${l}.${c}`);
  return { bounds, planes, glass };
}

function writeData(hit: Hit, depth: number, frame: number, i: number, plane: (name: string) => Float32Array, o: DiverOptions): void {
  const turn = turnAt(frame);
  const world = toWorld(hit.at, turn);
  const normal = toWorld(hit.normal, turn);
  plane('Z')[i] = depth;
  'XYZ'.split('').forEach((c, j) => {
    plane(`N.${c}`)[i] = normal[j]!;
    plane(`P.${c}`)[i] = world[j]!;
  });
  const [u, v] = uvAt(hit.at);
  plane('uv.U')[i] = u;
  plane('uv.V')[i] = v;
  plane('objectId.Y')[i] = hit.object + 1;
  const moved = (time: number): [number, number, number] => {
    const swing: Vec = hit.object === 5 ? add(lampAt(time), lampAt(frame), -1) : [0, 0, 0];
    return project(toWorld(add(hit.at, swing), turnAt(time)), o);
  };
  const [a, b] = [moved(frame - 0.5), moved(frame + 0.5)];
  plane('motion.X')[i] = b[0] - a[0];
  plane('motion.Y')[i] = b[1] - a[1];
}
