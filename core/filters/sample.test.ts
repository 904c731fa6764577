import { nodeKernels } from '@/engine/node/host';
import { invert } from '../geometry/fit';
import { rect } from '../geometry/rect';
import { tapsOf } from './resample';
import { Packed, sampleThrough } from './sample';
import { Sizes } from './sizes';

const [SW, SH, W, H] = [19, 13, 17, 11];
const source = Float32Array.from({ length: SW * SH }, (_, i) => Math.sin(i * 1.3) + 0.1 * (i % SW));
const at = (x: number, y: number): number => (x < 0 || y < 0 || x >= SW || y >= SH ? 0 : source[y * SW + x]!);
const catmullRom = (t: number): number => (t < 1 ? 1.5 * t ** 3 - 2.5 * t ** 2 + 1 : t < 2 ? -0.5 * t ** 3 + 2.5 * t ** 2 - 4 * t + 2 : 0);
const tent = (t: number): number => Math.max(0, 1 - t);

/** The value between pixels by a kernel of two pixels' reach; nothing beyond the edges. */
function between(u: number, v: number, kernel: (t: number) => number): number {
  const [x, y] = [u - 0.5, v - 0.5];
  let sum = 0;
  for (let j = Math.floor(y) - 1; j <= Math.floor(y) + 2; j++) {
    for (let i = Math.floor(x) - 1; i <= Math.floor(x) + 2; i++) sum += kernel(Math.abs(x - i)) * kernel(Math.abs(y - j)) * at(i, j);
  }
  return sum;
}

type Map9 = readonly [number, number, number, number, number, number, number, number, number];

function naive(m: Map9, x: number, y: number, cubic: boolean, most: number): number {
  const place = (u: number, v: number): [number, number] => {
    const w = m[6] * u + m[7] * v + m[8];
    return [(m[0] * u + m[1] * v + m[2]) / w, (m[3] * u + m[4] * v + m[5]) / w];
  };
  const e = 1e-5;
  const [c, a, b] = [place(x + 0.5, y + 0.5), place(x + 0.5 + e, y + 0.5), place(x + 0.5, y + 0.5 + e)];
  const stretch = Math.max(Math.hypot(a[0] - c[0], a[1] - c[1]), Math.hypot(b[0] - c[0], b[1] - c[1])) / e;
  const n = Math.min(most, Math.max(1, Math.floor(stretch + 0.5)));
  let sum = 0;
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) sum += between(...place(x + (i + 0.5) / n, y + (j + 0.5) / n), n > 1 || !cubic ? tent : catmullRom);
  }
  return sum / (n * n);
}

describe('a picture seen through a plane in perspective', () => {
  const tilted: Map9 = [1.02, 0.08, -1.3, -0.05, 0.97, 0.6, 0.004, -0.003, 1];
  test.each([
    ['Catmull–Rom', tilted, true, 4],
    ['bilinear', tilted, false, 4],
    ['reduced, many samples a pixel', [2.6, 0.1, -9, 0.2, 2.2, -6, 0.002, 0.001, 1] as const, true, 4],
    ['reduced, two at most', [2.6, 0.1, -9, 0.2, 2.2, -6, 0.002, 0.001, 1] as const, true, 2],
    ['far outside', [1, 0, 500, 0, 1, 500, 0, 0, 1] as const, true, 4],
  ])('%s', async (_, m, cubic, most) => {
    const k = await nodeKernels();
    const before = k.used;
    // Five planes are two groups; the fifth is the first one again.
    const gains = [1, 2, -1, 0.5, 1];
    const planes = gains.map((g) => k.copy(source.map((v) => g * v)));
    const outs = gains.map(() => k.zeros(W * H));
    outs[0]!.fill(0.25);
    const packed = Packed.of(k, planes, rect(0, 0, SW, SH));
    const want = rect(2, -1, 2 + W, -1 + H);
    sampleThrough(k, packed, outs, want, m, tapsOf(cubic ? 'catmullRom' : 'bilinear'), { most, gain: 0.5, lays: 'add' });
    for (let y = 0; y < H; y++) {
      for (let x = 0; x < W; x++) {
        const wanted = naive(m, x + 2, y - 1, cubic, most);
        gains.forEach((g, i) => expect(Math.abs(outs[i]![y * W + x]! - (i === 0 ? 0.25 : 0) - 0.5 * g * wanted)).toBeLessThan(2e-4));
      }
    }
    packed.give();
    [...planes, ...outs].forEach((p) => k.give(p));
    expect(k.used).toBe(before);
  });
});

