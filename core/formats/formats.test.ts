import fc from 'fast-check';
import { decodeMedia, encodeMedia } from '@/engine/codecs';
import { inspectMedia } from '@/engine/inspect';
import { nodeKernels } from '@/engine/node/host';
import { SPACES, decodeTable } from '../colour/spaces';
import { MediaError } from '../errors';
import { rect } from '../geometry/rect';
import { readPng, writePng } from './codes';
import { inspectExr, readExr } from './exr/read';
import { writeExr } from './exr/write';
import { reducePicture } from './ingest';
import { DEFAULT_OUTPUT } from './output';

const values = (n: number, seed: number): number[] => Array.from({ length: n }, (_, i) => Math.fround(Math.sin(i * 12.9898 + seed) * 8));

describe('OpenEXR', () => {
  test.each(['NONE', 'RLE', 'ZIPS', 'ZIP'] as const)(
    '%s: float, half and uint channels of layers come back, bounds and all',
    async (compression) => {
      const k = await nodeKernels();
      const bounds = rect(-3, 5, 34, 42);
      const n = 37 * 37;
      const half = (v: number): number => Math.round(v * 64) / 64;
      const content = { R: values(n, 1).map(half), 'diffuse.R': values(n, 2), id: values(n, 3).map((v) => Math.abs(Math.round(v * 1000))) };
      const planes = Object.fromEntries(Object.entries(content).map(([c, v]) => [c, k.copy(v)]));
      const types = { R: 'half', 'diffuse.R': 'float', id: 'uint' } as const;
      const bytes = writeExr(
        {
          format: { width: 40, height: 50, pixelAspect: 1.5 },
          bounds,
          compression,
          attributes: { note: 'Saltgate' },
          channels: Object.entries(planes).map(([name, plane]) => ({ name, plane, type: types[name as 'R'] })),
        },
        k,
      );
      const header = inspectExr(bytes, 'a.exr').parts[0]!;
      expect([header.compression, header.attributes.note, header.pixelAspect]).toEqual([compression, 'Saltgate', 1.5]);
      const back = readExr(bytes, 'a.exr', k);
      expect(back.bounds).toEqual(bounds);
      expect(back.format).toEqual({ width: 40, height: 50, pixelAspect: 1.5 });
      for (const [c, v] of Object.entries(content)) expect([...back.planes[c]!]).toEqual(v);
      const only = readExr(bytes, 'a.exr', k, ['id']);
      expect(Object.keys(only.planes)).toEqual(['id']);
      [...Object.values(planes), ...Object.values(back.planes), ...Object.values(only.planes)].forEach((p) => k.give(p));
    },
  );

  test('NaN and infinity are kept', async () => {
    const k = await nodeKernels();
    const plane = k.copy([NaN, Infinity, -Infinity, 1]);
    const bytes = writeExr(
      {
        format: { width: 4, height: 1, pixelAspect: 1 },
        bounds: rect(0, 0, 4, 1),
        compression: 'ZIP',
        channels: [{ name: 'R', type: 'half', plane }],
      },
      k,
    );
    const back = readExr(bytes, 'a.exr', k);
    expect([...back.planes.R!]).toEqual([NaN, Infinity, -Infinity, 1]);
    [plane, back.planes.R!].forEach((p) => k.give(p));
  });
});

const small = async (): Promise<Record<'exr' | 'png', Uint8Array>> => {
  const k = await nodeKernels();
  const planes = Object.fromEntries(['R', 'G', 'B', 'A'].map((c, i) => [c, k.copy(values(63, i).map(Math.abs))]));
  const tile = { region: rect(0, 0, 9, 7), planes };
  const format = { width: 9, height: 7, pixelAspect: 1 };
  const files = {
    exr: await encodeMedia(tile, format, DEFAULT_OUTPUT, k),
    png: await encodeMedia(tile, format, { ...DEFAULT_OUTPUT, container: 'png', bits: 16, colourSpace: 'sRGB' }, k),
  };
  Object.values(planes).forEach((p) => k.give(p));
  return files;
};

