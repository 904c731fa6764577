import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodeMedia, encodeMedia } from '@/engine/codecs';
import { inspectMedia } from '@/engine/inspect';
import { nodeKernels } from '@/engine/node/host';
import { random } from '@/demo/noise';
import { MediaError } from '../errors';
import { rect } from '../geometry/rect';
import { DEFAULT_OUTPUT } from './output';
import { inspectTiff, readTiffCodes, writeTiff } from './tiff';

// By itself and against the other program that the test script installs.
const folder = mkdtempSync(join(tmpdir(), 'saltgate-tiff-'));
const at = (name: string): string => join(folder, name);
const oiio = (...args: string[]): string => execFileSync('oiiotool', args, { encoding: 'utf8', cwd: folder });

beforeAll(() => {
  oiio(
    '--pattern',
    'fill:top=0.1,0.4,0.9,1:bottom=0.9,0.3,0.05,0.5',
    '61x37',
    '4',
    '--noise:type=gaussian:stddev=0.05',
    '--clamp:min=0.02:max=1',
    '-d',
    'float',
    '-o',
    'base.exr',
  );
});

describe('TIFF', () => {
  test.each([
    ['uint8', 'none'],
    ['uint8', 'lzw'],
    ['uint16', 'zip'],
    ['uint16', 'lzw'],
    ['float', 'none'],
  ])('%s with %s that another program wrote has its values', async (type, compression) => {
    oiio(
      'base.exr',
      '--ch',
      'R,G,B',
      '-d',
      type,
      '--compression',
      compression,
      '-o',
      'theirs.tif',
      '-i',
      'theirs.tif',
      '-d',
      'float',
      '-o',
      'same.exr',
    );
    const k = await nodeKernels();
    const as = { colourSpace: 'linear', alpha: 'ignore' } as const;
    const [a, b] = [
      await decodeMedia(readFileSync(at('theirs.tif')), 'theirs.tif', as, k),
      await decodeMedia(readFileSync(at('same.exr')), 'same.exr', as, k),
    ];
    for (const c of 'RGB')
      a.planes[c]!.forEach((v, i) => expect(Math.abs(v - b.planes[c]![i]!)).toBeLessThan(type === 'float' ? 1e-7 : 1e-4));
    [a, b].forEach((p) => Object.values(p.planes).forEach((x) => k.give(x)));
  });

  test.each([
    [8, 3],
    [8, 4],
    [16, 3],
    [16, 4],
  ] as const)('%i bits and %i channels written here are read here and elsewhere, to the code', (bits, channels) => {
    const [width, height] = [23, 35];
    const codes = Array.from({ length: width * height * channels }, (_, i) => (i * 7919) % 2 ** bits);
    const data = bits === 8 ? Uint8Array.from(codes) : Uint16Array.from(codes);
    const bytes = writeTiff({ width, height, channels, data });
    expect(inspectTiff(bytes, 'a.tif')).toEqual({
      width,
      height,
      bits,
      float: false,
      samples: channels,
      alpha: channels === 4 ? 'straight' : 'none',
    });
    expect([...readTiffCodes(bytes, 'a.tif').data]).toEqual(codes);
    writeFileSync(at('ours.tif'), bytes);
    oiio('--iconfig', 'oiio:UnassociatedAlpha', '1', 'ours.tif', '-d', `uint${bits}`, '-o', 'theirs.tif');
    if (channels === 3) expect([...readTiffCodes(readFileSync(at('theirs.tif')), 'theirs.tif').data]).toEqual(codes);
  });

  test('floats keep what is below 0 and above 1, with straight alpha', async () => {
    const k = await nodeKernels();
    const planes = Object.fromEntries(
      Object.entries({ R: [-0.5, 3], G: [0.25, 0], B: [1e-6, 8], A: [1, 0.5] }).map(([c, v]) => [c, k.copy(v)]),
    );
    const settings = { ...DEFAULT_OUTPUT, container: 'tif', bits: 32 } as const;
    const bytes = await encodeMedia({ region: rect(0, 0, 2, 1), planes }, { width: 2, height: 1, pixelAspect: 1 }, settings, k);
    const info = await inspectMedia(bytes, 'a.tif');
    expect([info.bits, info.alpha, info.colourSpace]).toEqual(['float', 'straight', 'linear']);
    const back = await decodeMedia(bytes, 'a.tif', info, k);
    for (const c of 'RGBA') planes[c]!.forEach((v, i) => expect(back.planes[c]![i]).toBeCloseTo(v, 6));
    writeFileSync(at('float.tif'), bytes);
    expect(oiio('--info', '-v', 'float.tif')).toMatch(/2 x +1, 4 channel, float/);
    [...Object.values(planes), ...Object.values(back.planes)].forEach((p) => k.give(p));
  });

  test.each([
    ['none', 8],
    ['zip', 16],
    ['lzw', 8],
  ])('damaged files (%s, %i bits) end in a typed error or a picture', async (compression, bits) => {
    oiio('base.exr', '--ch', 'R,G,B', '-d', `uint${bits}`, '--compression', compression, '--cut', '9x7', '-o', 'small.tif');
    const whole = new Uint8Array(readFileSync(at('small.tif')));
    const k = await nodeKernels();
    const attempt = async (bytes: Uint8Array): Promise<void> => {
      const before = k.used;
      try {
        const info = await inspectMedia(bytes, 'bad.tif');
        const picture = await decodeMedia(bytes, 'bad.tif', info, k);
        Object.values(picture.planes).forEach((p) => k.give(p));
      } catch (e) {
        expect(e).toBeInstanceOf(MediaError);
      }
      expect(k.used).toBe(before);
    };
    for (let n = 0; n < whole.length; n++) await attempt(whole.subarray(0, n));
    const next = random(7);
    for (let i = 0; i < 700; i++) {
      const bytes = whole.slice();
      bytes[Math.floor(next() * bytes.length)]! ^= 1 << Math.floor(next() * 8);
      await attempt(bytes);
    }
  });

  test('a header that claims too much is refused', () => {
    const bytes = writeTiff({ width: 4, height: 4, channels: 3, data: new Uint8Array(48) });
    const view = new DataView(bytes.buffer);
    const directory = view.getUint32(4, true);
    view.setUint32(directory + 2 + 8, 100_000, true);
    view.setUint32(directory + 14 + 8, 100_000, true);
    expect(() => inspectTiff(bytes, 'huge.tif')).toThrow(/huge\.tif: its size of 100000×100000 pixels is too large/);
  });
});

