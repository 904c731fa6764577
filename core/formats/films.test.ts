import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodeMedia, encodeMedia } from '@/engine/codecs';
import { inspectMedia } from '@/engine/inspect';
import { nodeKernels } from '@/engine/node/host';
import { MediaError } from '../errors';
import { rect } from '../geometry/rect';
import { inspectDpx, readDpx, writeDpx } from './dpx';
import { DEFAULT_OUTPUT } from './output';
import { readRadiance, writeRadiance } from './radiance';

// DPX and Radiance HDR, by themselves and against the other program that the test script installs.
const folder = mkdtempSync(join(tmpdir(), 'saltgate-films-'));
const at = (name: string): string => join(folder, name);
const oiio = (...args: string[]): string => execFileSync('oiiotool', args, { encoding: 'utf8', cwd: folder });

beforeAll(() => {
  oiio(
    '--pattern',
    'fill:top=0.1,0.4,0.9:bottom=0.9,0.3,0.05',
    '203x31',
    '3',
    '--noise:type=gaussian:stddev=0.05',
    '--clamp:min=0:max=1',
    '-d',
    'float',
    '-o',
    'base.exr',
  );
});

describe('DPX', () => {
  test.each([8, 10, 12, 16] as const)('%s bits that another program wrote are its codes', async (bits) => {
    oiio('base.exr', '-d', `uint${bits}`, '-o', `${bits}.dpx`, '-i', `${bits}.dpx`, '-d', 'uint16', '-o', 'codes.png');
    const got = readDpx(readFileSync(at(`${bits}.dpx`)), `${bits}.dpx`);
    expect([got.width, got.height, got.bits, got.channels]).toEqual([203, 31, bits, 3]);
    const k = await nodeKernels();
    const png = await decodeMedia(readFileSync(at('codes.png')), 'codes.png', { colourSpace: 'linear', alpha: 'ignore' }, k);
    const top = 2 ** bits - 1;
    ['R', 'G', 'B'].forEach((c, i) => {
      png.planes[c]!.forEach((v, n) => expect(Math.abs(got.data[3 * n + i]! / top - v)).toBeLessThan(1.01 / 65535));
    });
    Object.values(png.planes).forEach((p) => k.give(p));
  });

  test.each([10, 16] as const)('%s bits written here are read here and elsewhere, to the code', (bits) => {
    const [width, height] = [37, 11];
    const data = Uint16Array.from({ length: 3 * width * height }, (_, i) => (i * 7919) % 2 ** bits);
    const bytes = writeDpx({ width, height, bits, data, transfer: 6 });
    expect(inspectDpx(bytes, 'a.dpx')).toMatchObject({ width, height, bits, colourSpace: 'Rec.709' });
    expect([...readDpx(bytes, 'a.dpx').data]).toEqual([...data]);
    writeFileSync(at('ours.dpx'), bytes);
    oiio('ours.dpx', '-d', `uint${bits}`, '-o', 'theirs.dpx');
    expect([...readDpx(readFileSync(at('theirs.dpx')), 'theirs.dpx').data]).toEqual([...data]);
  });

  test('codes packed without gaps, and 12 bits filled from either side', () => {
    const bytes = writeDpx({ width: 5, height: 1, bits: 16, data: new Uint16Array(15), transfer: 6 });
    const view = new DataView(bytes.buffer);
    const codes = Array.from({ length: 15 }, (_, i) => (i * 331 + 17) % 1024);
    bytes[803] = 10;
    bytes.fill(0, 2048);
    codes.forEach((c, i) => {
      for (let b = 0; b < 10; b++) {
        const bit = i * 10 + b;
        const word = 2048 + 4 * (bit >> 5);
        if ((c >> b) & 1) view.setUint32(word, (view.getUint32(word) | (1 << (bit & 31))) >>> 0);
      }
    });
    expect([...readDpx(bytes, 'a').data]).toEqual(codes);
    bytes[803] = 12;
    for (const [packing, shift] of [
      [1, 4],
      [2, 0],
    ] as const) {
      view.setUint16(804, packing);
      codes.forEach((c, i) => view.setUint16(2048 + 2 * i, c << shift));
      expect([...readDpx(bytes, 'a').data]).toEqual(codes);
    }
  });

  test('scanned film is taken for Cineon log: code 685 is white, 95 is black', async () => {
    const data = Uint16Array.from([685, 685, 685, 95, 95, 95]);
    const bytes = writeDpx({ width: 2, height: 1, bits: 10, data, transfer: 1 });
    const info = await inspectMedia(bytes, 'film.dpx');
    expect(info).toMatchObject({ container: 'DPX', colourSpace: 'Cineon', colourReason: 'its header says so' });
    const k = await nodeKernels();
    const got = await decodeMedia(bytes, 'film.dpx', info, k);
    expect(got.planes.G![0]).toBeCloseTo(1, 5);
    expect(got.planes.G![1]).toBeCloseTo(0, 5);
    Object.values(got.planes).forEach((p) => k.give(p));
  });
});

