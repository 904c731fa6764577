import { codeOf } from './lesson';
import type { Shown } from './lesson';

const [ACROSS, DOWN] = [24, 14];

/** What a frame is like: means and deviations of its code values in 24×14 cells. */
export function featuresOf({ width: w, height: h, input }: Shown): Float32Array {
  const n = w * h;
  const cells = ACROSS * DOWN;
  const out = new Float32Array(6 * cells);
  const counts = new Float32Array(cells);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const cell = Math.floor((y * DOWN) / h) * ACROSS + Math.floor((x * ACROSS) / w);
      counts[cell]!++;
      for (let c = 0; c < 3; c++) {
        const v = codeOf(input[c * n + y * w + x]!);
        out[6 * cell + c]! += v;
        out[6 * cell + 3 + c]! += v * v;
      }
    }
  for (let cell = 0; cell < cells; cell++) {
    const k = Math.max(1, counts[cell]!);
    for (let c = 0; c < 3; c++) {
      const mean = out[6 * cell + c]! / k;
      out[6 * cell + c] = mean;
      out[6 * cell + 3 + c] = Math.sqrt(Math.max(0, out[6 * cell + 3 + c]! / k - mean * mean));
    }
  }
  return out;
}

export interface Look {
  readonly frame: number;
  readonly features: Float32Array;
}

function distance(a: Float32Array, b: Float32Array): number {
  let s = 0;
  for (let i = 0; i < a.length; i++) s += (a[i]! - b[i]!) ** 2;
  return Math.sqrt(s / a.length);
}

/**
 * Frames that would teach most, the best first: those least like all that were given (Gonzalez 1985), or without any the one in the
 * middle of all. `unsure` is 0 to 1 by frame, where that is known: it goes before.
 */
export function teachMost(looks: readonly Look[], given: readonly number[], count: number, unsure?: ReadonlyMap<number, number>): number[] {
  const chosen = [...given];
  const made: number[] = [];
  const left = looks.filter((l) => !given.includes(l.frame));
  const nearest = new Map(left.map((l) => [l.frame, Infinity]));
  const take = (frame: number): void => {
    chosen.push(frame);
    made.push(frame);
    near(frame);
  };
  const near = (frame: number): void => {
    const look = looks.find((l) => l.frame === frame);
    if (!look) return;
    for (const l of left) nearest.set(l.frame, Math.min(nearest.get(l.frame)!, distance(l.features, look.features)));
  };
  given.forEach(near);
  while (made.length < count && made.length < left.length) {
    const open = left.filter((l) => !chosen.includes(l.frame));
    if (chosen.length === 0) {
      const sums = open.map((l) => looks.reduce((s, o) => s + distance(l.features, o.features), 0));
      take(open[sums.indexOf(Math.min(...sums))]!.frame);
      continue;
    }
    // A frame that is doubtful counts as far, but not the ones beside one that was taken.
    const score = (l: Look): number => nearest.get(l.frame)! * (unsure ? 0.02 + (unsure.get(l.frame) ?? 0) : 1);
    take(open.reduce((best, l) => (score(l) > score(best) ? l : best)).frame);
  }
  return made;
}
