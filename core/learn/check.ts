import { ShotError } from '../errors';
import type { Example, Teaches } from './lesson';
import { changedOf } from './lesson';
import { CROP } from './variation';

/** Bytes that the frames of a lesson may take together. */
const MOST = 3 * 2 ** 30;

/** A target of another size than the picture. */
export function sizeProblem(
  frame: number,
  picture: { width: number; height: number },
  target: { width: number; height: number },
): string | null {
  if (picture.width === target.width && picture.height === target.height) return null;
  return (
    `the target of frame ${frame} is ${target.width}×${target.height}, the picture ${picture.width}×${picture.height}: ` +
    'conform it to the picture, or choose a lane of its size'
  );
}

/** What must be so for a lesson to be taught. Throws ShotError, saying what to do; what is only unwise is returned in words. */
export function checkExamples(examples: readonly Example[], teaches: Teaches): string[] {
  const taught = examples.filter((e) => !e.held);
  if (examples.length === 0) throw new ShotError('it is shown no frame yet: go to a frame that has a target and press "Show this frame"');
  if (taught.length === 0)
    throw new ShotError('every frame is held back, so that nothing is left to learn from: let it learn from one at least');
  const bytes = examples.reduce((s, e) => s + e.input.byteLength + e.target.byteLength, 0);
  if (bytes > MOST)
    throw new ShotError(`its frames take ${(bytes / 2 ** 30).toFixed(1)} GB together; show it fewer, or teach it on a smaller picture`);
  const small = examples.find((e) => e.width < CROP / 4 || e.height < CROP / 4);
  if (small) throw new ShotError(`frame ${small.frame} is only ${small.width}×${small.height}: too small to learn from`);
  const bad = examples.find((e) => !e.input.every(Number.isFinite) || !e.target.every(Number.isFinite));
  if (bad) throw new ShotError(`frame ${bad.frame} or its target holds NaN or infinite pixels: mend them first, with a clamp for instance`);
  const said: string[] = [];
  if (teaches === 'matte') {
    if (taught.every((e) => e.target.every((v) => v < 0.01)))
      throw new ShotError('the targets are empty: their lanes have no matte on those frames. A target’s alpha is what is learnt');
    if (taught.every((e) => e.target.every((v) => v > 0.99)))
      throw new ShotError('the targets are full everywhere: their lanes have no matte. A target’s alpha is what is learnt');
    const whole = taught.find((e) => e.target.every((v) => v > 0.99));
    if (whole) said.push(`the target of frame ${whole.frame} is full everywhere: is its matte drawn there?`);
  } else {
    const same = taught.filter((e) => changedOf(e).every((v) => v < 0.01)).map((e) => e.frame);
    if (same.length === taught.length)
      throw new ShotError('the targets are the same as the picture: choose lanes on which the change is made');
    if (same.length > 0) said.push(`on frame ${same.join(', ')} the target is the same as the picture: is the change made there?`);
  }
  said.push(...contradictions(taught));
  if (taught.length === 1) said.push('one frame alone: it will hold on frames that look like it, and hardly on others');
  return said;
}

/** Every so many pixels are looked at, along rows and down, of a hundred pairs of frames; of more of them fewer each. */
const STRIDE = 8;
/** Pictures that differ by less are alike; targets that differ by more are not. */
const ALIKE = 0.02;
const APART = { matte: 0.5, picture: 0.08 };
/** The part of what looks alike that may have another target: soft edges, noise. */
const FEW = 0.05;

/** The most that a pixel of two pictures differs by, as square roots: about as much as is seen, in the dark too. */
function apartAt(p: Float32Array, q: Float32Array, at: number, n: number): number {
  const root = (v: number): number => Math.sqrt(Math.max(0, v));
  let most = 0;
  for (let k = at; k < p.length; k += n) most = Math.max(most, Math.abs(root(p[k]!) - root(q[k]!)));
  return most;
}

/** Pairs of frames that show the same at the same places and are told otherwise there. */
function contradictions(taught: readonly Example[]): string[] {
  const pairs = (taught.length * (taught.length - 1)) / 2;
  const stride = STRIDE * Math.ceil(Math.sqrt(Math.max(1, pairs / 100)));
  return taught.flatMap((a, i) =>
    taught.slice(i + 1).flatMap((b) => {
      if (a.width !== b.width || a.height !== b.height) return [];
      const n = a.width * a.height;
      let [like, unlike] = [0, 0];
      for (let y = 0; y < a.height; y += stride)
        for (let at = y * a.width; at < (y + 1) * a.width; at += stride) {
          if (apartAt(a.input, b.input, at, n) > ALIKE) continue;
          like++;
          if (apartAt(a.target, b.target, at, n) > APART[a.target.length === n ? 'matte' : 'picture']) unlike++;
        }
      if (unlike <= FEW * like || unlike < 4) return [];
      return [
        `frames ${a.frame} and ${b.frame} look the same in places where their targets differ (${Math.round((100 * unlike) / like)} % of those): ` +
          'is one of them right on another frame?',
      ];
    }),
  );
}
