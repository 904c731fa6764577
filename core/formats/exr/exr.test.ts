import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import { MediaError } from '../../errors';
import type { Rect } from '../../geometry/rect';
import { rect } from '../../geometry/rect';
import { timecodeText } from './attributes';
import type { PixelType } from './header';
import { exrChannels, inspectExr, readExr } from './read';
import type { ExrOutput } from './write';
import { WRITTEN, writeExr } from './write';

/** A value that the type can hold, noisy or flat by place. */
const valueOf = (type: PixelType, i: number, flat: boolean): number => {
  const v = flat ? Math.floor(i / 97) % 5 : (i * 7919) % 2048;
  return type === 'uint' ? v : v / 256 - 2;
};

async function write(bounds: Rect, types: readonly PixelType[], compression: ExrOutput['compression'], flat = false) {
  const k = await nodeKernels();
  const n = (bounds.x1 - bounds.x0) * (bounds.y1 - bounds.y0);
  const channels = types.map((type, c) => ({
    name: c < 3 ? 'RGB'[c]! : `id${c}.X`,
    type,
    plane: k.copy(Array.from({ length: n }, (_, i) => valueOf(type, i + 31 * c, flat))),
  }));
  const bytes = writeExr({ format: { width: 64, height: 48, pixelAspect: 1 }, bounds, compression, channels }, k);
  const values = Object.fromEntries(channels.map((c) => [c.name, [...c.plane]]));
  channels.forEach((c) => k.give(c.plane));
  return { bytes, values };
}

describe('OpenEXR there and back', () => {
  const box = fc
    .tuple(
      fc.integer({ min: -9, max: 40 }),
      fc.integer({ min: -9, max: 30 }),
      fc.integer({ min: 1, max: 70 }),
      fc.integer({ min: 1, max: 70 }),
    )
    .map(([x, y, w, h]) => rect(x, y, x + w, y + h));
  const types = fc.array(fc.constantFrom<PixelType>('half', 'float', 'uint'), { minLength: 1, maxLength: 5 });

  test.each(WRITTEN)('%s keeps every bit, for any data window and any mixture of types', async (compression) => {
    const k = await nodeKernels();
    await fc.assert(
      fc.asyncProperty(box, types, fc.boolean(), async (bounds, list, flat) => {
        const { bytes, values } = await write(bounds, list, compression, flat);
        const before = k.used;
        const back = readExr(bytes, 'a.exr', k);
        expect(back.bounds).toEqual(bounds);
        for (const [c, v] of Object.entries(values)) expect([...back.planes[c]!]).toEqual(v);
        Object.values(back.planes).forEach((p) => k.give(p));
        expect(k.used).toBe(before);
      }),
      { numRuns: 30 },
    );
  });

  test('PIZ packs a smooth picture smaller than RLE', async () => {
    const size = async (c: ExrOutput['compression']): Promise<number> =>
      (await write(rect(0, 0, 64, 48), ['half', 'half', 'half'], c, true)).bytes.length;
    expect(await size('PIZ')).toBeLessThan(await size('NONE'));
  });

  test('text and time codes are kept', async () => {
    const k = await nodeKernels();
    const plane = k.zeros(1);
    const one = { format: { width: 1, height: 1, pixelAspect: 1 }, bounds: rect(0, 0, 1, 1), compression: 'NONE' as const };
    const attributes = { owner: 'Saltgate · Ä', timeCode: [0x01020304, 0] as const };
    const bytes = writeExr({ ...one, attributes, channels: [{ name: 'Y', type: 'float', plane }] }, k);
    const part = inspectExr(bytes, 'a.exr').parts[0]!;
    expect(part.attributes).toMatchObject({ owner: 'Saltgate · Ä', timeCode: [0x01020304, 0] });
    expect(timecodeText(0x01020304)).toBe('01:02:03:04');
    k.give(plane);
  });
});

describe('damaged OpenEXR', () => {
  test.each(WRITTEN)(
    '%s: every prefix and 400 flipped bits end in a picture or a clear error, with nothing left behind',
    async (compression) => {
      const k = await nodeKernels();
      const { bytes } = await write(rect(0, 0, 17, 37), ['half', 'float', 'uint'], compression);
      const before = k.used;
      const tryIt = (data: Uint8Array): void => {
        try {
          Object.values(readExr(data, 'bad.exr', k).planes).forEach((p) => k.give(p));
        } catch (e) {
          expect(e).toBeInstanceOf(MediaError);
        }
        expect(k.used).toBe(before);
      };
      for (let n = 0; n < bytes.length; n += n < 700 ? 1 : 13) tryIt(bytes.slice(0, n));
      let seed = 12345;
      for (let i = 0; i < 400; i++) {
        seed = (seed * 1103515245 + 12345) % 2 ** 31;
        const copy = bytes.slice();
        copy[seed % bytes.length]! ^= 1 << ((seed >> 20) % 8);
        tryIt(copy);
      }
    },
  );

  test('a deep file is refused and says what to do', async () => {
    const { bytes } = await write(rect(0, 0, 4, 4), ['half'], 'NONE');
    bytes[5] = 0x08;
    expect(() => inspectExr(bytes, 'deep.exr')).toThrow(/deep\.exr: it holds deep data, which cannot be read: flatten it first/);
  });

  test('a limit can be raised or lowered', async () => {
    const { bytes } = await write(rect(0, 0, 64, 48), ['half'], 'NONE');
    expect(() => inspectExr(bytes, 'a.exr', 1000)).toThrow(/too large to open \(the limit is 1000 pixels\)/);
    expect(exrChannels(inspectExr(bytes, 'a.exr', 64 * 48)).map((c) => c.name)).toEqual(['R']);
  });
});
