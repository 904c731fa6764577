import type { Coat } from './figure';
import { poseAt, traceFigure } from './figure';
import { fractal, hash, normal } from './noise';
import type { Hair } from './strokes';
import { drawHair, growHair, newLayer, stroke, lay } from './strokes';
import type { Layer } from './strokes';

/** How a keeper plate is made; the truth follows it. */
export interface PlateOptions {
  width: number;
  height: number;
  seed: number;
  /** Scene-linear colour of the screen in even light. */
  screen: readonly [number, number, number];
  /** Standard deviation of sensor noise at a value of 1. */
  noise: number;
  /** The keeper's coat, where it is not the grey one. */
  coat?: Coat;
}

export const SG010: PlateOptions = { width: 960, height: 540, seed: 10, screen: [0.045, 0.254, 0.073], noise: 0.016 };
/** The same in a coat of the screen's own hue: no key can tell it from the screen. */
export const GREEN_COAT: PlateOptions = { ...SG010, coat: { body: [0.032, 0.15, 0.046], sleeve: [0.036, 0.168, 0.052] } };
/** Frames of it whose matte was drawn. */
export const DRAWN = [6, 18, 30, 42] as const;
export const FRAMES = { first: 1, last: 48 };

/** Scene-linear planes of three floats a pixel, and coverage. */
export interface PlateFrame {
  width: number;
  height: number;
  /** As the camera records it, before code values. */
  plate: Float32Array;
  /** True coverage of everything that is to be kept. */
  alpha: Float32Array;
  /** True colour times coverage, without the screen's spill. */
  foreground: Float32Array;
}

const SHUTTER = 0.5;

/** The keeper at a frame: body ray marched at four sub-frame samples, hair at three times, the lantern at twenty-four. */
export function renderKeeper(frame: number, o: PlateOptions): PlateFrame {
  const { width, height } = o;
  const scale = width / 960;
  const n = width * height;
  const spilt = newLayer(width, height);
  const clean = new Float32Array(3 * n);
  const hairs = growHair(o.seed + 1);
  renderCape(spilt, frame, scale, o);
  for (let i = 0; i < n; i++) for (let c = 0; c < 3; c++) clean[3 * i + c] = spilt.data[4 * i + c]!;
  renderBody(spilt, clean, frame, scale, o);
  overBoth(spilt, clean, hairLayer(width, height, hairs, frame, scale), o, 0.05);
  overBoth(spilt, clean, lanternLayer(width, height, frame, scale), o, 0);
  const plate = new Float32Array(3 * n);
  const alpha = new Float32Array(n);
  const flicker = 1 + 0.012 * Math.sin(frame * 2.1) + 0.006 * (hash(frame, 0, o.seed) - 0.5);
  const behind: [number, number, number] = [0, 0, 0];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const a = (alpha[i] = Math.min(1, spilt.data[4 * i + 3]!));
      screenAt((x + 0.5) / scale, (y + 0.5) / scale, o, behind);
      const u = (x + 0.5) / width - 0.5;
      const v = (y + 0.5) / height - 0.5;
      const vignette = 1 - 0.35 * (u * u + v * v);
      for (let c = 0; c < 3; c++) {
        const light = (spilt.data[4 * i + c]! + (1 - a) * behind[c]!) * vignette * flicker;
        const u1 = hash(x + 977 * c, y, o.seed * 7919 + frame);
        const u2 = hash(x + 977 * c, y, o.seed * 104729 + frame);
        plate[3 * i + c] = light + normal(u1, u2) * o.noise * Math.sqrt(0.012 + 0.9 * Math.max(0, light));
      }
    }
  }
  return { width, height, plate, alpha, foreground: clean };
}

/** Coverage of the cape alone and of the hair alone, whatever stands before or behind them. */
export function keeperParts(frame: number, o: PlateOptions): { cape: Float32Array; hair: Float32Array } {
  const { width, height } = o;
  const scale = width / 960;
  const alphaOf = ({ data }: Layer): Float32Array => Float32Array.from({ length: width * height }, (_, i) => Math.min(1, data[4 * i + 3]!));
  const cape = newLayer(width, height);
  renderCape(cape, frame, scale, o);
  return { cape: alphaOf(cape), hair: alphaOf(hairLayer(width, height, growHair(o.seed + 1), frame, scale)) };
}

