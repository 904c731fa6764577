import type { Homography, Quad } from '@/core/geometry';
import { applyHomography, invert, mapPoint } from '@/core/geometry';
import { fractal, hash, valueNoise } from './noise';
import type { InFront, Painted, Rgb } from './plate-scene';
import { filmed, handheld, paintScene } from './plate-scene';
import type { Cloth, Stride } from './walker';
import { coatOutline, walkerAt } from './walker';

/** SG040, the harbour wall: old masonry with a cable box and a painted company mark on it, two passers-by, a light that flickers. */
export const WALL_FRAMES = { first: 1, last: 48 };
/** Middle and radius of the painted mark, and the box's corners, in the steady scene. */
export const WALL_MARK = { x: 262, y: 212, r: 50 } as const;
export const CABLE_BOX: Quad = [
  [642, 138],
  [722, 138],
  [722, 252],
  [642, 252],
];

export interface WallOptions {
  width: number;
  height: number;
  noise: number;
  seed: number;
}
export const SG040: WallOptions = { width: 960, height: 540, noise: 0.018, seed: 4040 };
const SAMPLES = 4;
const SHUTTER = 0.5;

/** From the steady scene to the frame at a time. */
export const wallAt = (t: number): Homography =>
  handheld(
    0.012 * Math.sin(0.19 * t) + 0.003 * Math.sin(0.83 * t + 1),
    1 + 0.012 * Math.sin(0.13 * t + 0.5),
    13 * Math.sin(0.17 * t + 0.4) + 3.5 * Math.sin(0.71 * t) + 0.9 * Math.sin(2.1 * t),
    8 * Math.sin(0.14 * t + 1.2) + 3 * Math.sin(0.77 * t + 1) + 0.8 * Math.sin(2.3 * t),
    [0.00012 + 0.00009 * Math.sin(0.12 * t), 0.00006 * Math.sin(0.15 * t + 1)],
  );

/** What the light is multiplied by at a time. */
export const flickerAt = (t: number): number => 1 + 0.055 * Math.sin(1.7 * t) + 0.03 * Math.sin(4.1 * t + 1);

const step = (t: number, length: number): number => (2 * Math.PI * t) / length;

/** The nearer one, in the checked coat: in the frame all the time. */
export const strideNear = (t: number): Stride => ({
  x: 214 + 9.6 * (t - 1),
  y: 496,
  phase: step(t, 26),
  lean: 4 + 2.5 * Math.sin(step(t, 13)),
  side: 1,
});
/** The farther one, the other way. */
export const strideFar = (t: number): Stride => ({ x: 1010 - 15.5 * (t - 1), y: 468, phase: step(t, 21) + 1, lean: -5, side: -1 });

const NEAR: Cloth = { coat: [0.2, 0.15, 0.075], hat: [0.035, 0.045, 0.075], check: 17, seed: 401 };
const FAR: Cloth = { coat: [0.05, 0.06, 0.085], hat: [0.12, 0.05, 0.035], check: 23, seed: 402 };

/** The true outline of a passer-by's hat and coat on a frame, in its pixels, in the middle of the shutter. */
export const trueCoat = (t: number, of: (t: number) => Stride = strideNear): number[] => {
  const map = wallAt(t);
  return coatOutline(of(t)).flatMap((v, i, all) => (i % 2 ? [] : mapPoint(map, v, all[i + 1]!)));
};

/** Outlines at a time, made once for all pixels of it. */
function passers(): InFront {
  const known = new Map<number, { back: Homography; near: [Stride, number[]]; far: [Stride, number[]] }>();
  return (x, y, t) => {
    let at = known.get(t);
    if (!at) {
      const [near, far] = [strideNear(t), strideFar(t)];
      known.set(t, (at = { back: invert(wallAt(t))!, near: [near, coatOutline(near)], far: [far, coatOutline(far)] }));
    }
    const [u, v] = applyHomography(at.back, x, y);
    const light = flickerAt(t) * 1.25;
    const a = walkerAt(u, v, ...at.near, NEAR);
    if (a[3] === 1) return [a[0] * light, a[1] * light, a[2] * light, 1];
    const b = walkerAt(u, v, ...at.far, FAR);
    const all = a[3] + b[3] * (1 - a[3]);
    if (all === 0) return [0, 0, 0, 0];
    const mix = (c: 0 | 1 | 2): number => (light * (a[c] * a[3] + b[c] * b[3] * (1 - a[3]))) / all;
    return [mix(0), mix(1), mix(2), all];
  };
}

let dressed: Painted | null = null;
let bare: Painted | null = null;
const scene = (clean: boolean): Painted =>
  clean ? (bare ??= paintScene(-80, -70, 1040, 610, 1.4, wall)) : (dressed ??= paintScene(-80, -70, 1040, 610, 1.4, dressing));

/** The plate, and how much of each pixel the passers-by cover. */
export function renderWall(frame: number, o: WallOptions): { plate: Float32Array; front: Float32Array } {
  return filmed(scene(false), view(o, passers()), frame);
}

/** The same frame with nobody, no box and no mark: what cleaning up is measured against. */
export function renderCleanWall(frame: number, o: WallOptions): Float32Array {
  return filmed(scene(true), view(o), frame).plate;
}

/** The same frame with nobody, but with the box and the mark: what a clean plate is measured against. */
export function renderEmptyWall(frame: number, o: WallOptions): Float32Array {
  return filmed(scene(false), view(o), frame).plate;
}

const view = (o: WallOptions, inFront?: InFront) => ({
  ...o,
  shutter: SHUTTER,
  samples: SAMPLES,
  toScene: (t: number) => invert(wallAt(t))!,
  light: (x: number, y: number, t: number) => flickerAt(t) * (0.6 + 0.75 * Math.exp(-(((x - 330) / 520) ** 2) - ((y - 60) / 420) ** 2)),
  ...(inFront && { inFront }),
});

