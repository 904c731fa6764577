import { random } from '../random';
import type { Vec3 } from '../geometry/vec3';
import type { Pose } from './pose';
import { seenFrom, standing } from './pose';
import type { SolveTrack } from './tracks';

export const CLIP_FORMAT = { width: 960, height: 540 };

export const CLIP_MOVES = ['dolly', 'handheld', 'orbit', 'turn', 'wall', 'zoom'] as const;
export type ClipMove = (typeof CLIP_MOVES)[number];

/** Where the camera of a clip stands at a share of it, and its focal length, px. */
export function clipCamera(move: ClipMove, s: number): { pose: Pose; focal: number } {
  const at = standing;
  const focal = 780;
  switch (move) {
    case 'dolly':
      return { pose: at([-1.5 + 3 * s, -1.5 - 0.1 * Math.sin(2 * s), -0.4 + 2 * s], 0.1 - 0.2 * s, -0.08), focal };
    case 'handheld': {
      const shake = (a: number, b: number): number => Math.sin(31 * s * a + b) + 0.5 * Math.sin(57 * s * a + 2 * b);
      return {
        pose: at(
          [0.4 * Math.sin(3 * s) + 0.03 * shake(1, 0), -1.6 + 0.05 * shake(1.3, 1), 2.2 * s],
          0.05 * shake(0.8, 2),
          -0.05 + 0.02 * shake(1.1, 3),
          0.01 * shake(0.7, 4),
        ),
        focal,
      };
    }
    case 'orbit': {
      const a = 0.7 * (s - 0.5);
      return { pose: at([-6 * Math.sin(a), -1.7, 6 - 6 * Math.cos(a)], -a, -0.1), focal };
    }
    case 'turn':
      return { pose: at([0, -1.6, 0], 0.5 * (s - 0.5), -0.05 + 0.06 * Math.sin(3 * s), 0.01 * s), focal };
    case 'wall':
      return { pose: at([-1.2 + 2.4 * s, -1.2 - 0.8 * s, 1.5 * s], 0.25 - 0.5 * s, -0.05 + 0.1 * s), focal };
    case 'zoom':
      return { pose: at([-1 + 2 * s, -1.5, 0.6 * s], 0.08 - 0.16 * s, -0.06), focal: 700 * 1.45 ** (s * s * (3 - 2 * s)) };
  }
}

export interface ClipOptions {
  frames?: number;
  tracks?: number;
  /** Standard deviation of what is found, px. */
  noise?: number;
  seed?: number;
  /** Share of tracks on things that move. */
  movers?: number;
  /** Frames between which a third of the picture is covered. */
  covered?: readonly [number, number];
  /** On every frame, as placed by hand. */
  hand?: boolean;
  /** Radial term k1 of the lens. */
  k1?: number;
}

export interface Clip {
  readonly tracks: SolveTrack[];
  readonly truth: { readonly pose: Pose; readonly focal: number }[];
  readonly points: Vec3[];
  readonly frames: { readonly first: number; readonly last: number };
}

/** Tracks as a camera that moves in a known way would give them. */
export function makeClip(move: ClipMove, options: ClipOptions = {}): Clip {
  const { frames = 48, tracks: count = 160, noise = 0.15, seed = 1, movers = 0, covered, hand = false, k1 = 0 } = options;
  const next = random(seed);
  const gauss = (): number => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
  const truth = Array.from({ length: frames }, (_, t) => clipCamera(move, t / (frames - 1)));
  const { width, height } = CLIP_FORMAT;
  const project = (t: number, p: Vec3): [number, number] | null => {
    const [x, y, z] = seenFrom(truth[t]!.pose, p);
    if (z < 0.3) return null;
    const [a, b] = [x / z, y / z];
    const g = 1 + k1 * (a * a + b * b);
    const at: [number, number] = [width / 2 + truth[t]!.focal * a * g, height / 2 + truth[t]!.focal * b * g];
    return at[0] > 8 && at[1] > 8 && at[0] < width - 8 && at[1] < height - 8 ? at : null;
  };
  const place = (): Vec3 => {
    if (move === 'wall') return [-5 + 10 * next(), -4 + 4 * next(), 7];
    // Some on the ground, some standing, some far.
    const kind = next();
    const z = 2.6 + 9 * next();
    if (kind < 0.35) return [(next() - 0.5) * 1.6 * z, 0, z];
    if (kind < 0.85) return [(next() - 0.5) * 1.4 * z, -2.4 * next(), z];
    return [(next() - 0.5) * 22, -6 * next(), 14];
  };
  const made: SolveTrack[] = [];
  const points: Vec3[] = [];
  for (let tries = 0; made.length < count && tries < 60 * count; tries++) {
    const p = place();
    const moving = next() < movers;
    const drift: Vec3 = [0.03 * (next() - 0.5), 0.008 * (next() - 0.5), 0.02 * (next() - 0.5)];
    // What walks or swings does not go in a straight line: that would be seen as a place that stands still.
    const swing = 0.15 + 0.2 * next();
    const born = hand ? 0 : Math.max(0, Math.floor((1.5 * next() - 0.5) * frames * 0.85));
    const life = hand ? frames : 10 + Math.floor(next() * frames);
    const [list, at]: [number[], number[]] = [[], []];
    for (let t = born; t < Math.min(frames, born + life); t++) {
      const where: Vec3 = moving ? [p[0] + drift[0] * t + swing * Math.sin(0.25 * t + p[0]), p[1] + drift[1] * t, p[2] + drift[2] * t] : p;
      const seen = project(t, where);
      const hidden = covered && t >= covered[0] && t <= covered[1] && seen && seen[0] > width / 3 && seen[0] < (2 * width) / 3;
      if (!seen || hidden) {
        if (list.length) break;
        continue;
      }
      list.push(t + 1);
      at.push(seen[0] + noise * gauss(), seen[1] + noise * gauss());
    }
    if (list.length < (hand ? frames : 5)) continue;
    made.push({ id: `${moving ? 'm' : 't'}${made.length}`, weight: hand ? 4 : 1, frames: list, at });
    points.push(p);
  }
  return { tracks: made, truth, points, frames: { first: 1, last: frames } };
}
