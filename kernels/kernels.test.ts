import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import { Kernels } from '.';

const numbers = (n: number, f: (i: number) => number): number[] => Array.from({ length: n }, (_, i) => f(i));

describe('kernels against naive formulas', () => {
  test('power: pivot·(x/pivot)^e to 2e-6, and what is not positive passes', async () => {
    const k = await nodeKernels();
    const xs = [...numbers(40, (i) => 1e-4 * 1.5 ** i).filter((x) => x < 1e3), 0, -0.5];
    for (const e of [0.3, 0.45, 1.7, 2.4, 5]) {
      const x = k.copy(xs);
      const out = k.take(xs.length);
      k.fn.powerPlane(x.byteOffset, out.byteOffset, xs.length, e, 0.18);
      xs.forEach((v, i) => {
        const want = v > 0 ? 0.18 * (Math.fround(v) / 0.18) ** e : v;
        if (want < 1e6 && (want > 1e-6 || v <= 0))
          expect(Math.abs(out[i]! - want)).toBeLessThanOrEqual(4e-6 * Math.max(Math.abs(want), 1e-9) * Math.max(1, e));
      });
      [x, out].forEach((p) => k.give(p));
    }
  });

  test('half to float and back is the identity on all 65,536 halves but NaN payloads', async () => {
    const k = await nodeKernels();
    const n = 65536;
    const bytes = k.bytes(2 * n);
    const halves = new Uint16Array(bytes.buffer, bytes.byteOffset, n);
    for (let i = 0; i < n; i++) halves[i] = i;
    const floats = k.take(n);
    k.fn.halfToFloat(bytes.byteOffset, floats.byteOffset, n);
    expect([floats[0x3c00], floats[0xc000], floats[0x7c00], floats[1]]).toEqual([1, -2, Infinity, 2 ** -24]);
    k.fn.floatToHalf(floats.byteOffset, bytes.byteOffset, n);
    for (let i = 0; i < n; i++) if ((i & 0x7c00) !== 0x7c00 || (i & 0x3ff) === 0) expect(halves[i]).toBe(i);
    [bytes, floats].forEach((p) => k.give(p));
  });

  test('float to half rounds to nearest, ties to even, and large values become infinite', async () => {
    const k = await nodeKernels();
    const values = [1 + 2 ** -11, 1 + 3 * 2 ** -11, 65519, 65520, 2 ** -25, 1.5 * 2 ** -24];
    const x = k.copy(values);
    const out = k.bytes(16);
    k.fn.floatToHalf(x.byteOffset, out.byteOffset, values.length);
    expect([...new Uint16Array(out.buffer, out.byteOffset, values.length)]).toEqual([0x3c00, 0x3c02, 0x7bff, 0x7c00, 0, 2]);
    [x, out].forEach((p) => k.give(p));
  });

  test('mix, clamp, multiply and matrix', async () => {
    const k = await nodeKernels();
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.float({ min: -4, max: 4, noNaN: true }), { minLength: 1, maxLength: 19 }),
        fc.float({ min: 0, max: 1, noNaN: true }),
        async (a, m) => {
          const n = a.length;
          const x = k.copy(a);
          const y = k.copy(a.map((v) => 1 - v));
          const out = k.take(n);
          k.fn.mixPlane(x.byteOffset, y.byteOffset, out.byteOffset, n, m);
          a.forEach((v, i) => expect(out[i]).toBeCloseTo(v + m * (1 - v - v), 4));
          k.fn.clampPlane(x.byteOffset, out.byteOffset, n, -1, 0.5);
          a.forEach((v, i) => expect(out[i]).toBe(Math.fround(Math.min(0.5, Math.max(-1, v)))));
          [x, y, out].forEach((p) => k.give(p));
        },
      ),
      { numRuns: 30 },
    );
  });

  test('the pool hands memory out again and refuses what is not out', async () => {
    const k = await nodeKernels();
    const before = k.used;
    const a = k.take(1000);
    const at = a.byteOffset;
    k.give(a);
    expect(k.used).toBe(before);
    const b = k.take(1000);
    expect(b.byteOffset).toBe(at);
    k.give(b);
    expect(() => k.give(b)).toThrow('not out');
  });
});

