import { nodeKernels } from '@/engine/node/host';
import type { Kernels } from '@/kernels';
import { random } from '../random';
import { testLearnt } from '../testing/lesson';
import { Applied, LOOKS } from './apply';
import { LookPlanes } from './look';
import { TrainingNet } from './training-net';
import { CROP } from './variation';

let kernels: Kernels;
beforeAll(async () => {
  kernels = await nodeKernels();
});

const picture = (n: number, seed = 1): Float32Array[] => {
  const next = random(seed);
  return [0, 1, 2].map(() => Float32Array.from({ length: n }, () => next() * 0.6));
};
const idle = (): void => undefined;

test('a whole picture comes out as the net gives it in training, pixel for pixel', () => {
  const learnt = testLearnt('matte');
  const rgb = picture(CROP * CROP);
  const applied = new Applied(kernels, learnt);
  const out = [new Float32Array(CROP * CROP)];
  applied.run(rgb, CROP, CROP, out, idle);
  const weights = kernels.copy(learnt.weights);
  const net = new TrainingNet(kernels, weights, 1, CROP);
  const look = new LookPlanes(kernels, learnt.look);
  const rows = rgb.map((p) => kernels.copy(p));
  for (let y = 0; y < CROP; y++) {
    const [r, g, b] = rows.map((p) => p.byteOffset + 4 * y * CROP) as [number, number, number];
    look.row(r, g, b, net.input.byteOffset + 16 * ((y + 1) * (CROP + 2) + 1), CROP);
  }
  net.forward();
  let most = 0;
  for (let i = 0; i < CROP * CROP; i++) most = Math.max(most, Math.abs(out[0]![i]! - 1 / (1 + Math.exp(-net.out[i]!))));
  expect(most).toBeLessThan(1e-6);
  applied.dispose();
  net.dispose();
  look.dispose();
  [weights, ...rows].forEach((p) => kernels.give(p));
});

test('pictures of any size: no seam between bands, and what lies far away changes nothing', () => {
  const [w, h] = [211, 167];
  const rgb = picture(w * h, 3);
  const applied = new Applied(kernels, testLearnt('matte'));
  const out = [new Float32Array(w * h)];
  applied.run(rgb, w, h, out, idle);
  expect(out[0]!.every((v) => v >= 0 && v <= 1)).toBe(true);
  // Another picture beyond what a pixel can see: the same there.
  const other = rgb.map((p) => p.map((v, i) => (i % w > 190 ? 1 - v : v)));
  const again = [new Float32Array(w * h)];
  applied.run(other, w, h, again, idle);
  let near = 0;
  for (let y = 0; y < h; y++) for (let x = 0; x < 40; x++) near = Math.max(near, Math.abs(again[0]![y * w + x]! - out[0]![y * w + x]!));
  expect(near).toBe(0);
  applied.dispose();
});

test('a flat picture is flat away from its rim in every look', () => {
  const [w, h] = [320, 240];
  const rgb = [0.2, 0.3, 0.1].map((v) => new Float32Array(w * h).fill(v));
  const applied = new Applied(kernels, testLearnt('matte'));
  for (const look of LOOKS) {
    const out = [new Float32Array(w * h)];
    applied.run(rgb, w, h, out, idle, look);
    // Flat but for the grid of 4×4 pixels that the net works on.
    const seen = (x: number, y: number): number => out[0]![y * w + x]!;
    for (const [x, y] of [
      [144, 120],
      [160, 120],
      [144, 136],
    ] as const)
      expect(seen(x, y)).toBeCloseTo(seen(128, 112), 5);
  }
  applied.dispose();
});

test('where a change hardly acts the picture is passed on to the bit', () => {
  const [w, h] = [96, 64];
  const rgb = picture(w * h, 5);
  const base = testLearnt('change');
  const learnt = { ...base, look: { ...base.look, table: new Float32Array(base.look.table.length).fill(-4) } };
  const applied = new Applied(kernels, learnt);
  const out = [0, 1, 2, 3].map(() => new Float32Array(w * h));
  applied.run(rgb, w, h, out, idle);
  expect(Math.max(...out[3]!)).toBeLessThan(0.004);
  [0, 1, 2].forEach((c) => expect(out[c]).toEqual(rgb[c]));
  applied.dispose();
});

test('given up in the middle it leaves nothing behind', () => {
  const before = kernels.used;
  const applied = new Applied(kernels, testLearnt('matte'));
  const own = kernels.used;
  const rgb = picture(200 * 100);
  for (const after of [1, 4, 9, 12]) {
    let polls = 0;
    expect(() =>
      applied.run(rgb, 200, 100, [new Float32Array(20_000)], () => {
        if (++polls === after) throw new Error('given up');
      }),
    ).toThrow('given up');
    expect(kernels.used).toBe(own);
  }
  applied.dispose();
  expect(kernels.used).toBe(before);
});
