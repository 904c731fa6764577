import type { Vec3 } from '@/core/geometry';
import { apply3, scale3, transpose3 } from '@/core/geometry';
import type { Pose } from '@/core/space';
import { standing } from '@/core/space';
import { fractal, hash, normal } from './noise';
import { slipwayLight } from './sg050';

/** The slipway filmed by other cameras, for measuring how well a camera is found: pixels are straight, nothing ships. */
export const SPACE_CLIP = { width: 640, height: 360, frames: 36, noise: 0.012 };
export const SPACE_MOVES = ['dolly', 'handheld', 'orbit', 'turn', 'wall', 'zoom'] as const;
export type SpaceMove = (typeof SPACE_MOVES)[number];

/** World to camera at a share of a clip, and the focal length, px. */
export function spaceCamera(move: SpaceMove, s: number): { pose: Pose; focal: number } {
  const at = standing;
  const focal = 430;
  switch (move) {
    case 'dolly':
      return { pose: at([-1.4 + 2.6 * s, -1.5 - 0.1 * Math.sin(2 * s), -0.4 + 1.6 * s], 0.1 - 0.2 * s, -0.1), focal };
    case 'handheld': {
      const shake = (a: number, b: number): number => Math.sin(19 * s * a + b) + 0.4 * Math.sin(37 * s * a + 2 * b);
      return {
        pose: at(
          [0.5 * Math.sin(2.6 * s) + 0.02 * shake(1, 0), -1.6 + 0.03 * shake(1.3, 1), -0.6 + 1.8 * s],
          0.03 * shake(0.8, 2),
          -0.1 + 0.012 * shake(1.1, 3),
          0.008 * shake(0.7, 4),
        ),
        focal,
      };
    }
    case 'orbit': {
      const a = 0.6 * (s - 0.5);
      return { pose: at([0.3 - 6 * Math.sin(a), -1.7, 5.6 - 6 * Math.cos(a)], -a, -0.12), focal };
    }
    case 'turn':
      return { pose: at([-0.2, -1.6, -0.3], 0.44 * (s - 0.5), -0.1 + 0.05 * Math.sin(3 * s), 0.01 * s), focal };
    case 'wall':
      return { pose: at([-0.5 + 1.1 * s, -1.3 - 0.12 * s, 9.95 + 0.12 * s], 0.16 - 0.32 * s, 0.06 * s - 0.03), focal: 560 };
    case 'zoom':
      return { pose: at([-1 + 1.8 * s, -1.5, -0.3 + 0.5 * s], 0.06 - 0.12 * s, -0.09), focal: 400 * 1.4 ** (s * s * (3 - 2 * s)) };
  }
}

/** Balls that hang about and swing: what a camera must not be found from. */
const movers = (t: number): { at: Vec3; r: number }[] =>
  Array.from({ length: 14 }, (_, k) => {
    // The first four look like the buoys and are out of sight.
    if (k < 4) return { at: [0, 50, 0] as Vec3, r: 0.1 };
    const [a, b] = [hash(k, 1, 7), hash(k, 2, 7)];
    const z = 3.2 + 4 * b;
    return {
      at: [
        (a - 0.5) * 1.3 * z + 0.3 * Math.sin(0.21 * t + 5 * b),
        -0.5 - 1.6 * hash(k, 3, 7) + 0.12 * Math.sin(0.33 * t + k),
        z + 0.25 * Math.cos(0.17 * t + k),
      ] as Vec3,
      r: 0.32,
    };
  });

export interface SpaceClip {
  readonly move: SpaceMove;
  readonly movers?: boolean;
  /** Somebody walks by before the camera, a third of the picture wide, in the middle of the clip. */
  readonly passers?: boolean;
}

/** A frame of a clip, counted from 0: scene-linear, four floats a pixel. */
export function renderSpaceClip({ move, movers: moving, passers }: SpaceClip, index: number): Float32Array {
  const { width, height, frames, noise } = SPACE_CLIP;
  const { pose, focal } = spaceCamera(move, index / (frames - 1));
  const back = transpose3(pose.turn);
  const eye = scale3(apply3(back, pose.shift), -1);
  const balls = moving ? movers(index) : [];
  // From a third of the clip to two thirds.
  const walked = (index - frames / 3) / (frames / 3);
  const middle = passers && walked >= 0 && walked <= 1 ? (0.1 + 0.8 * walked) * width : -1e6;
  const pixels = new Float32Array(4 * width * height);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      let light: readonly [number, number, number] = [0, 0, 0];
      const covered = Math.abs(x - middle) < width / 6;
      if (covered) {
        const s = 0.04 + 0.16 * fractal((x - middle) * 0.11, y * 0.11 + 0.9 * Math.sin(0.5 * index), 190);
        light = [s, 0.9 * s, 0.8 * s];
      } else {
        for (const [sx, sy] of [
          [0.3, 0.25],
          [0.7, 0.75],
        ] as const) {
          const d = apply3(back, [(x + sx - width / 2) / focal, (y + sy - height / 2) / focal, 1]);
          const own = slipwayLight(eye, d, balls);
          light = [light[0] + own[0] / 2, light[1] + own[1] / 2, light[2] + own[2] / 2];
        }
      }
      for (let c = 0; c < 3; c++) {
        const grain = normal(hash(x + 977 * c, y, 811 + index), hash(x + 977 * c, y, 40013 + index));
        pixels[4 * i + c] = Math.max(0, light[c]! + noise * grain * Math.sqrt(0.01 + Math.max(0, light[c]!)));
      }
      pixels[4 * i + 3] = 1;
    }
  }
  return pixels;
}
