import { nodeKernels } from '@/engine/node/host';
import { invert, multiply } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { mapPoint } from '../geometry/homography';
import type { GrayFrame } from './gray';
import { followPlane, measurePlane } from './measure';
import type { PlaneFrame } from './plane';
import { PLANE_SETTINGS, cornersApart } from './plane';
import { seenThrough } from './testing';
import type { PlaneReading } from './types';

const kernels = await nodeKernels();

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
  test.each([
    ['to the end', 99, false],
    ['where it begins', 1, true],
    ['while going on from a measured frame', 4, true],
    ['on its way', 6, true],
  ])('measured %s, it gives back what it keeps in the kernels’ memory', async (_, missing, fails) => {
    const used = kernels.used;
    const whole = clip(0.01);
    const frame = (f: number): Promise<GrayFrame> => (f === missing ? Promise.reject(new Error('no such frame')) : whole.frame(f));
    const known = [1, 2, 3, 4].map((f) => ({ frame: f, homography: motion(f), confidence: 1, error: 0 }));
    const run = async (): Promise<void> => {
      for await (const f of followPlane(kernels, reading({ frames: known }), { frame: 4, direction: 1 }, { frame }))
        expect(f.frame).toBeGreaterThan(4);
    };
    await (fails ? expect(run()).rejects.toThrow('no such frame') : run());
    expect(kernels.used).toBe(used);
  });

  test('a tilting plane is found to a tenth of a pixel at its corners', async () => {
    const frames = await measurePlane(kernels, reading(), clip());
    expect(frames).toHaveLength(10);
    expect(worst(frames)).toBeLessThan(0.1);
    for (const f of frames) expect(f.confidence).toBeGreaterThan(0.7);
  });

  test('through noise and changing light', async () => {
    expect(
      worst(
        await measurePlane(
          kernels,
          reading(),
          clip(0.03, undefined, (f) => 2 ** Math.sin(f)),
        ),
      ),
    ).toBeLessThan(0.4);
  });

  test('a third of it covered by something that moves on its own', async () => {
    const over = (f: number) => (x: number) =>
      f > 3 && f < 8 && x > 30 + 9 * f && x < 65 + 9 * f ? 0.4 + 0.3 * Math.sin(0.5 * (x - 4 * f)) : null;
    const frames = await measurePlane(kernels, reading(), clip(0.01, over));
    expect(worst(frames)).toBeLessThan(0.5);
  });

  test('a jolt of several times a feature’s window between two frames is followed', async () => {
    // Blotches of many sizes, nowhere alike; the shift of each frame is another.
    const lattice = (x: number, y: number, k: number): number => Math.abs((Math.sin(x * 127.1 + y * 311.7 + k * 74.7) * 43758.5453) % 1);
    const blotch = (x: number, y: number, k: number): number => {
      const [i, j] = [Math.floor(x), Math.floor(y)];
      const [u, v] = [x - i, y - j].map((t) => t * t * (3 - 2 * t)) as [number, number];
      const across = (row: number): number => lattice(i, row, k) + u * (lattice(i + 1, row, k) - lattice(i, row, k));
      return across(j) + v * (across(j + 1) - across(j));
    };
    const ground = (x: number, y: number): number => [31, 17, 9, 5].reduce((s, size, k) => s + blotch(x / size, y / size, k) / 4, 0);
    const jolt = (f: number): Homography => [1, 0, 34 * ((f * 7) % 3), 0, 1, 26 * ((f * 5) % 2), 0, 0, 1];
    const home = invert(jolt(1))!;
    const frames = await measurePlane(kernels, reading({ range: { first: 1, last: 6 } }), {
      frame: async (f) => {
        const back = invert(multiply(jolt(f), home))!;
        return seenThrough(back, 320, 240, { noise: 0.01, seed: f }, (x, y) => ground(...mapPoint(back, x, y)));
      },
    });
    expect(frames).toHaveLength(6);
    for (const f of frames) {
      expect(cornersApart(f.homography, multiply(jolt(f.frame), home), REGION)).toBeLessThan(0.2);
      expect(f.flag).toBeUndefined();
    }
  });

  test('where nothing of it is seen any more the frames say so', async () => {
    const over = (f: number) => (f > 6 ? (x: number) => 0.5 + 0.2 * Math.sin(x + 3 * f) : () => null);
    const frames = await measurePlane(kernels, reading(), clip(0, over));
    for (const f of frames) expect(Boolean(f.flag)).toBe(f.frame > 6);
  });

  test('one frame at a time stays registered to the reference frame', async () => {
    let stepped = reading({ frames: [{ frame: 1, homography: motion(1), confidence: 1, error: 0 }] });
    for (let frame = 1; frame < 6; frame++) {
      for await (const f of followPlane(kernels, stepped, { frame, direction: 1 }, clip(0.01))) {
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
    const frames = await measurePlane(kernels, reading({ frames: [pinned] }), clip());
    expect(frames.find((f) => f.frame === 5)).toEqual(pinned);
    const expected = multiply(motion(8), multiply(invert(motion(5))!, right));
    expect(cornersApart(frames.find((f) => f.frame === 8)!.homography, expected, REGION)).toBeLessThan(0.4);
  });
});
