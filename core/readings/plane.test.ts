import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Pair, PlaneModel } from '../geometry/fit';
import { atScale, fitMap, invert, multiply, robustFit } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { applyHomography } from '../geometry/homography';
import { goodFeatures } from './features';
import type { GrayFrame } from './gray';
import { followPlane, measurePlane } from './measure';
import type { PlaneFrame } from './plane';
import { PLANE_SETTINGS, cornersApart } from './plane';
import { seenThrough } from './testing';
import type { PlaneReading } from './types';

const [W, H] = [220, 160];
const REGION = [55, 40, 165, 40, 165, 120, 55, 120];

/** A plane that moves, turns and tilts. */
function motion(frame: number): Homography {
  const t = frame - 1;
  const [dx, dy] = [9 * Math.sin(0.5 * t), 6 * Math.sin(0.37 * t)];
  const a = 0.12 * Math.sin(0.3 * t);
  const centre: Homography = [1, 0, -110, 0, 1, -80, 0, 0, 1];
  const back: Homography = [1, 0, 110 + dx, 0, 1, 80 + dy, 0, 0, 1];
  const tilt: Homography = [
    Math.cos(a),
    -Math.sin(a),
    0,
    Math.sin(a),
    Math.cos(a),
    0,
    0.0006 * Math.sin(0.4 * t),
    0.0005 * Math.sin(0.21 * t),
    1,
  ];
  return multiply(back, multiply(tilt, centre));
}

const reading = (change: Partial<PlaneReading> = {}): PlaneReading => ({
  id: 'p',
  name: 'p',
  kind: 'plane',
  from: { lane: 'l' },
  channel: 'luma',
  reference: 1,
  range: { first: 1, last: 10 },
  settings: PLANE_SETTINGS,
  region: { shapes: [REGION], without: [] },
  surface: [
    [60, 45],
    [160, 45],
    [160, 115],
    [60, 115],
  ],
  frames: [],
  ...change,
});

const clip = (noise = 0, over?: (f: number) => (x: number, y: number) => number | null, light: (f: number) => number = () => 1) => ({
  frame: async (f: number): Promise<GrayFrame> => seenThrough(invert(motion(f))!, W, H, { noise, seed: f, gain: light(f) }, over?.(f)),
});
const worst = (frames: readonly PlaneFrame[]): number =>
  Math.max(...frames.map((f) => cornersApart(f.homography, motion(f.frame), REGION)));

describe('plane track', () => {
  test('a tilting plane is found to a tenth of a pixel at its corners', async () => {
    const frames = await measurePlane(reading(), clip());
    expect(frames).toHaveLength(10);
    expect(worst(frames)).toBeLessThan(0.1);
    for (const f of frames) expect(f.confidence).toBeGreaterThan(0.7);
  });

  test('through noise and changing light', async () => {
    expect(
      worst(
        await measurePlane(
          reading(),
          clip(0.03, undefined, (f) => 2 ** Math.sin(f)),
        ),
      ),
    ).toBeLessThan(0.4);
  });

  test('a third of it covered by something that moves on its own', async () => {
    const over = (f: number) => (x: number) =>
      f > 3 && f < 8 && x > 30 + 9 * f && x < 65 + 9 * f ? 0.4 + 0.3 * Math.sin(0.5 * (x - 4 * f)) : null;
    const frames = await measurePlane(reading(), clip(0.01, over));
    expect(worst(frames)).toBeLessThan(0.5);
  });

  test('where nothing of it is seen any more the frames say so', async () => {
    const over = (f: number) => (f > 6 ? (x: number) => 0.5 + 0.2 * Math.sin(x + 3 * f) : () => null);
    const frames = await measurePlane(reading(), clip(0, over));
    for (const f of frames) expect(Boolean(f.flag)).toBe(f.frame > 6);
  });

  test('one frame at a time stays registered to the reference frame', async () => {
    let stepped = reading({ frames: [{ frame: 1, homography: motion(1), confidence: 1, error: 0 }] });
    for (let frame = 1; frame < 6; frame++) {
      for await (const f of followPlane(stepped, { frame, direction: 1 }, clip(0.01))) {
        stepped = { ...stepped, frames: [...stepped.frames, f] };
        break;
      }
    }
    expect(stepped.frames).toHaveLength(6);
    expect(worst(stepped.frames)).toBeLessThan(0.25);
  });

  test('corners put right by hand on a frame are kept, and what follows goes from there', async () => {
    const right = multiply([1, 0, 3, 0, 1, -2, 0, 0, 1], motion(5));
    const pinned: PlaneFrame = { frame: 5, homography: right, confidence: 1, error: 0, pinned: true };
    const frames = await measurePlane(reading({ frames: [pinned] }), clip());
    expect(frames.find((f) => f.frame === 5)).toEqual(pinned);
    const expected = multiply(motion(8), multiply(invert(motion(5))!, right));
    expect(cornersApart(frames.find((f) => f.frame === 8)!.homography, expected, REGION)).toBeLessThan(0.4);
  });
});

