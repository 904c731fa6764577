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

describe('files that ask for more than they hold', () => {
  const tiny = async (): Promise<Uint8Array> => (await write(rect(0, 0, 40, 40), ['half', 'half', 'half'], 'ZIP')).bytes;
  /** Where the four numbers of a window stand in the header. */
  const windowAt = (bytes: Uint8Array, name: string): number => Buffer.from(bytes).indexOf(`${name}\0box2i\0`) + name.length + 7 + 4;
  /** Bytes that a reading took of the kernels, at the most. */
  async function taken(bytes: Uint8Array): Promise<[number, unknown]> {
    const k = await nodeKernels();
    const { take } = k;
    let most = 0;
    const before = k.used;
    k.take = (n) => {
      const plane = take.call(k, n);
      most = Math.max(most, k.used - before);
      return plane;
    };
    let error: unknown = null;
    try {
      Object.values(readExr(bytes, 'bomb.exr', k).planes).forEach((p) => k.give(p));
    } catch (e) {
      error = e;
    }
    k.take = take;
    expect(k.used).toBe(before);
    return [most, error];
  }

  test('a window of many pixels with few blocks is refused before a plane is made', async () => {
    const bytes = (await tiny()).slice();
    const view = new DataView(bytes.buffer);
    for (const name of ['dataWindow', 'displayWindow']) {
      view.setInt32(windowAt(bytes, name) + 8, 16_383, true);
      view.setInt32(windowAt(bytes, name) + 12, 16_383, true);
    }
    // DWAB has 256 lines a block: 64 of them would be the whole picture.
    bytes[Buffer.from(bytes).indexOf('compression\0compression\0') + 'compression\0compression\0'.length + 4] = 9;
    const [most, error] = await taken(bytes);
    expect(error).toBeInstanceOf(MediaError);
    expect(most).toBeLessThan(2 ** 20);
  });

  test('blocks that lie over each other are refused', async () => {
    const bytes = (await tiny()).slice();
    const view = new DataView(bytes.buffer);
    const table = Buffer.from(bytes).indexOf(Buffer.from('screenWindowWidth')) + 'screenWindowWidth\0float\0'.length + 8 + 1;
    view.setBigUint64(table + 8, view.getBigUint64(table, true), true);
    const [most, error] = await taken(bytes);
    expect(String(error)).toMatch(/damaged/);
    expect(most).toBeLessThan(2 ** 20);
  });
});

describe('what other writers do', () => {
  test('names of layers are UTF-8, of any length that the file can hold', async () => {
    const k = await nodeKernels();
    const name = 'Glühwürmchen·ほたる.R';
    const plane = k.copy([1, 2, 3, 4]);
    const bytes = writeExr(
      {
        format: { width: 2, height: 2, pixelAspect: 1 },
        bounds: rect(0, 0, 2, 2),
        compression: 'NONE',
        channels: [{ name, type: 'half', plane }],
      },
      k,
    );
    k.give(plane);
    const back = readExr(bytes, 'a.exr', k);
    expect(back.channels).toEqual([name]);
    expect([...back.planes[name]!]).toEqual([1, 2, 3, 4]);
    k.give(back.planes[name]!);
  });

  test('luminance alone is a grey picture', async () => {
    const k = await nodeKernels();
    const plane = k.copy([0.25, 0.5, 0.75, 1]);
    const bytes = writeExr(
      {
        format: { width: 2, height: 2, pixelAspect: 1 },
        bounds: rect(0, 0, 2, 2),
        compression: 'ZIP',
        channels: [{ name: 'Y', type: 'float', plane }],
      },
      k,
    );
    k.give(plane);
    const before = k.used;
    const back = readExr(bytes, 'grey.exr', k);
    expect(exrChannels(inspectExr(bytes, 'grey.exr')).map((c) => c.name)).toEqual(['Y', 'R', 'G', 'B']);
    for (const c of ['R', 'G', 'B']) expect([...back.planes[c]!]).toEqual([0.25, 0.5, 0.75, 1]);
    // Each can be changed without the others.
    back.planes.R![0] = 9;
    expect(back.planes.G![0]).toBe(0.25);
    Object.values(back.planes).forEach((p) => k.give(p));
    expect(k.used).toBe(before);
  });

  test('an attribute that contradicts the version flags is not believed', async () => {
    const { bytes, values } = await write(rect(0, 0, 8, 8), ['half'], 'ZIP');
    // A type attribute that says tiles, put before the others of a file of scan lines.
    const attribute = Buffer.from('type\0string\0\x0a\0\0\0tiledimage', 'latin1');
    const odd = Buffer.concat([bytes.subarray(0, 8), attribute, bytes.subarray(8)]);
    const view = new DataView(odd.buffer, odd.byteOffset);
    const table = odd.indexOf('screenWindowWidth') + 'screenWindowWidth\0float\0'.length + 8 + 1;
    view.setBigUint64(table, view.getBigUint64(table, true) + BigInt(attribute.length), true);
    const k = await nodeKernels();
    const back = readExr(new Uint8Array(odd), 'odd.exr', k);
    expect([...back.planes.R!]).toEqual(values.R);
    k.give(back.planes.R!);
  });
});
