import { deflateRawSync, deflateSync, constants } from 'node:zlib';
import fc from 'fast-check';
import { inflate } from '@/core/formats/exr/codecs/zip';
import { nodeKernels } from '@/engine/node/host';
import { random } from '@/demo/noise';

/** Bytes of many kinds: noise, runs, text that repeats near and far, and steps of a ramp. */
function sample(kind: number, n: number): Uint8Array {
  const next = random(kind * 1000 + n);
  return Uint8Array.from({ length: n }, (_, i) => {
    if (kind === 0) return next() * 256;
    if (kind === 1) return i % 1000 < 700 ? 7 : next() * 4;
    if (kind === 2) return 'the lamp of the light turns over the harbour '.charCodeAt((i * (1 + (i >> 12))) % 45);
    if (kind === 3) return (i >> 5) + (next() < 0.03 ? 1 : 0);
    return i % 3;
  });
}

describe('inflate', () => {
  test.each([0, 1, 2, 3, 4])('streams of every level and strategy come back (kind %i)', async (kind) => {
    const k = await nodeKernels();
    const before = k.used;
    for (const n of [0, 1, 2, 15, 16, 300, 5000, 70_000, 200_000]) {
      const data = sample(kind, n);
      for (const level of [0, 1, 6, 9]) {
        for (const strategy of [constants.Z_DEFAULT_STRATEGY, constants.Z_FIXED, constants.Z_HUFFMAN_ONLY, constants.Z_RLE]) {
          const packed = new Uint8Array(deflateSync(data, { level, strategy }));
          expect(Buffer.compare(inflate(packed, n, k), data)).toBe(0);
        }
      }
    }
    expect(k.used).toBe(before);
  });

  test('random bytes of random lengths come back', async () => {
    const k = await nodeKernels();
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 3000 }), fc.integer({ min: 1, max: 9 }), (data, level) => {
        const twice = Uint8Array.from([...data, ...data, ...data.slice(0, 40)]);
        expect(Buffer.compare(inflate(new Uint8Array(deflateSync(twice, { level })), twice.length, k), twice)).toBe(0);
      }),
      { numRuns: 300 },
    );
  });

  test('a stream that is cut, damaged, or longer than was said ends in an error, and writes nowhere else', async () => {
    const k = await nodeKernels();
    const data = sample(2, 900);
    const packed = new Uint8Array(deflateSync(data));
    for (let n = 0; n < packed.length - 4; n++) expect(() => inflate(packed.subarray(0, n), 900, k)).toThrow();
    expect(() => inflate(packed, 899, k)).toThrow('wrong size');
    expect(() => inflate(packed, 901, k)).toThrow('wrong size');
    const before = k.used;
    const next = random(5);
    for (let i = 0; i < 4000; i++) {
      const bad = packed.slice();
      bad[2 + Math.floor(next() * (bad.length - 2))]! ^= 1 << Math.floor(next() * 8);
      const [from, to, guard] = [k.bytes(bad.length + 16), k.bytes(900 + 16), k.bytes(4096)];
      const scratch = k.bytes(k.fn.inflateScratch());
      guard.fill(99);
      from.set(bad);
      const got = k.fn.inflate(from.byteOffset + 2, bad.length - 2, to.byteOffset, 900, scratch.byteOffset);
      expect(got >= -1 && got <= 900).toBe(true);
      expect(guard.every((v) => v === 99)).toBe(true);
      [from, to, guard, scratch].forEach((b) => k.give(b));
    }
    expect(k.used).toBe(before);
  });

  test('a raw stream without its wrapper, or one with a preset dictionary, is none', async () => {
    const k = await nodeKernels();
    expect(() => inflate(new Uint8Array(deflateRawSync(sample(2, 50))), 50, k)).toThrow();
    expect(() => inflate(new Uint8Array(deflateSync(sample(2, 50), { dictionary: Buffer.from('lamp') })), 50, k)).toThrow();
    expect(() => inflate(new Uint8Array(), 0, k)).toThrow();
  });
});
