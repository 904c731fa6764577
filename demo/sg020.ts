import type { Homography, Quad } from '@/core/geometry';
import { invert } from '@/core/geometry';
import { fractal, hash, valueNoise } from './noise';
import type { Painted, Rgb } from './plate-scene';
import { ease, filmed, handheld, paintScene } from './plate-scene';

/** SG020, the chart table: a blank framed panel with four marks on a plank wall; an arm reaches across it. */
export const TABLE_FRAMES = { first: 1, last: 48 };
/** The panel's corners in the steady scene: top left, top right, bottom right, bottom left. */
export const PANEL: Quad = [
  [338, 128],
  [664, 128],
  [664, 348],
  [338, 348],
];

export interface TableOptions {
  width: number;
  height: number;
  noise: number;
  seed: number;
}
export const SG020: TableOptions = { width: 960, height: 540, noise: 0.018, seed: 2020 };

/** From the steady scene to the frame at a time: a hand that sways and turns, seen a little from the side. */
export const tableAt = (t: number): Homography =>
  handheld(
    0.02 * Math.sin(0.17 * t) + 0.004 * Math.sin(0.9 * t),
    1 + 0.03 * Math.sin(0.11 * t + 0.3),
    16 * Math.sin(0.15 * t) + 4 * Math.sin(0.62 * t + 1) + Math.sin(1.9 * t),
    10 * Math.sin(0.13 * t + 1) + 3 * Math.sin(0.7 * t) + 0.8 * Math.sin(2.2 * t),
    [0.00022 + 0.00012 * Math.sin(0.12 * t), 0.00008 * Math.sin(0.16 * t + 1)],
  );

let painted: Painted | null = null;
const scene = (): Painted => (painted ??= paintScene(-90, -80, 1050, 620, 1.3, at));

/** The plate, and how much of each pixel the arm covers. */
export function renderTable(frame: number, o: TableOptions): { plate: Float32Array; front: Float32Array } {
  const light = (x: number, y: number, t: number): number =>
    (1 + 0.04 * Math.sin(1.3 * t) + 0.02 * Math.sin(3.7 * t)) * (0.45 + 0.9 * Math.exp(-(((x - 190) / 420) ** 2) - ((y - 120) / 380) ** 2));
  return filmed(scene(), { ...o, shutter: 0.5, samples: 8, toScene: (t) => invert(tableAt(t))!, light, inFront: arm }, frame);
}

function at(x: number, y: number): Rgb {
  const [l, t] = PANEL[0];
  const [r, b] = PANEL[2];
  const out = Math.max(l - x, x - r, t - y, y - b);
  if (out < 0) return panel(x - l, y - t, r - l, b - t);
  if (out < 26) return frame(x, y, out);
  const shade = 1 - 0.5 * Math.exp(-(Math.max(0, out - 26) / 14)) * (x > l && y > t ? 1 : 0.4);
  return wall(x, y).map((v) => v * shade) as Rgb;
}

/** Pale board, nearly even, with a cross in each corner. */
function panel(u: number, v: number, w: number, h: number): Rgb {
  const [cx, cy] = [Math.min(u, w - u), Math.min(v, h - v)];
  const cross = (Math.abs(cx - 20) < 1.6 && Math.abs(cy - 20) < 8) || (Math.abs(cy - 20) < 1.6 && Math.abs(cx - 20) < 8);
  if (cross) return [0.03, 0.035, 0.05];
  const even = 0.47 + 0.025 * valueNoise(u * 0.02, v * 0.02, 21);
  return [even, even * 0.97, even * 0.88];
}

function frame(x: number, y: number, out: number): Rgb {
  const along = fractal(x * 0.03, y * 0.2, 22) + fractal(x * 0.2, y * 0.03, 23);
  const round = Math.sin((Math.PI * out) / 26);
  const s = (0.35 + 0.65 * round) * (0.5 + 0.6 * along);
  const nail = Math.hypot((((x % 52) + 52) % 52) - 26, out - 13) < 2.4 ? 3 : 1;
  return [0.16 * s * nail, 0.085 * s * nail, 0.04 * s];
}

