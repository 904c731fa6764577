import { nodeKernels } from '@/engine/node/host';
import { random } from '../random';
import type { TestPicture, TestStep } from '../testing/evaluate';
import { evaluate } from '../testing/evaluate';
import { denseFlow, giveLevels, levelsOf } from './dense';
import { consistency } from './consistency';
import { sceneOf } from '../testing/scenes';

const [W, H] = [96, 72];

/** A sum of waves: a picture with detail everywhere, at any place. */
const WAVES = (() => {
  const next = random(4);
  return Array.from({ length: 24 }, (_, k) => {
    const [length, angle] = [4 + 1.5 * k, 7 * next()];
    return { fx: (2 * Math.PI * Math.cos(angle)) / length, fy: (2 * Math.PI * Math.sin(angle)) / length, phase: 7 * next() };
  });
})();
const cloth = (x: number, y: number): number => 0.4 + WAVES.reduce((s, w) => s + 0.025 * Math.sin(w.fx * x + w.fy * y + w.phase), 0);

/** Motion found between two functions of place, white at 1. */
async function flowOf(from: (x: number, y: number) => number, to: (x: number, y: number) => number) {
  const kernels = await nodeKernels();
  const before = kernels.used;
  const gray = (f: (x: number, y: number) => number): Float32Array =>
    Float32Array.from({ length: W * H }, (_, i) => 255 * f((i % W) + 0.5, Math.floor(i / W) + 0.5));
  const [a, b] = [levelsOf(kernels, gray(from), W, H), levelsOf(kernels, gray(to), W, H)];
  const [there, back] = [denseFlow(kernels, a, b, { finest: 0 }), denseFlow(kernels, b, a, { finest: 0 })];
  const apart = consistency(kernels, there, back, W, H);
  const made = { u: Float32Array.from(there.u), v: Float32Array.from(there.v), apart: Float32Array.from(apart) };
  [there, back].forEach((f) => [f.u, f.v].forEach((p) => kernels.give(p)));
  kernels.give(apart);
  [a, b].forEach((l) => giveLevels(kernels, l));
  expect(kernels.used).toBe(before);
  return made;
}

const inner = (f: (i: number, x: number, y: number) => void): void => {
  for (let y = 8; y < H - 8; y++) for (let x = 8; x < W - 8; x++) f(y * W + x, x + 0.5, y + 0.5);
};

describe('motion of every pixel', () => {
  test('a picture that stands still does not move', async () => {
    const { u, v } = await flowOf(cloth, cloth);
    expect(Math.max(...u.map(Math.abs), ...v.map(Math.abs))).toBeLessThan(1e-3);
  });

  test('a shift is found to a fortieth of a pixel, on average', async () => {
    const { u, v } = await flowOf(cloth, (x, y) => cloth(x - 3.4, y + 1.7));
    let [sum, n] = [0, 0];
    inner((i) => ([sum, n] = [sum + Math.hypot(u[i]! - 3.4, v[i]! + 1.7), n + 1]));
    expect(sum / n).toBeLessThan(0.025);
  });

  test('so is a turn', async () => {
    const [c, s] = [Math.cos(0.06), Math.sin(0.06)];
    const about = (x: number, y: number): [number, number] => [x - W / 2, y - H / 2];
    const { u, v } = await flowOf(cloth, (x, y) => {
      const [dx, dy] = about(x, y);
      return cloth(W / 2 + c * dx + s * dy, H / 2 - s * dx + c * dy);
    });
    let [sum, n] = [0, 0];
    inner((i, x, y) => {
      const [dx, dy] = about(x, y);
      [sum, n] = [sum + Math.hypot(u[i]! - (c * dx - s * dy - dx), v[i]! - (s * dx + c * dy - dy)), n + 1];
    });
    expect(sum / n).toBeLessThan(0.05);
  });

  test('what gets covered is told: there and back do not agree', async () => {
    const disc = (x: number, y: number, cx: number): number =>
      Math.hypot(x - cx, y - H / 2) < 14 ? cloth(x * 1.7 - cx * 1.7 + 300, y * 1.4) : cloth(x, y);
    const { apart } = await flowOf(
      (x, y) => disc(x, y, 40),
      (x, y) => disc(x, y, 48),
    );
    // Right of the disc, where it will be; and far from it.
    expect(apart[(H / 2) * W + 58]).toBeGreaterThan(1);
    expect(apart[(H / 2) * W + 85]).toBeLessThan(0.5);
  });
});