describe('damaged files', () => {
  test.each(['exr', 'png'] as const)(
    'every shorter length of a %s ends in an error that names the file, and leaves no memory behind',
    async (kind) => {
      const k = await nodeKernels();
      const bytes = (await small())[kind];
      const before = k.used;
      for (let n = 0; n < bytes.length; n += n < 400 ? 1 : 7) {
        const cut = bytes.slice(0, n);
        const error = await decodeMedia(cut, `cut.${kind}`, { colourSpace: 'linear', alpha: 'ignore' }, k).then(
          (p) => p,
          (e: unknown) => e,
        );
        if (error instanceof Error) {
          expect(error).toBeInstanceOf(MediaError);
          expect(error.message).toMatch(new RegExp(`^cut\\.${kind}: `));
        } else Object.values((error as { planes: Record<string, Float32Array> }).planes).forEach((p) => k.give(p));
      }
      expect(k.used).toBe(before);
    },
  );

  test.each(['exr', 'png'] as const)('flipped bits of a %s end in a picture or a typed error', async (kind) => {
    const k = await nodeKernels();
    const bytes = (await small())[kind];
    const before = k.used;
    await fc.assert(
      fc.asyncProperty(fc.nat(bytes.length * 8 - 1), async (bit) => {
        const bent = bytes.slice();
        bent[bit >> 3]! ^= 1 << (bit & 7);
        const got = await decodeMedia(bent, `bent.${kind}`, { colourSpace: 'linear', alpha: 'ignore' }, k).then(
          (p) => p,
          (e: unknown) => e,
        );
        if (got instanceof Error) expect(got).toBeInstanceOf(MediaError);
        else Object.values((got as { planes: Record<string, Float32Array> }).planes).forEach((p) => k.give(p));
        expect(k.used).toBe(before);
      }),
      { numRuns: 300, seed: 7 },
    );
  });

  test.each([
    ['text named .exr', 'a note about the harbour', 'note.exr', /named \.exr but its contents are not OpenEXR/],
    ['an unknown file', 'hello', 'song.xyz', /kind of file is not known/],
    ['an empty file', '', 'none.png', /empty/],
  ])('%s', async (_, text, name, message) => {
    await expect(inspectMedia(new TextEncoder().encode(text), name)).rejects.toThrow(message);
  });

  test('a JPEG that is cut short is found', async () => {
    const { readFile } = await import('node:fs/promises');
    const bytes = await readFile('demo/media/sg010/keeper.0001.jpg');
    await nodeKernels();
    await expect(inspectMedia(bytes.subarray(0, bytes.length >> 1), 'keeper.jpg')).rejects.toThrow(/keeper\.jpg: the file is cut short/);
  });

  test('a header that claims a hundred thousand pixels square is refused before memory is taken', async () => {
    const k = await nodeKernels();
    const plane = k.zeros(4);
    const bytes = writeExr(
      {
        format: { width: 2, height: 2, pixelAspect: 1 },
        bounds: rect(0, 0, 2, 2),
        compression: 'NONE',
        channels: [{ name: 'R', type: 'half', plane }],
      },
      k,
    );
    k.give(plane);
    const at = Buffer.from(bytes).indexOf('dataWindow') + 'dataWindow\0box2i\0'.length + 4;
    new DataView(bytes.buffer).setInt32(at + 8, 99_999, true);
    new DataView(bytes.buffer).setInt32(at + 12, 99_999, true);
    const before = k.used;
    expect(() => readExr(bytes, 'huge.exr', k)).toThrow(/huge\.exr: its dataWindow of 100000×100000 pixels is too large/);
    expect(k.used).toBe(before);
  });
});

describe('PNG', () => {
  test.each([8, 16] as const)('%s bit codes come back', async (bits) => {
    const k = await nodeKernels();
    const codes = Array.from({ length: 5 * 3 * 4 }, (_, i) => (i * 7919) % 2 ** bits);
    const data = bits === 8 ? Uint8Array.from(codes) : Uint16Array.from(codes);
    const back = readPng(writePng({ width: 5, height: 3, bits, channels: 4, data }), 'a.png', k);
    expect([back.width, back.height, back.bits, back.channels]).toEqual([5, 3, bits, 4]);
    expect([...back.data]).toEqual([...data]);
  });

  test('half-covered grey is written straight and read back premultiplied', async () => {
    const k = await nodeKernels();
    const planes = { R: k.copy([0.25]), G: k.copy([0.25]), B: k.copy([0.25]), A: k.copy([0.5]) };
    const bytes = await encodeMedia(
      { region: rect(0, 0, 1, 1), planes },
      { width: 1, height: 1, pixelAspect: 1 },
      { ...DEFAULT_OUTPUT, container: 'png', bits: 16, colourSpace: 'sRGB' },
      k,
    );
    expect(readPng(bytes, 'a', k).data[0]! / 65535).toBeCloseTo(SPACES.sRGB.transfer.encode(0.5), 4);
    const back = await decodeMedia(bytes, 'a.png', { colourSpace: 'sRGB', alpha: 'straight' }, k);
    expect(back.planes.R![0]).toBeCloseTo(0.25, 4);
    [...Object.values(planes), ...Object.values(back.planes)].forEach((p) => k.give(p));
  });
});

describe('transfer functions', () => {
  test.each([
    ['sRGB', 0.5, 0.21404],
    ['sRGB', 0.04, 0.003096],
    ['Rec.709', 0.5, 0.259589],
    ['Rec.709', 0.08, 0.017778],
    ['linear', 0.3, 0.3],
  ] as const)('%s of %s is %s', (space, code, light) => {
    expect(SPACES[space].transfer.decode(code)).toBeCloseTo(light, 5);
  });
  test('there and back is the same, negative values too', () => {
    fc.assert(
      fc.property(fc.constantFrom('sRGB', 'Rec.709', 'linear' as const), fc.double({ min: -1, max: 4, noNaN: true }), (space, v) => {
        const { encode, decode } = SPACES[space as 'sRGB'].transfer;
        expect(Math.abs(encode(decode(v)) - v)).toBeLessThan(1e-5);
      }),
    );
  });
  test('tables hold every code', () => expect([decodeTable('sRGB', 8).length, decodeTable('sRGB', 16)[65535]]).toEqual([256, 1]));
});

test('a reduced picture holds the mean of each block, and repeats the edge of a part block', async () => {
  const k = await nodeKernels();
  const planes = { R: k.copy([0, 4, 8, 4, 8, 8, 1, 1, 3]) };
  const got = reducePicture({ format: { width: 3, height: 3, pixelAspect: 1 }, bounds: rect(0, 0, 3, 3), channels: ['R'], planes }, 0.5, k);
  expect(got.format).toEqual({ width: 2, height: 2, pixelAspect: 1 });
  expect([...got.planes.R!]).toEqual([4, 8, 1, 3]);
  k.give(got.planes.R!);
});