describe('JPEG and WebP', () => {
  const smooth = async (container: 'jpg' | 'webp', quality: number) => {
    const k = await nodeKernels();
    const [w, h] = [48, 32];
    const planes = Object.fromEntries(
      ['R', 'G', 'B', 'A'].map((c, j) => [
        c,
        k.copy(Array.from({ length: w * h }, (_, i) => (c === 'A' ? 1 : 0.1 + 0.01 * (i % w) + 0.005 * j * Math.floor(i / w)))),
      ]),
    );
    const settings = { ...DEFAULT_OUTPUT, container, bits: 8, quality, colourSpace: 'sRGB', alpha: false } as const;
    const bytes = await encodeMedia({ region: rect(0, 0, w, h), planes }, { width: w, height: h, pixelAspect: 1 }, settings, k);
    const back = await decodeMedia(bytes, `a.${container}`, { colourSpace: 'sRGB', alpha: 'ignore' }, k);
    const error = Math.max(...['R', 'G', 'B'].flatMap((c) => [...planes[c]!].map((v, i) => Math.abs(v - back.planes[c]![i]!))));
    [...Object.values(planes), ...Object.values(back.planes)].forEach((p) => k.give(p));
    return { size: bytes.length, error };
  };

  test.each(['jpg', 'webp'] as const)('%s comes back near what it was, and more quality is nearer and larger', async (container) => {
    const [low, high] = [await smooth(container, 30), await smooth(container, 95)];
    expect(high.error).toBeLessThan(0.03);
    expect(high.size).toBeGreaterThan(low.size);
    expect(high.error).toBeLessThanOrEqual(low.error);
  });

  test('WebP of quality 100 loses nothing but the steps of 8 bits', async () =>
    expect((await smooth('webp', 100)).error).toBeLessThan(0.005));
});
