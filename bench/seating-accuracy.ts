import { lightOfFrames } from './seating-frames';
import type { Figures } from '@/core/seating/figures';
import { figuresOf, overFrames } from '@/core/seating/figures';
import { random } from '@/core/random';
import { table } from './timing';

type Planes = [Float32Array, Float32Array, Float32Array];
interface Light {
  planes: Planes;
  w: number;
  h: number;
}

function blurred(plane: Float32Array, w: number, h: number, sigma: number): Float32Array {
  const reach = Math.ceil(4 * sigma);
  const taps = Array.from({ length: 2 * reach + 1 }, (_, i) => Math.exp(-((i - reach) ** 2) / (2 * sigma * sigma)));
  const sum = taps.reduce((a, b) => a + b, 0);
  const pass = (from: Float32Array, dx: number, dy: number): Float32Array => {
    const to = new Float32Array(from.length);
    for (let y = 0, i = 0; y < h; y++)
      for (let x = 0; x < w; x++, i++)
        for (let t = -reach; t <= reach; t++)
          to[i]! +=
            (taps[t + reach]! / sum) * from[Math.max(0, Math.min(h - 1, y + t * dy)) * w + Math.max(0, Math.min(w - 1, x + t * dx))]!;
    return to;
  };
  return pass(pass(plane, 1, 0), 0, 1);
}

interface Change {
  gain: readonly [number, number, number];
  lift: readonly [number, number, number];
  sigma: number;
  grain: number;
}

function changed({ planes, w, h }: Light, { gain, lift, sigma, grain }: Change, seed: number): Light {
  const next = random(seed);
  const gauss = (): number => Math.sqrt(-2 * Math.log(Math.max(1e-12, next()))) * Math.cos(2 * Math.PI * next());
  const made = planes.map((p, c) => {
    const soft = sigma > 0 ? blurred(p, w, h, sigma) : p;
    return soft.map((v) => v * gain[c]! + lift[c]! + (grain > 0 ? grain * gauss() : 0));
  }) as Planes;
  return { planes: made, w, h };
}

const NONE: Change = { gain: [1, 1, 1], lift: [0, 0, 0], sigma: 0, grain: 0 };
const CHANGES: readonly (readonly [string, Change])[] = [
  ['gain', { ...NONE, gain: [1.4, 1.1, 0.8] }],
  ['lift', { ...NONE, lift: [0.01, 0.02, 0.035] }],
  ['blur', { ...NONE, sigma: 1.8 }],
  ['grain', { ...NONE, grain: 0.02 }],
  ['all of it', { gain: [1.3, 1.05, 0.85], lift: [0.01, 0.015, 0.02], sigma: 1.8, grain: 0.02 }],
];

const measure = (frames: readonly Light[]): Figures =>
  overFrames(frames.map(({ planes, w, h }) => figuresOf({ planes, w, h, inside: new Uint8Array(w * h).fill(1) }, 'a frame')));

const percent = (v: number): string => (Number.isFinite(v) ? `${(100 * v).toFixed(1)} %` : '—');

/** Injected differences against what the meter tells, as parts of what was injected; the worst channel. */
function recovered(is: Figures, was: Figures, change: Change): string[] {
  const worst = (of: (c: 0 | 1 | 2) => number): number => Math.max(...([0, 1, 2] as const).map((c) => Math.abs(of(c))));
  const gainOf = (c: 0 | 1 | 2): number => (is.white[c].value - is.black[c].value) / (was.white[c].value - was.black[c].value);
  const gain = worst((c) => gainOf(c) / change.gain[c] - 1);
  const lift = change.lift[0]
    ? worst((c) => (is.black[c].value - was.black[c].value * change.gain[c] - change.lift[c]) / change.lift[c])
    : NaN;
  const white = worst((c) => is.white[c].value / (was.white[c].value * change.gain[c] + change.lift[c]) - 1);
  const blur =
    change.sigma && is.softness && was.softness
      ? Math.sqrt(Math.max(0, is.softness.value ** 2 - was.softness.value ** 2)) / change.sigma - 1
      : NaN;
  // Grain of the picture's own was multiplied and, where it was blurred, smoothed away.
  const own = (c: 0 | 1 | 2): number => (change.sigma ? 0 : (was.grain?.sigma[c].value ?? 0) * change.gain[c]);
  const grain = change.grain && is.grain ? worst((c) => is.grain!.sigma[c].value / Math.hypot(change.grain, own(c)) - 1) : NaN;
  return [percent(white), percent(gain), percent(lift), percent(blur), percent(grain)];
}

export async function seatingAccuracy(root: string): Promise<string> {
  const rows: string[][] = [];
  for (const [name, shot, lane, frames] of [
    ['SG080 basin', 'sg080-begun', 'basin', [2, 9, 16, 23]],
    ['SG060 mooring', 'sg060', 'mooring', [4, 16, 28, 40]],
    ['SG040 wall', 'sg040', 'wall', [4, 16, 28, 40]],
  ] as const) {
    const lights = await lightOfFrames(root, shot, lane, frames);
    const was = measure(lights);
    for (const [what, change] of CHANGES) {
      const is = measure(lights.map((l, i) => changed(l, change, 100 + i)));
      rows.push([`${name}, ${what}`, ...recovered(is, was, change)]);
    }
  }
  return [
    'The match meter: a plate beside itself with differences put in, four frames; how far off each is told, in parts of it (the worst channel). Gains 0.8 to 1.4, lifts 0.01 to 0.035, blur of σ 1.8 px, grain of σ 0.02.',
    '',
    table(['plate and difference', 'white', 'gain', 'lift of black', 'blur', 'grain'], rows),
  ].join('\n');
}