const PAVEMENT = 438;

/** Courses of rough stone with lime between them, damp below, a pavement in front. */
function wall(x: number, y: number): Rgb {
  if (y > PAVEMENT) return pavement(x, y);
  const course = Math.floor(y / 46);
  const shift = hash(course, 7, 41) * 90;
  const length = 74 + 34 * hash(course, 3, 42);
  const column = Math.floor((x + shift) / length);
  const [u, v] = [(((x + shift) % length) + length) % length, ((y % 46) + 46) % 46];
  const rough = 3 * (valueNoise(x * 0.11, y * 0.11, 43) - 0.5);
  const joint = Math.min(u, length - u, v, 46 - v) + rough;
  const lime = joint < 3 ? 1 : Math.max(0, 1 - (joint - 3) / 1.6);
  const tone = 0.75 + 0.5 * hash(column, course, 44);
  const stone = tone * (0.55 + 0.7 * fractal(x * 0.045, y * 0.06, 45) + 0.35 * (valueNoise(x * 0.5, y * 0.5, 46) - 0.5));
  const edge = 0.7 + 0.3 * Math.min(1, joint / 7);
  const damp = 1 - 0.5 * Math.min(1, Math.max(0, (y - 300 - 70 * fractal(x * 0.02, 0, 47)) / 90));
  const moss = Math.max(0, fractal(x * 0.03, y * 0.04, 48) - 0.56) * 3 * (y > 260 ? 1 : 0.2);
  const s = stone * edge * damp;
  const c: Rgb = [0.2 * s, 0.185 * s, 0.16 * s];
  const l = (0.3 + 0.14 * valueNoise(x * 0.3, y * 0.3, 49)) * damp;
  for (const [k, tint] of [1, 0.94, 0.84].entries())
    c[k] = (c[k]! * (1 - 0.6 * moss) + [0.03, 0.06, 0.02][k]! * moss) * (1 - lime) + l * tint * lime;
  return c;
}

function pavement(x: number, y: number): Rgb {
  const depth = (y - PAVEMENT) / 100;
  const flag = Math.abs(((x - 480) / (90 + 60 * depth)) % 1) < 0.02 || Math.abs(y - PAVEMENT - 4) < 3 || Math.abs(y - PAVEMENT - 58) < 2;
  const s = (0.5 + 0.7 * fractal(x * 0.05, y * 0.12, 50)) * (flag ? 0.45 : 1);
  return [0.15 * s, 0.145 * s, 0.14 * s];
}

/** The wall with what shall go: the mark, worn by the weather, and the box with its pipe and shadow. */
function dressing(x: number, y: number): Rgb {
  let c = wall(x, y);
  const [u, v] = [x - WALL_MARK.x, y - WALL_MARK.y];
  const r = Math.hypot(u, v);
  if (r < WALL_MARK.r + 2) {
    const ring = r < WALL_MARK.r && r > WALL_MARK.r - 9;
    // A fish over two waves.
    const fish =
      (Math.abs(v + 9) < 11 * Math.sqrt(Math.max(0, 1 - ((u + 4) / 24) ** 2)) && u > -28 && u < 20) ||
      (u >= 15 && u < 30 && Math.abs(v + 9) < (u - 13) * 0.8);
    const eye = Math.hypot(u + 17, v + 12) < 2.6;
    const waves = Math.abs(v - 16 - 3 * Math.sin(u * 0.28)) < 2.6 && Math.abs(u) < 32;
    const lower = Math.abs(v - 26 - 3 * Math.sin(u * 0.28 + 1)) < 2.4 && Math.abs(u) < 24;
    const worn = fractal(x * 0.09, y * 0.09, 51) < 0.62;
    if (ring && worn) c = mixed(c, [0.55, 0.1, 0.05], 0.9);
    else if (r < WALL_MARK.r - 9 && worn) c = mixed(c, (fish && !eye) || waves || lower ? [0.05, 0.12, 0.26] : [0.62, 0.6, 0.52], 0.9);
  }
  const [l, t] = CABLE_BOX[0];
  const [rr, b] = CABLE_BOX[2];
  // The shadow falls to the right and below.
  const shadow = x > l + 6 && x < rr + 14 && y > t + 8 && y < b + 16 ? 0.5 : 1;
  c = c.map((k) => k * shadow) as Rgb;
  if (Math.abs(x - (l + rr) / 2) < 7 && y > b && y < PAVEMENT + 4) {
    const round = 0.4 + 0.6 * Math.sqrt(Math.max(0, 1 - ((x - (l + rr) / 2) / 7) ** 2));
    const clamp = Math.abs(((y - b) % 70) - 35) < 5 ? 1.6 : 1;
    c = [0.22 * round * clamp, 0.225 * round * clamp, 0.24 * round * clamp];
  }
  if (x > l && x < rr && y > t && y < b) {
    const rim = Math.min(x - l, rr - x, y - t, b - y);
    const slots = y > b - 40 && y < b - 14 && Math.abs(x - (l + rr) / 2) < 26 && (y - b) % 6 > -3 ? 0.3 : 1;
    const label = x > l + 14 && x < l + 46 && y > t + 14 && y < t + 34;
    const s = (rim < 3 ? 1.25 : 1) * slots * (0.85 + 0.25 * fractal(x * 0.06, y * 0.06, 52));
    c = label ? [0.6, 0.48, 0.05] : [0.32 * s, 0.34 * s, 0.36 * s];
  }
  return c;
}

const mixed = (a: Rgb, b: Rgb, k: number): Rgb => a.map((v, i) => v * (1 - k) + b[i]! * k) as Rgb;
