import { nodeKernels } from '@/engine/node/host';

type K = Awaited<ReturnType<typeof nodeKernels>>;
const noise = (n: number, seed: number, low = 0, high = 1): number[] =>
  Array.from({ length: n }, (_, i) => low + (high - low) * Math.abs((Math.sin(i * 78.233 + seed * 12.9898) * 43758.5453) % 1));

/** Runs a kernel on planes of the given numbers and returns the last plane, of `n` floats. */
async function run(inputs: number[][], n: number, call: (k: K, pointers: number[], out: number) => void): Promise<number[]> {
  const k = await nodeKernels();
  const planes = inputs.map((v) => k.copy(v));
  const out = k.zeros(n);
  call(
    k,
    planes.map((p) => p.byteOffset),
    out.byteOffset,
  );
  const got = [...out];
  [...planes, out].forEach((p) => k.give(p));
  return got;
}
const near = (got: number[], wanted: number[], tolerance = 1e-5): void => {
  expect(got).toHaveLength(wanted.length);
  wanted.forEach((w, i) => expect(Math.abs(got[i]! - w)).toBeLessThanOrEqual(tolerance));
};

describe('per-pixel kernels', () => {
  const n = 23;
  const [f, b, fa, ba] = [noise(n, 1), noise(n, 2), noise(n, 3), noise(n, 4)] as [number[], number[], number[], number[]];

  test('Porter–Duff with all four factors', async () => {
    const got = await run([f, b, fa, ba], n, (k, [p, q, r, s], out) => k.fn.porterDuff(p!, q!, r!, s!, out, n, 0.2, 0.3, 0.4, -0.5));
    near(
      got,
      f.map((v, i) => v * (0.2 + 0.3 * ba[i]!) + b[i]! * (0.4 - 0.5 * fa[i]!)),
    );
  });

  test('blend with coverage: soft light', async () => {
    const soft = (y: number, x: number): number => {
      if (x <= 0.5) return y - (1 - 2 * x) * y * (1 - y);
      const d = y <= 0.25 ? ((16 * y - 12) * y + 4) * y : Math.sqrt(y);
      return y + (2 * x - 1) * (d - y);
    };
    const pf = f.map((v, i) => v * fa[i]!);
    const pb = b.map((v, i) => v * ba[i]!);
    const got = await run([pf, pb, fa, ba], n, (k, [p, q, r, s], out) => k.fn.blendAlpha(8, p!, q!, r!, s!, out, n));
    near(
      got,
      pf.map((v, i) => v * (1 - ba[i]!) + pb[i]! * (1 - fa[i]!) + fa[i]! * ba[i]! * soft(b[i]!, f[i]!)),
      3e-5,
    );
  });

  test('the colour-difference matte', async () => {
    const screen = [Array(n).fill(0.3), Array(n).fill(0.05), Array(n).fill(0.1)] as number[][];
    const [low, high, gamma, w] = [0.1, 0.8, 1.4, 0.6];
    const k = await nodeKernels();
    const raw = k.take(n);
    const got = await run([f, b, fa, ...screen], n, (kk, p, out) =>
      kk.fn.colourDifference(p[0]!, p[1]!, p[2]!, p[3]!, p[4]!, p[5]!, out, raw.byteOffset, n, w, low, high, 0, 0, gamma, -Infinity, 0),
    );
    // A screen that stands out by less than the least counts as standing out by what is given.
    const weak = await run([f, b, fa, ...screen], n, (kk, p, out) =>
      kk.fn.colourDifference(p[0]!, p[1]!, p[2]!, p[3]!, p[4]!, p[5]!, out, out, n, w, 0, 1, 0, 0, 1, 0.5, 0.9),
    );
    const d = (p: number, q: number, r: number): number => p - (w * Math.max(q, r) + (1 - w) * Math.min(q, r));
    const matte = f.map((p, i) => 1 - Math.min(1, Math.max(0, d(p, b[i]!, fa[i]!) / d(0.3, 0.05, 0.1))));
    near([...raw], matte);
    near(
      got,
      matte.map((m) => Math.min(1, Math.max(0, (m - low) / (high - low))) ** (1 / gamma)),
      3e-5,
    );
    near(
      weak,
      f.map((p, i) => 1 - Math.min(1, Math.max(0, d(p, b[i]!, fa[i]!) / 0.9))),
    );
    k.give(raw);
  });

  test('the ramp of the colour-difference matte is eased at both ends and keeps its order', async () => {
    const ramp = Array.from({ length: n }, (_, i) => i / (n - 1));
    const none = Array(n).fill(0) as number[];
    const [toe, shoulder] = [0.4, 0.2];
    const got = await run([ramp, none, none, Array(n).fill(1), none, none], n, (kk, p, out) =>
      kk.fn.colourDifference(p[0]!, p[1]!, p[2]!, p[3]!, p[4]!, p[5]!, out, out, n, 0.5, 0, 1, toe, shoulder, 1, -Infinity, 0),
    );
    const slope = 1 / (1 - (toe + shoulder) / 4);
    near(
      got,
      ramp.map((v) => {
        const x = 1 - v;
        if (x < toe / 2) return (slope / toe) * x * x;
        return x > 1 - shoulder / 2 ? 1 - (slope / shoulder) * (1 - x) ** 2 : slope * (x - toe / 4);
      }),
    );
    got.slice(1).forEach((v, i) => expect(v).toBeLessThanOrEqual(got[i]!));
  });

  test.each([
    [0, (q: number, r: number) => (q + r) / 2],
    [1, Math.max],
    [2, Math.min],
    [3, (q: number, r: number) => 0.3 * q + 0.7 * r],
  ])('spill over limit %s', async (limit, of) => {
    const got = await run([f, b, fa], n, (k, [p, q, r], out) => k.fn.spillAmount(p!, q!, r!, out, n, limit, 0.3, 0.9));
    near(
      got,
      f.map((p, i) => Math.max(0, p - of(b[i]!, fa[i]!)) * 0.9),
    );
  });

  test('saturation and matrix act on three planes in place', async () => {
    const k = await nodeKernels();
    const planes = [f, b, fa].map((v) => k.copy(v));
    const [r, g, bl] = planes.map((p) => p.byteOffset) as [number, number, number];
    k.fn.saturate(r, g, bl, n, 0.4);
    const luma = f.map((v, i) => 0.2126 * v + 0.7152 * b[i]! + 0.0722 * fa[i]!);
    near(
      [...planes[1]!],
      b.map((v, i) => luma[i]! + 0.4 * (v - luma[i]!)),
    );
    const before = planes.map((p) => [...p]);
    k.fn.matrix3(r, g, bl, r, g, bl, n, 1, 2, 3, 4, 5, 6, 7, 8, 9);
    near(
      [...planes[2]!],
      before[0]!.map((v, i) => 7 * v + 8 * before[1]![i]! + 9 * before[2]![i]!),
      1e-4,
    );
    planes.forEach((p) => k.give(p));
  });
});