describe('the pool of planes', () => {
  /** A pool over a memory of so many pages that grows by more of them. */
  function pool(pages: number, most = 400) {
    const memory = new WebAssembly.Memory({ initial: pages, maximum: most, shared: true });
    return new Kernels({} as never, memory);
  }

  test('joins free neighbours before the memory grows', () => {
    const k = pool(40);
    const small = Array.from({ length: 16 }, () => k.take(30_000));
    const before = k.reserved;
    small.forEach((p) => k.give(p));
    const large = k.take(30_000 * 15);
    expect(k.reserved).toBe(before);
    large.fill(1);
    const rest = k.take(20_000).fill(2);
    expect([large[0], large.at(-1), rest[0]]).toEqual([1, 1, 2]);
    [large, rest].forEach((p) => k.give(p));
    expect(k.used).toBe(0);
  });

  test('any order of taking and giving keeps planes apart', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.boolean(), fc.integer({ min: 0, max: 40_000 })), { maxLength: 80 }), (moves) => {
        const k = pool(10);
        const out: { plane: Float32Array; mark: number }[] = [];
        moves.forEach(([take, n], i) => {
          if (take || out.length === 0) out.push({ plane: k.take(n).fill(i), mark: i });
          else k.give(out.splice(n % out.length, 1)[0]!.plane);
        });
        for (const { plane, mark } of out) expect(plane.every((v) => v === mark)).toBe(true);
        out.forEach((o) => k.give(o.plane));
        expect(k.used).toBe(0);
      }),
      { numRuns: 60 },
    );
  });

  test('beyond its ceiling asks for what is only kept, and grows when there is none', () => {
    const k = pool(20);
    const kept = [k.take(200_000), k.take(200_000)];
    k.ceiling = k.reserved;
    let asked = 0;
    k.relieve = () => {
      asked++;
      const plane = kept.pop();
      if (plane) k.give(plane);
      return plane !== undefined;
    };
    const before = k.reserved;
    const a = k.take(190_000);
    expect([asked, k.reserved]).toEqual([1, before]);
    const b = k.take(1_500_000);
    expect(k.reserved).toBeGreaterThan(before);
    [a, b].forEach((p) => k.give(p));
  });

  test('a watched pool says who has not given a plane back', () => {
    const k = pool(10);
    k.watch();
    const [kept, gone] = [k.take(16), k.take(32)];
    k.give(gone);
    expect(k.owing()).toHaveLength(1);
    expect(k.owing()[0]).toMatch(/^\d+ bytes at .*kernels\.test/);
    k.give(kept);
    expect(k.owing()).toEqual([]);
  });
});

describe('bytes of finished files', () => {
  const small = (): Kernels => new Kernels({} as never, { buffer: new ArrayBuffer(0), grow: () => 0 });

  test('come from one of the same size that was given back, each once', () => {
    const k = small();
    const [a, b] = [k.fileBytes(100), k.fileBytes(100)];
    expect(a.buffer).not.toBe(b.buffer);
    k.reuse(a.buffer);
    expect(k.fileBytes(99).buffer).not.toBe(a.buffer);
    expect(k.fileBytes(101).buffer).not.toBe(a.buffer);
    const again = k.fileBytes(100);
    expect(again.buffer).toBe(a.buffer);
    expect(again.byteLength).toBe(100);
    expect(k.fileBytes(100).buffer).not.toBe(a.buffer);
  });

  test('of more than a few the oldest are let go', () => {
    const k = small();
    const given = [1, 2, 3, 4, 5, 6].map((n) => k.fileBytes(n));
    given.forEach((f) => k.reuse(f.buffer));
    const same = given.map((f) => k.fileBytes(f.byteLength).buffer === f.buffer);
    expect(same).toEqual([false, false, true, true, true, true]);
  });
});