function wall(x: number, y: number): Rgb {
  const plank = Math.floor(y / 58);
  const gap = Math.abs((((y % 58) + 58) % 58) - 1.5) < 1.8 ? 0.25 : 1;
  const grain = fractal(x * 0.012 + 7 * plank, y * 0.16, 24 + plank) * 0.8 + 0.3 * fractal(x * 0.1, y * 0.6, 25);
  const knot = Math.hypot((x - 160 - 210 * hash(plank, 1, 26)) / 1.8, (y % 58) - 30);
  const s = gap * (0.35 + 0.9 * grain) * (knot < 9 ? 0.4 + 0.06 * knot : 1) * (0.8 + 0.4 * hash(plank, 2, 27));
  const c: Rgb = [0.25 * s, 0.165 * s, 0.095 * s];
  // Notes pinned to the wall.
  for (const [nx, ny, nw, nh, k] of [
    [150, 190, 96, 64, 0.5],
    [740, 150, 110, 78, 0.42],
    [770, 330, 84, 96, 0.46],
    [180, 350, 74, 92, 0.38],
  ] as const) {
    const [u, v] = [x - nx, y - ny];
    if (u < 0 || v < 0 || u > nw || v > nh) continue;
    const ink =
      Math.abs((v % 9) - 4) < 0.9 &&
      u > 8 &&
      u < nw - 8 - 26 * hash(Math.floor(v / 9), nx, 28) &&
      hash(Math.floor(u / 5), Math.floor(v / 9), 29) > 0.18;
    const paper = ink ? 0.1 : k * (0.9 + 0.12 * valueNoise(u * 0.08, v * 0.08, 30));
    return [paper, paper * 0.93, paper * 0.78];
  }
  return c;
}

/** A blue sleeve and a hand that come from the lower right, point across the panel and go again. */
function arm(x: number, y: number, t: number): readonly [number, number, number, number] {
  const reach = ease(11, 20, t) * (1 - ease(29, 38, t));
  if (reach <= 0) return [0, 0, 0, 0];
  const tip: readonly [number, number] = [980 - 470 * reach, 700 - 470 * reach + 14 * Math.sin(0.8 * t)];
  const far: readonly [number, number] = [tip[0] + 420, tip[1] + 330];
  const [dx, dy] = [far[0] - tip[0], far[1] - tip[1]];
  const length = Math.hypot(dx, dy);
  const along = ((x - tip[0]) * dx + (y - tip[1]) * dy) / length;
  const across = ((x - tip[0]) * -dy + (y - tip[1]) * dx) / length;
  const half = along < 0 ? 0 : along < 34 ? 9 + along * 0.35 : along < 74 ? 24 : 36 + (along - 74) * 0.07;
  const edge = along < 0 ? -along - 0.5 : 0;
  const cover = Math.min(1, Math.max(0, half - Math.abs(across) - edge + 0.5));
  if (cover <= 0) return [0, 0, 0, 0];
  const round = 0.35 + 0.65 * Math.sqrt(Math.max(0, 1 - (across / Math.max(1, half)) ** 2));
  if (along < 72) return [0.5 * round, 0.28 * round, 0.2 * round, cover];
  const weave = 0.8 + 0.3 * Math.sin(along * 0.9) * Math.sin(across * 0.9);
  const fold = 0.7 + 0.5 * fractal(along * 0.02, across * 0.04, 31);
  const s = round * weave * fold * (along < 84 ? 1.6 : 1);
  return [0.02 * s, 0.035 * s, 0.085 * s, cover];
}

/** The tide chart on a frame, as light: pale paper, a grid, the curve drawn so far, and the moon's mark. */
export function renderTide(frame: number, width: number, height: number): Float32Array {
  const out = new Float32Array(3 * width * height);
  const k = 480 / width;
  const now = 30 + ((frame - 1) / 47) * 420;
  const tide = (x: number): number => 160 - 78 * Math.sin((x - 30) * 0.032) - 22 * Math.sin((x - 30) * 0.064 + 0.6);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i += 3) {
      const [u, v] = [(x + 0.5) * k, (y + 0.5) * k];
      let c: Rgb = [0.62, 0.6, 0.5];
      if (Math.abs(u % 30) < 0.7 || Math.abs(v % 30) < 0.7) c = [0.5, 0.52, 0.48];
      if (u > 30 && u < now && v > tide(u)) c = [0.16, 0.33, 0.38];
      const slope = Math.hypot(1, (tide(u + 1) - tide(u - 1)) / 2);
      if (u > 30 && u < now && Math.abs(v - tide(u)) / slope < 2) c = [0.05, 0.1, 0.14];
      if (Math.hypot(u - now, v - tide(now)) < 7) c = [0.7, 0.2, 0.07];
      if (Math.max(8 - u, u - 472, 8 - v, v - 312) > 0) c = [0.08, 0.09, 0.1];
      out.set(c, i);
    }
  }
  return out;
}