describe('maps from pairs', () => {
  const truth: Record<PlaneModel, Homography> = {
    shift: [1, 0, 12.5, 0, 1, -7, 0, 0, 1],
    similarity: [0.9, -0.3, 20, 0.3, 0.9, 5, 0, 0, 1],
    affine: [1.1, 0.2, -4, -0.1, 0.8, 30, 0, 0, 1],
    perspective: [1.05, 0.1, 5, -0.08, 0.95, -9, 0.0004, -0.0006, 1],
  };
  const pairsOf = (m: Homography, n: number): Pair[] =>
    Array.from({ length: n }, (_, i) => {
      const [x, y] = [40 + ((i * 73) % 200), 30 + ((i * 41) % 140)];
      const [u, v] = applyHomography(m, x, y);
      return [x, y, u, v] as const;
    });

  test.each(Object.keys(truth) as PlaneModel[])('%s: exact from exact pairs, and from some that are wrong', (model) => {
    const m = truth[model];
    expect(cornersApart(fitMap(model, pairsOf(m, 20))!, m, REGION)).toBeLessThan(1e-6);
    const wrong = pairsOf(m, 40).map((p, i): Pair => (i % 3 === 0 ? [p[0], p[1], p[2] + 15 + i, p[3] - 20] : p));
    const robust = robustFit(model, wrong, 1.5)!;
    expect(cornersApart(robust.map, m, REGION)).toBeLessThan(1e-3);
    expect(robust.inliers.filter(Boolean)).toHaveLength(26);
  });

  test('a map times its inverse changes nothing; a smaller scale is the same map', () => {
    const near = (a: number): fc.Arbitrary<number> => fc.double({ min: -a, max: a, noNaN: true });
    fc.assert(
      fc.property(near(0.3), near(0.3), near(50), near(0.0005), (a, b, t, g) => {
        const m: Homography = [1 + a, b, t, -b, 1 - a, -t, g, -g, 1];
        expect(cornersApart(multiply(m, invert(m)!), [1, 0, 0, 0, 1, 0, 0, 0, 1], REGION)).toBeLessThan(1e-6);
        const [x, y] = applyHomography(m, 80, 60);
        const [u, v] = applyHomography(atScale(m, 0.5), 40, 30);
        expect(Math.hypot(2 * u - x, 2 * v - y)).toBeLessThan(1e-6);
      }),
    );
  });

  test('features lie inside, apart, the stronger first', () => {
    const gray = seenThrough([1, 0, 0, 0, 1, 0, 0, 0, 1], W, H).read(0, 0, W, H);
    const found = goodFeatures(gray, (x) => x > 100, 30, 12);
    expect(found.length).toBeGreaterThan(15);
    for (let i = 0; i < found.length; i++) {
      expect(found[i]!.x).toBeGreaterThan(100);
      for (let k = 0; k < i; k++) {
        expect(found[k]!.strength).toBeGreaterThanOrEqual(found[i]!.strength);
        expect(Math.hypot(found[k]!.x - found[i]!.x, found[k]!.y - found[i]!.y)).toBeGreaterThanOrEqual(12);
      }
    }
  });
});