/** The lit screen, its seam, crosses and hot spot; the stand and the tape that are to be thrown away. */
function screenAt(x: number, y: number, o: PlateOptions, out: [number, number, number]): void {
  const hot = 0.34 * Math.exp(-(((x - 690) / 210) ** 2 + ((y - 150) / 150) ** 2));
  const fall = 0.95 - 0.22 * ((x - 520) / 520) ** 2 - 0.2 * (y / 540) ** 2;
  const cloth = 1 + 0.05 * (fractal(x * 0.012, y * 0.02, o.seed + 40) - 0.5);
  let k = (fall + hot) * cloth;
  const seam = Math.abs(x - 233 - 0.012 * y);
  k *= seam < 1.6 ? 0.72 : seam < 3.4 ? 1.07 : 1;
  for (const [cx, cy] of CROSSES) {
    const [dx, dy] = [Math.abs(x - cx), Math.abs(y - cy)];
    if ((dx < 2.2 && dy < 11) || (dy < 2.2 && dx < 11)) k *= 0.62;
  }
  for (let c = 0; c < 3; c++) out[c] = o.screen[c]! * k + 0.035 * hot;
  if (y > 402 && y < 413 && x > 760 && x < 835) set(out, 0.42, 0.2, 0.06, 0.7 + 0.5 * fractal(x * 0.2, y * 0.2, 6));
  const pole = Math.abs(x - 92 - 0.02 * (540 - y));
  if (y > 96 && pole < 6.5) set(out, 0.045, 0.045, 0.05, 0.6 + 1.6 * (1 - (pole / 6.5) ** 2));
  if (y > 90 && y < 122 && pole < 20) set(out, 0.03, 0.03, 0.034, 1);
}

const CROSSES = [
  [330, 70],
  [620, 64],
  [806, 210],
  [208, 300],
  [720, 450],
  [860, 90],
  [300, 430],
] as const;

function set(out: [number, number, number], r: number, g: number, b: number, k: number): void {
  out[0] = r * k;
  out[1] = g * k;
  out[2] = b * k;
}

/** Spill by how much a surface turns to the screen behind it. */
const spillOf = (nz: number, nx: number): number => 0.035 + 0.3 * (1 - Math.max(0, nz)) ** 3 + 0.03 * Math.abs(nx);

function renderBody(spilt: Layer, clean: Float32Array, frame: number, scale: number, o: PlateOptions): void {
  const { width, height } = spilt;
  const offsets = [
    [0.25, 0.25],
    [0.75, 0.4],
    [0.35, 0.75],
    [0.8, 0.85],
  ] as const;
  const poses = offsets.map((_, i) => poseAt(frame + SHUTTER * ((i + 0.5) / 4 - 0.5)));
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let [a, r, g, b, sr, sg, sb] = [0, 0, 0, 0, 0, 0, 0];
      for (let s = 0; s < 4; s++) {
        const hit = traceFigure((x + offsets[s]![0]) / scale, (y + offsets[s]![1]) / scale, poses[s]!, o.coat);
        if (!hit) {
          if (s === 1 && a === 0 && !nearBody(x / scale, y / scale, poses[0]!.x)) break;
          continue;
        }
        a += 0.25;
        const k = spillOf(hit.normal[2], hit.normal[0]) * 0.25;
        r += hit.colour[0] * 0.25;
        g += hit.colour[1] * 0.25;
        b += hit.colour[2] * 0.25;
        sr += o.screen[0] * k;
        sg += o.screen[1] * k;
        sb += o.screen[2] * k;
      }
      if (a === 0) continue;
      const i = y * width + x;
      const d = spilt.data;
      [r + sr, g + sg, b + sb, a].forEach((v, c) => (d[4 * i + c] = d[4 * i + c]! * (1 - a) + v));
      [r, g, b].forEach((v, c) => (clean[3 * i + c] = clean[3 * i + c]! * (1 - a) + v));
    }
  }
}

const nearBody = (x: number, y: number, cx: number): boolean => x > cx - 175 && x < cx + 220 && y > 55;

/** A layer without spill over both accumulations; `spill` is the share of the screen's colour it takes on. */
function overBoth(spilt: Layer, clean: Float32Array, layer: Layer, o: PlateOptions, spill: number): void {
  const d = spilt.data;
  const f = layer.data;
  for (let i = 0; i < f.length / 4; i++) {
    const a = f[4 * i + 3]!;
    if (a <= 0) continue;
    for (let c = 0; c < 3; c++) {
      d[4 * i + c] = d[4 * i + c]! * (1 - a) + f[4 * i + c]! + a * spill * o.screen[c]!;
      clean[3 * i + c] = clean[3 * i + c]! * (1 - a) + f[4 * i + c]!;
    }
    d[4 * i + 3] = d[4 * i + 3]! * (1 - a) + a;
  }
}