describe('steps on motion', () => {
  /** A cloth that moves 4 px a frame to the right. */
  const drift: TestPicture = { width: W, height: H, fill: { R: 0, G: 0, B: 0 } };
  // The picture of a test has one frame: a transform with keys moves it.
  const clothPicture: TestPicture = {
    ...drift,
    fill: Object.fromEntries(['R', 'G', 'B'].map((c) => [c, (x: number, y: number) => cloth(x + 0.5, y + 0.5)])),
  };
  const move = {
    type: 'transform',
    params: {
      translate: {
        keys: [1, 10].map((frame) => ({ frame, value: [4 * (frame - 1), 0] as [number, number], ease: 'linear' as const })),
      },
    },
  };

  test('motion vectors are in pixels of the full format, and say how sure they are', async () => {
    const got = await evaluate({ main: clothPicture }, [move, { type: 'motionVectors' }], {
      frame: 3,
      channels: ['R', 'motion.X', 'motion.Y', 'confidence'],
    });
    expect(got.at('motion.X', 60, 40)).toBeCloseTo(4, 1);
    expect(got.at('motion.Y', 60, 40)).toBeCloseTo(0, 1);
    expect(got.at('confidence', 60, 40)).toBeGreaterThan(0.9);
    expect(got.plan.root.info.passes?.find((p) => p.role === 'motion')?.name).toBe('motion');
  });

  test('the last frame of the shot takes the motion from the one before', async () => {
    const got = await evaluate({ main: clothPicture }, [move, { type: 'motionVectors' }], { frame: 10, channels: ['motion.X'] });
    expect(got.at('motion.X', 70, 40)).toBeCloseTo(4, 1);
  });

  test('between two frames each pixel is where it was then, not twice half there', async () => {
    const at = (between: string) =>
      evaluate({ main: clothPicture }, [move, { type: 'retime', params: { by: 'source', source: 3.5, between } }], { frame: 1 });
    const [motion, blend] = [await at('motion'), await at('blend')];
    const truth = (x: number, y: number): number => cloth(x + 0.5 - 10, y + 0.5);
    const error = (got: typeof motion): number => {
      let [sum, n] = [0, 0];
      for (let y = 10; y < H - 10; y++)
        for (let x = 26; x < W - 10; x++) [sum, n] = [sum + Math.abs(got.at('R', x, y) - truth(x, y)), n + 1];
      return sum / n;
    };
    expect(error(motion)).toBeLessThan(0.004);
    expect(error(blend)).toBeGreaterThan(5 * error(motion));
  });

  test('a render is retimed by its own motion pass: a plain card stands where it stood in between', async () => {
    const card: TestPicture = { width: 30, height: 30, fill: { R: 0.8, G: 0.4, B: 0.2, A: 1 } };
    // Without a texture nothing can be measured inside it, and ten pixels are far.
    const at = { keys: [1, 5].map((frame) => ({ frame, value: [-0.8 + 0.4 * (frame - 1), 0, 0], ease: 'linear' as const })) };
    const scene = sceneOf(
      { a: { casts: false, size: 1, at: at as never } },
      { over: false, give: 'layers' },
      { 'a.picture': { lane: 'card' } },
    );
    const [w, h] = [96, 64];
    const seen = (steps: TestStep[], frame: number) =>
      evaluate({ main: { width: w, height: h, fill: { R: 0, G: 0, B: 0, A: 0 } }, card }, [scene, ...steps], {
        frame,
        channels: ['R', 'A', 'motion.X'],
      });
    const step = { type: 'retime', params: { by: 'source', source: 2.5, between: 'motion', follows: 'pass' } };
    const [made, before] = [await seen([step], 1), await seen([], 2)];
    const middle = (got: typeof made): number => {
      let [sum, x] = [0, 0];
      for (let i = 0; i < w; i++) [sum, x] = [sum + got.at('A', i, h / 2), x + (i + 0.5) * got.at('A', i, h / 2)];
      return x / sum;
    };
    const ahead = before.at('motion.X', Math.floor(middle(before)), h / 2);
    expect(ahead).toBeCloseTo((0.4 * 96) / 3, 1);
    expect(middle(made)).toBeCloseTo(middle(before) + ahead / 2, 0);
    // As sharp as it was: a blend would show both at half.
    for (let i = 0; i < w; i++) {
      const a = made.at('A', i, h / 2);
      if (Math.abs(i + 0.5 - middle(made)) < 14) expect(a).toBeCloseTo(1, 2);
      if (Math.abs(i + 0.5 - middle(made)) > 18) expect(Math.abs(a)).toBeLessThan(0.05);
    }
    const lacking = await evaluate({ main: clothPicture }, [step], { frame: 1 });
    expect(lacking.plan.remarks[0]!.message).toContain('no motion pass');
  });

  test('what moves along its own motion is blurred by it', async () => {
    const got = await evaluate(
      { main: clothPicture },
      [move, { type: 'motionVectors' }, { type: 'vectorBlur', params: { shutter: 360, phase: -180 } }],
      {
        frame: 3,
      },
    );
    // A box of 4 px along x, of a picture 8 px to the right.
    let worst = 0;
    for (let x = 40; x < 70; x++) {
      const mean = Array.from({ length: 33 }, (_, k) => cloth(x + 0.5 - 8 + (4 * (k - 16)) / 33, 36.5)).reduce((a, b) => a + b, 0) / 33;
      worst = Math.max(worst, Math.abs(got.at('R', x, 36) - mean));
    }
    expect(worst).toBeLessThan(0.03);
  });
});