describe('neighbourhood kernels', () => {
  const [w, h] = [13, 9];
  const plane = noise(w * h, 7);

  test('convolution along rows and columns', async () => {
    const taps = [0.1, 0.5, 0.3, 0.2, -0.1];
    const rows = await run([plane, taps], (w - 4) * h, (k, [p, t], out) => k.fn.convolveRows(p!, out, w - 4, h, w, w - 4, t!, 5));
    near(
      rows,
      Array.from({ length: (w - 4) * h }, (_, i) =>
        taps.reduce((s, t, j) => s + t * plane[Math.floor(i / (w - 4)) * w + (i % (w - 4)) + j]!, 0),
      ),
    );
    const columns = await run([plane, taps], w * (h - 4), (k, [p, t], out) => k.fn.convolveColumns(p!, out, w, h - 4, w, w, t!, 5));
    near(
      columns,
      Array.from({ length: w * (h - 4) }, (_, i) => taps.reduce((s, t, j) => s + t * plane[i + j * w]!, 0)),
    );
  });

  test('reducing is the 5-tap binomial at every second sample', async () => {
    const got = await run([plane], 5 * h, (k, [p], out) => k.fn.reduceRows(p!, out, 5, h, w, 5));
    near(
      got,
      Array.from({ length: 5 * h }, (_, i) =>
        [1, 4, 6, 4, 1].reduce((s, t, j) => s + (t / 16) * plane[Math.floor(i / 5) * w + 2 * (i % 5) + j]!, 0),
      ),
    );
  });

  test('distance to a level, by brute force', async () => {
    const [W, H] = [19, 15];
    const matte = Array.from({ length: W * H }, (_, i) => (Math.hypot((i % W) - 8.3, Math.floor(i / W) - 7.1) < 4.6 ? 1 : 0));
    const got = await run([matte], W * H, (k, [p], out) => {
      const scratch = k.take(3 * W + 8);
      k.fn.columnCrossings(p!, out, W, H, 0.5);
      k.fn.rowEnvelope(out, W, H, scratch.byteOffset);
      k.give(scratch);
    });
    const crossings: [number, number][] = [];
    for (let x = 0; x < W; x++) for (let y = 1; y < H; y++) if (matte[y * W + x] !== matte[(y - 1) * W + x]) crossings.push([x, y - 0.5]);
    const brute = matte.map((_, i) => Math.min(...crossings.map(([x, y]) => ((i % W) - x) ** 2 + (Math.floor(i / W) - y) ** 2)));
    near(got, brute, 1e-3);
  });

  test('resampling by a turn, against the same sum in double precision', async () => {
    const k = await nodeKernels();
    const { resample } = await import('../core/filters/resample');
    const [W, H] = [24, 20];
    const source = k.copy(noise(W * H, 3));
    const out = k.zeros(W * H);
    const a = 0.3;
    const m = [Math.cos(a), -Math.sin(a), 3, Math.sin(a), Math.cos(a), -4] as const;
    const r = { x0: 0, y0: 0, x1: W, y1: H };
    resample(k, [source], r, [out], r, m, 'catmullRom');
    const cubic = (t: number): number => (t < 1 ? 1.5 * t ** 3 - 2.5 * t ** 2 + 1 : t < 2 ? -0.5 * t ** 3 + 2.5 * t ** 2 - 4 * t + 2 : 0);
    for (let y = 0; y < H; y++) {
      for (let x = 0; x < W; x++) {
        const u = m[0] * (x + 0.5) + m[1] * (y + 0.5) + m[2] - 0.5;
        const v = m[3] * (x + 0.5) + m[4] * (y + 0.5) + m[5] - 0.5;
        let sum = 0;
        for (let j = 0; j < H; j++) for (let i = 0; i < W; i++) sum += source[j * W + i]! * cubic(Math.abs(i - u)) * cubic(Math.abs(j - v));
        expect(Math.abs(out[y * W + x]! - sum)).toBeLessThan(2e-4);
      }
    }
    [source, out].forEach((p) => k.give(p));
  });
});

