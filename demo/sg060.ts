import type { Homography } from '@/core/geometry';
import { invert } from '@/core/geometry';
import { fractal, hash, valueNoise } from './noise';
import type { Painted, Rgb } from './plate-scene';
import { ease, filmed, handheld, paintScene } from './plate-scene';

/** SG060, the mooring: a bollard on a quay at dusk, filmed from the hand. One painted mark on it is good to hold on to. */
export const MOORING_FRAMES = { first: 1, last: 48 };
/** The mark's middle, in pixels of the steady scene, which is frame 24's picture but for the shake then. */
export const MARK = [612, 262] as const;

export interface MooringOptions {
  width: number;
  height: number;
  noise: number;
  seed: number;
}
export const SG060: MooringOptions = { width: 960, height: 540, noise: 0.02, seed: 6060 };

/** Samples of the open shutter. */
export const SG060_SAMPLES = 4;

/** From the steady scene to the frame at a time. */
export const shakeAt = (t: number): Homography =>
  handheld(
    0.008 * Math.sin(0.27 * t) + 0.003 * Math.sin(0.9 * t + 1),
    1 + 0.007 * Math.sin(0.19 * t + 0.4),
    10 * Math.sin(0.31 * t) + 4.5 * Math.sin(0.83 * t + 1) + 1.4 * Math.sin(2.1 * t),
    7 * Math.sin(0.26 * t + 2) + 3.5 * Math.sin(0.95 * t) + 1.2 * Math.sin(2.4 * t + 1),
  );

const QUAY = 372;
let painted: Painted | null = null;
/** The steady scene, painted once. */
export const mooringScene = (): Painted => (painted ??= paintScene(-60, -50, 1020, 590, 1.4, at));

export function renderMooring(frame: number, o: MooringOptions): Float32Array {
  const glint = (x: number, y: number, t: number): number => {
    if (y < 236 || y > QUAY - 12 || onBollard(x, y)) return 0;
    const near = (y - 236) / 136;
    const wave = Math.sin(x * 0.05 + 3 * Math.sin(y * 0.21 + 0.2 * t) + 0.35 * t) * Math.sin(y * (1.2 - 0.7 * near) + 0.5 * t);
    return 0.05 * Math.max(0, wave) ** 3 * (0.3 + near);
  };
  const view = { ...o, shutter: 0.5, samples: SG060_SAMPLES, toScene: (t: number) => invert(shakeAt(t))!, glint };
  return filmed(mooringScene(), view, frame).plate;
}

const onBollard = (x: number, y: number): boolean => Math.abs(x - 610) < 62 && y > 190;

function at(x: number, y: number): Rgb {
  if (y > 188 && Math.abs(x - 610) < 66) {
    const c = bollard(x, y);
    if (c) return c;
  }
  if (y < 236) return sky(x, y);
  if (y < QUAY) return water(x, y);
  return stone(x, y);
}

function sky(x: number, y: number): Rgb {
  const up = 1 - y / 236;
  const cloud = 0.5 * fractal(x * 0.006, y * 0.018, 61);
  const c: Rgb = [0.3 * (1 - 0.7 * up) + 0.1 * cloud, 0.2 * (1 - 0.5 * up) + 0.09 * cloud, 0.19 + 0.08 * up + 0.08 * cloud];
  // The far shore, with a few lights.
  const shore = 214 - 10 * valueNoise(x * 0.02, 0, 62) - 5 * valueNoise(x * 0.09, 0, 63);
  if (y > shore) {
    const lamp = hash(Math.floor(x / 26), 3, 64) > 0.6 && Math.hypot((((x % 26) + 26) % 26) - 13, y - 226) < 1.6;
    return lamp ? [1.4, 0.9, 0.35] : [0.03, 0.032, 0.045];
  }
  return c;
}

function water(x: number, y: number): Rgb {
  const near = (y - 236) / 136;
  const ripple = fractal(x * (0.03 - 0.015 * near), y * (0.3 - 0.15 * near), 65);
  return [0.06 + 0.09 * ripple * (1 - near), 0.07 + 0.08 * ripple, 0.1 + 0.09 * ripple];
}

function stone(x: number, y: number): Rgb {
  const depth = (y - QUAY) / 170;
  const row = Math.floor(Math.log(1 + 4 * depth) * 5);
  const column = Math.floor((x - 480) / (46 + 90 * depth) + (row % 2) * 0.5);
  const [fx, fy] = [((x - 480) / (46 + 90 * depth) + (row % 2) * 0.5) % 1, (Math.log(1 + 4 * depth) * 5) % 1];
  const joint = Math.min(1, 9 * Math.min(Math.abs(fx), 1 - Math.abs(fx)) + 0.3) * Math.min(1, 7 * Math.min(fy, 1 - fy) + 0.35);
  const grain = 0.55 + 0.6 * fractal(x * 0.05, y * 0.05, 66) + 0.25 * (hash(x | 0, y | 0, 67) - 0.5);
  const s = joint * grain * (0.7 + 0.5 * hash(column, row, 68)) * (y < QUAY + 8 ? 1.5 : 1);
  return [0.13 * s, 0.115 * s, 0.1 * s];
}

/** Cast iron with chips of red paint, a rope around it, and a white mark with a number's strokes. */
function bollard(x: number, y: number): Rgb | null {
  const [dx, top] = [x - 610, 198];
  const half = y < top + 26 ? 56 : y < top + 40 ? 44 : 38 + (y > 400 ? (y - 400) * 0.25 : 0);
  if (y < top || y > 452 || Math.abs(dx) > half) return null;
  const round = Math.sqrt(Math.max(0, 1 - (dx / half) ** 2));
  const lit = 0.25 + 0.75 * Math.max(0, round * 0.8 - (0.45 * dx) / half);
  const rust = fractal(x * 0.07, y * 0.05, 69);
  const flake = ease(0.5, 0.56, fractal(x * 0.045, y * 0.06, 70));
  const c: Rgb = [0.05 + 0.11 * rust + 0.26 * flake, 0.045 + 0.06 * rust + 0.03 * flake, 0.04 + 0.035 * rust + 0.03 * flake];
  // Three turns of rope.
  if (y > 318 && y < 372) {
    const turn = (y - 318 + 0.12 * dx) / 18;
    const bulge = Math.sin(Math.PI * (turn - Math.floor(turn)));
    const strand = 0.5 + 0.5 * Math.sin((dx + 2.2 * (y - 318)) * 0.55);
    for (const [i, v] of [0.36, 0.3, 0.19].entries()) c[i] = v * bulge * (0.5 + 0.6 * strand);
  }
  const [u, v] = [x - MARK[0], y - MARK[1]];
  if (Math.abs(u) < 17 && Math.abs(v) < 21) {
    const edge = 16 - Math.max(Math.abs(u) - 0.5, Math.abs(v) * 0.78);
    const worn = ease(0.62, 0.7, fractal(x * 0.11, y * 0.11, 71));
    if (edge > 0 && worn < 0.6) c.splice(0, 3, 0.72, 0.71, 0.66);
    // A seven: a bar, and a stroke that leans.
    const bar = Math.abs(u) < 9 && v > -14 && v < -8;
    const lean = Math.abs(u - (4 - 0.55 * (v + 4))) < 3.2 && v >= -9 && v < 14;
    const cross = Math.abs(u + 1) < 7 && Math.abs(v - 1) < 1.8;
    if (bar || lean || cross) c.splice(0, 3, 0.025, 0.025, 0.03);
  }
  return c.map((k) => k * lit * 1.5) as Rgb;
}
