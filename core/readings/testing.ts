import type { Homography } from '../geometry/homography';
import { applyHomography } from '../geometry/homography';
import type { GrayFrame } from './gray';
import { frameOf } from './gray';

/** Smooth, rich and without repeats: some waves of many directions. Values about 0..1. */
export function texture(x: number, y: number, seed = 1): number {
  let sum = 0;
  for (let k = 0; k < 7; k++) {
    const a = 2.399963 * (k + 1) * seed;
    const f = 0.06 + 0.09 * k;
    sum += Math.sin(f * (x * Math.cos(a) + y * Math.sin(a)) + 1.7 * k * seed) / (1 + 0.12 * k);
  }
  return 0.5 + 0.13 * sum;
}

export interface Shake {
  gain?: number;
  bias?: number;
  noise?: number;
  seed?: number;
}

/** A picture of the texture seen through the inverse of a map, with noise. */
export function seenThrough(
  inverse: Homography,
  width: number,
  height: number,
  { gain = 1, bias = 0, noise = 0, seed = 1 }: Shake = {},
  over?: (x: number, y: number) => number | null,
): GrayFrame {
  let state = seed * 7919 + 17;
  const next = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
  const data = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const [u, v] = applyHomography(inverse, x + 0.5, y + 0.5);
      const grain = noise * (next() + next() + next() - 1.5) * 2;
      data[i] = (over?.(x + 0.5, y + 0.5) ?? texture(u, v)) * gain + bias + grain;
    }
  }
  return frameOf({ width, height, data });
}

/** A clip on which a point is hard to follow: its frames, and where the point truly is. */
export interface HardClip {
  name: string;
  frames: number;
  frame(f: number): GrayFrame;
  truth(f: number): readonly [number, number];
  pattern: readonly [number, number, number, number];
}

const SIZE = 200;
const smooth = (t: number): number => 1 / (1 + Math.exp(-t));

/** A scene that is moved by a hand: sideways, with a shake, and some noise. */
function moved(
  name: string,
  scene: (u: number, v: number, f: number) => number,
  noise: number,
  half = 12,
  /** Where the detail moves to within its scene. */
  own: (f: number) => readonly [number, number] = () => [0, 0],
): HardClip {
  const path = (f: number): [number, number] => [
    2.3 * (f - 1) + 1.5 * Math.sin(f * 1.9),
    1.1 * (f - 1) + 1.2 * Math.cos(f * 2.3) - 1.2 * Math.cos(2.3),
  ];
  const [x0, y0] = [80, 90];
  return {
    name,
    frames: 20,
    pattern: [-half, -half, half + 1, half + 1],
    truth: (f) => [x0 + path(f)[0] - path(1)[0] + own(f)[0] - own(1)[0], y0 + path(f)[1] - path(1)[1] + own(f)[1] - own(1)[1]],
    frame(f) {
      const [dx, dy] = [path(f)[0] - path(1)[0], path(f)[1] - path(1)[1]];
      let state = f * 7919 + 17;
      const next = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
      const data = new Float32Array(SIZE * SIZE);
      for (let y = 0, i = 0; y < SIZE; y++) {
        for (let x = 0; x < SIZE; x++, i++) {
          data[i] = scene(x + 0.5 - dx - x0, y + 0.5 - dy - y0, f) + noise * (next() + next() + next() - 1.5) * 2;
        }
      }
      return frameOf({ width: SIZE, height: SIZE, data });
    },
  };
}

const SWAY = 2.5;

/** Clips on which a tracker goes wrong without knowing, if it does not look for that; and one on which it has no reason to. */
export const HARD_CLIPS: readonly HardClip[] = [
  moved('good detail', (u, v) => texture(u, v), 0.01),
  moved('straight edge', (u, v) => 0.2 + 0.6 * smooth((u * 0.9 + v * 0.44) / 1.2), 0.01),
  moved('rope of equal strands', (u, v) => (Math.abs(v) < 14 ? 0.45 + 0.25 * Math.sin(((u + v) * Math.PI) / 6) : 0.2), 0.015, 5),
  moved('checkerboard', (u, v) => 0.3 + 0.4 * smooth(6 * Math.sin((u * Math.PI) / 10) * Math.sin((v * Math.PI) / 10)), 0.01, 9),
  // Leaves that each move by themselves: the detail sways with its own.
  moved(
    'foliage in wind',
    (u, v, f) => texture(1.6 * u + SWAY * Math.sin(f * 1.3 + v / 9), 1.6 * v + SWAY * Math.cos(f * 0.9 + u / 7), 3),
    0.02,
    9,
    (f) => [(-SWAY / 1.6) * Math.sin(f * 1.3), (-SWAY / 1.6) * Math.cos(f * 0.9)],
  ),
  moved('bare sky', (_, v) => 0.6 + v * 2e-4, 0.01),
];