describe('conversion', () => {
  test('code values through a table, every n-th of interleaved ones', async () => {
    const k = await nodeKernels();
    const bytes = k.bytes(12);
    bytes.set([0, 9, 9, 128, 9, 9, 255, 9, 9, 64, 9, 9]);
    const table = k.copy(Array.from({ length: 256 }, (_, i) => i / 255));
    const out = k.take(4);
    k.fn.lookup8(bytes.byteOffset, out.byteOffset, 4, 3, table.byteOffset);
    near([...out], [0, 128 / 255, 1, 64 / 255]);
    [bytes, table, out].forEach((p) => k.give(p));
  });

  test('four planes to RGBA, transpose, and block means', async () => {
    near(
      await run(
        [
          [1, 2],
          [3, 4],
          [5, 6],
          [7, 8],
        ],
        8,
        (k, [r, g, b, a], out) => k.fn.interleave4(r!, g!, b!, a!, out, 2),
      ),
      [1, 3, 5, 7, 2, 4, 6, 8],
    );
    near(await run([[1, 2, 3, 4, 5, 6]], 6, (k, [p], out) => k.fn.transpose(p!, out, 3, 2)), [1, 4, 2, 5, 3, 6]);
    near(await run([[1, 3, 5, 7, 1, 3, 5, 7]], 2, (k, [p], out) => k.fn.boxReduce(p!, out, 2, 1, 4, 2)), [2, 6]);
  });
});