/** Oilskin that lets two thirds of the screen through, with folds; it hangs from the left shoulder and stirs. */
function renderCape(layer: Layer, frame: number, scale: number, o: PlateOptions): void {
  const { x: cx, y: cy } = poseAt(frame);
  for (let py = 0; py < layer.height; py++) {
    const y = (py + 0.5) / scale - cy;
    if (y < 262) continue;
    const down = (y - 262) / 278;
    const stir = 5 * Math.sin(frame * 0.22 + y * 0.018) * down;
    const left = cx - 92 - 96 * Math.sin(Math.min(1, down * 1.25) * 1.45) ** 0.8 + stir;
    const right = cx - 40;
    for (let px = Math.max(0, Math.floor((left - 2) * scale)); px < Math.min(layer.width, right * scale); px++) {
      const x = (px + 0.5) / scale;
      const edge = Math.min(1, Math.max(0, (x - left) / 1.6 + 0.5)) * Math.min(1, Math.max(0, (y - 262) / 2));
      if (edge <= 0) continue;
      const across = (x - left) / (right - left);
      const fold =
        0.5 + 0.5 * Math.sin(across * 17 + 3 * down + 0.3 * Math.sin(frame * 0.2) + 2 * fractal(across * 3, down * 2, o.seed + 60));
      const hem = x - left < 5 ? 0.22 : 0;
      const a = edge * (0.27 + 0.13 * fold + hem);
      const k = 0.55 + 0.75 * fold;
      lay(layer, px, py, a, 0.34 * k, 0.3 * k, 0.14 * k);
    }
  }
}

function hairLayer(width: number, height: number, hairs: readonly Hair[], frame: number, scale: number): Layer {
  const sum = newLayer(width, height);
  const times = 3;
  for (let i = 0; i < times; i++) {
    const time = frame + SHUTTER * ((i + 0.5) / times - 0.5);
    const pose = poseAt(time);
    const one = newLayer(width, height);
    drawHair(one, hairs, pose.x, pose.y, -3.4 * Math.cos((2 * Math.PI * time) / 52) + 1.2 * Math.sin(time * 0.5), scale);
    for (let k = 0; k < sum.data.length; k++) sum.data[k]! += one.data[k]! / times;
  }
  return sum;
}

/** A brass lantern that swings from the hand; its flame is brighter than white. */
function lanternLayer(width: number, height: number, frame: number, scale: number): Layer {
  const sum = newLayer(width, height);
  const times = 24;
  const one = newLayer(width, height);
  for (let i = 0; i < times; i++) {
    const time = frame + SHUTTER * ((i + 0.5) / times - 0.5);
    const { hand } = poseAt(time);
    const angle = 0.52 * Math.sin((2 * Math.PI * time) / 21);
    one.data.fill(0);
    drawLantern(one, hand[0], hand[1] + 12, angle, scale);
    for (let k = 0; k < sum.data.length; k++) sum.data[k]! += one.data[k]! / times;
  }
  return sum;
}

function drawLantern(layer: Layer, hx: number, hy: number, angle: number, scale: number): void {
  const [sin, cos] = [Math.sin(angle), Math.cos(angle)];
  const at = (u: number, v: number): [number, number] => [(hx + u * cos - v * sin) * scale, (hy + u * sin + v * cos) * scale];
  const line = (u0: number, v0: number, u1: number, v1: number, w: number, colour: readonly number[]): void =>
    stroke(layer, ...at(u0, v0), ...at(u1, v1), w * scale, w * scale, colour);
  line(0, 0, 0, 34, 1.6, [0.16, 0.12, 0.06]);
  const [mx, my] = at(0, 74);
  const reach = 46 * scale;
  for (let y = Math.floor(my - reach); y <= my + reach; y++) {
    for (let x = Math.floor(mx - reach); x <= mx + reach; x++) {
      const [dx, dy] = [(x + 0.5) / scale - hx, (y + 0.5) / scale - hy];
      const u = dx * cos + dy * sin;
      const v = -dx * sin + dy * cos - 74;
      const half = v < -26 ? 6 + (v + 40) * 0.9 : v > 24 ? 20 : 17;
      const inside = Math.min(half - Math.abs(u), v + 40, 38 - v) * scale;
      const a = Math.min(1, Math.max(0, inside + 0.5));
      if (a === 0) continue;
      if (v > -24 && v < 22 && Math.abs(u) < 15.5 && Math.abs(Math.abs(u) - 8) > 1) {
        const glow = Math.exp(-((u / 8) ** 2 + ((v - 3) / 15) ** 2));
        lay(layer, x, y, a, 0.5 + 3.4 * glow, 0.3 + 2.2 * glow, 0.09 + 0.8 * glow);
      } else {
        const shine = 0.35 + 0.9 * Math.exp(-(((u + 6) / 5) ** 2));
        lay(layer, x, y, a, 0.34 * shine, 0.22 * shine, 0.07 * shine);
      }
    }
  }
}