describe('Radiance HDR', () => {
  const light = (i: number): number => 2 ** ((i % 23) - 9) * (1 + (i % 7) / 9);

  test.each([5, 203])('lines of %s pixels there and back within a 256th of the brightest channel', async (w) => {
    const k = await nodeKernels();
    const planes = Object.fromEntries(
      ['R', 'G', 'B'].map((c, j) => [c, k.copy(Array.from({ length: w * 4 }, (_, i) => (i < w ? 0.5 : light(i + j))))]),
    );
    const bytes = writeRadiance({ region: rect(0, 0, w, 4), planes });
    const back = readRadiance(bytes, 'a.hdr', k);
    for (let i = 0; i < 4 * w; i++) {
      const most = Math.max(planes.R![i]!, planes.G![i]!, planes.B![i]!);
      for (const c of 'RGB') expect(Math.abs(back.planes[c]![i]! - planes[c]![i]!)).toBeLessThanOrEqual(most / 256);
    }
    [...Object.values(planes), ...Object.values(back.planes)].forEach((p) => k.give(p));
  });

  test('another program reads the same light, and we read its files', async () => {
    oiio('base.exr', '-o', 'theirs.hdr', '-i', 'theirs.hdr', '-d', 'float', '-o', 'theirs.exr');
    const k = await nodeKernels();
    const about = { colourSpace: 'linear', alpha: 'ignore' } as const;
    const [a, b] = [
      await decodeMedia(readFileSync(at('theirs.hdr')), 'theirs.hdr', about, k),
      await decodeMedia(readFileSync(at('theirs.exr')), 'theirs.exr', about, k),
    ];
    for (const c of 'RGB') a.planes[c]!.forEach((v, i) => expect(Math.abs(v - b.planes[c]![i]!)).toBeLessThan(1 / 200));
    const settings = { ...DEFAULT_OUTPUT, container: 'hdr', colourSpace: 'linear' } as const;
    writeFileSync(at('ours.hdr'), await encodeMedia({ region: a.bounds, planes: a.planes }, a.format, settings, k));
    oiio('ours.hdr', '-d', 'float', '-o', 'ours.exr');
    const back = await decodeMedia(readFileSync(at('ours.exr')), 'ours.exr', about, k);
    for (const c of 'RGB') back.planes[c]!.forEach((v, i) => expect(Math.abs(v - a.planes[c]![i]!)).toBeLessThan(1 / 200));
    [a, b, back].flatMap((p) => Object.values(p.planes)).forEach((p) => k.give(p));
  });
});

describe('damaged files', () => {
  const dpx = writeDpx({ width: 9, height: 5, bits: 10, data: new Uint16Array(135).fill(700), transfer: 6 });
  const hdr = async (): Promise<Uint8Array> => {
    const k = await nodeKernels();
    const planes = Object.fromEntries(
      ['R', 'G', 'B'].map((c, j) => [c, k.copy(Array.from({ length: 100 }, (_, i) => ((i * 7 + j) % 11) / 11))]),
    );
    const bytes = writeRadiance({ region: rect(0, 0, 20, 5), planes });
    Object.values(planes).forEach((p) => k.give(p));
    return bytes;
  };

  test.each(['dpx', 'hdr'])('every prefix and 2,000 flipped bits of a %s end in a picture or a clear error', async (kind) => {
    const k = await nodeKernels();
    const bytes = kind === 'dpx' ? dpx : await hdr();
    const before = k.used;
    const tryIt = async (data: Uint8Array): Promise<void> => {
      try {
        const info = await inspectMedia(data, `bad.${kind}`);
        if (info.format.width * info.format.height > 1e6) return;
        const got = await decodeMedia(data, `bad.${kind}`, info, k);
        Object.values(got.planes).forEach((p) => k.give(p));
      } catch (e) {
        expect(e).toBeInstanceOf(MediaError);
      }
      expect(k.used).toBe(before);
    };
    for (let n = 0; n < bytes.length; n++) await tryIt(bytes.slice(0, n));
    let seed = 4711;
    for (let i = 0; i < 2000; i++) {
      seed = (seed * 1103515245 + 12345) % 2 ** 31;
      const copy = bytes.slice();
      copy[seed % bytes.length]! ^= 1 << ((seed >> 20) % 8);
      await tryIt(copy);
    }
  });
});