test.each(['bilinear', 'mitchell', 'catmullRom', 'lanczos3'] as const)('%s by a map of positions is %s by the matrix', async (filter) => {
  const k = await nodeKernels();
  const m = [0.9, 0.2, 0.4, -0.15, 0.95, 1.2, 0, 0, 1] as const;
  const more = (W + 1) * (H + 1);
  const [plane, byMatrix, byMap, xs, ys] = [k.copy(source), k.take(W * H), k.take(W * H), k.take(more), k.take(more)];
  for (let i = 0; i < more; i++) {
    const [x, y] = [(i % (W + 1)) + 0.5, Math.floor(i / (W + 1)) + 0.5];
    xs[i] = m[0] * x + m[1] * y + m[2];
    ys[i] = m[3] * x + m[4] * y + m[5];
  }
  xs[7] = NaN;
  const packed = Packed.of(k, [plane], rect(0, 0, SW, SH));
  const want = rect(0, 0, W, H);
  sampleThrough(k, packed, [byMatrix], want, m, tapsOf(filter));
  sampleThrough(k, packed, [byMap], want, { xs, ys }, tapsOf(filter));
  // A position that is no number shows nothing.
  expect(byMap[7]).toBe(0);
  for (let i = 0; i < W * H; i++) if (i !== 7) expect(Math.abs(byMap[i]! - byMatrix[i]!)).toBeLessThan(2e-5);
  packed.give();
  [plane, byMatrix, byMap, xs, ys].forEach((p) => k.give(p));
});

describe('sizes of a picture', () => {
  const packed = async (w: number, h: number, of: (x: number, y: number) => number, at: readonly [number, number] = [0, 0]) => {
    const k = await nodeKernels();
    const plane = k.take(w * h);
    for (let i = 0; i < w * h; i++) plane[i] = of(i % w, Math.floor(i / w));
    const made = Packed.of(k, [plane], rect(at[0], at[1], at[0] + w, at[1] + h));
    k.give(plane);
    return made;
  };

  test('half of one: each pixel the mean of four, beyond an odd edge nothing', async () => {
    const whole = await packed(5, 3, (x, y) => x + 10 * y, [2, 4]);
    const half = whole.halved()!;
    expect(half.region).toEqual(rect(1, 2, 4, 4));
    expect(Array.from({ length: 6 }, (_, i) => half.groups[0]![4 * i]!)).toEqual([5.5, 7.5, 18 / 4, 41 / 4, 45 / 4, 24 / 4]);
    [whole, half].forEach((p) => p.give());
    const odd = await packed(4, 4, () => 1, [1, 0]);
    expect(odd.halved()).toBeNull();
    odd.give();
  });

  test('are halved as far as a plane is seen smaller everywhere, and no further', async () => {
    const k = await nodeKernels();
    const before = k.used;
    const sizes = new Sizes(await packed(64, 64, () => 1));
    const at = (s: number) => sizes.through([s, 0, 0, 0, s, 0, 0, 0, 1], 'bilinear');
    expect(at(1.7).packed.region).toEqual(rect(0, 0, 64, 64));
    expect(at(1.8).packed.region).toEqual(rect(0, 0, 32, 32));
    expect(at(1.8).back.slice(0, 5)).toEqual([0.9, 0, 0, 0, 0.9]);
    expect(at(3.6).packed.region).toEqual(rect(0, 0, 16, 16));
    // Squeezed one way only it is seen at full size the other way.
    expect(sizes.through([4, 0, 0, 0, 1, 0, 0, 0, 1], 'bilinear').packed.region).toEqual(rect(0, 0, 64, 64));
    expect(sizes.through([4, 0, 0, 0, 4, 0, 0, 0, 1], 'nearest').packed.region).toEqual(rect(0, 0, 64, 64));
    // Towards a horizon in the picture nothing is told.
    expect(sizes.through(invert([0.25, 0, 0, 0, 0.25, 0, -0.05, 0, 1])!, 'bilinear').packed.region.x1).toBe(64);
    sizes.give();
    expect(k.used).toBe(before);
  });
});
