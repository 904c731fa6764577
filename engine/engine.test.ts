import { createHash } from 'node:crypto';
import { describe, expect, test } from '@jest/globals';
import { strToU8, unzipSync, zipSync } from 'fflate';
import { DEFAULT_OUTPUT } from '@/core/formats/output';
import { flat, testShot } from '@/core/testing/evaluate';
import { FrameCache } from './browser/frame-cache';
import { readBundle, writeBundle } from './bundle';
import { ZipSink, exportRange, filesOf } from './export';
import type { PictureHost, Rendered } from './host';
import { nodeHost, openShotFile } from './node/host';

const sha = async (b: Uint8Array): Promise<string> => createHash('sha256').update(b).digest('hex');

describe('bundles', () => {
  const bytes = strToU8('a picture');
  const make = async () => {
    const shot = testShot({ main: flat(4, 4, 0) }, []);
    shot.sources[0]!.frames = [{ frame: 1, hash: await sha(bytes), name: 'main.png' }];
    return { shot, media: new Map([[await sha(bytes), bytes]]) };
  };

  test('come back whole', async () => {
    const given = await make();
    const back = await readBundle(writeBundle(given), 'a.ostracon', sha);
    expect(back.shot).toEqual(given.shot);
    expect([...back.media.values()][0]).toEqual(bytes);
  });

  test.each<[string, (entries: Record<string, Uint8Array>) => void, RegExp]>([
    ['no document', (e) => delete e['shot.json'], /there is no shot\.json/],
    ['a document that is no JSON', (e) => (e['shot.json'] = strToU8('{')), /shot\.json cannot be used/],
    [
      'media that is missing',
      (e) =>
        Object.keys(e)
          .filter((k) => k.startsWith('media/'))
          .forEach((k) => delete e[k]),
      /media "main\.png" of "main" is not in it/,
    ],
    [
      'media that is changed',
      (e) =>
        Object.keys(e)
          .filter((k) => k.startsWith('media/'))
          .forEach((k) => (e[k] = strToU8('another'))),
      /media "main\.png" of "main" is damaged/,
    ],
  ])('%s is refused in words', async (_, change, message) => {
    const entries = unzipSync(writeBundle(await make()));
    change(entries);
    await expect(readBundle(zipSync(entries), 'a.ostracon', sha)).rejects.toThrow(message);
  });

  test('a cut bundle and one that claims to unpack to more than memory are refused', async () => {
    const whole = writeBundle(await make());
    await expect(readBundle(whole.subarray(0, whole.length - 30), 'cut.ostracon', sha)).rejects.toThrow(
      /cut\.ostracon: this is not a whole bundle/,
    );
    const bomb = whole.slice();
    const view = new DataView(bomb.buffer);
    for (let i = 0; i + 46 < bomb.length; i++) if (view.getUint32(i, true) === 0x02014b50) view.setUint32(i + 24, 0xfffffff0, true);
    await expect(readBundle(bomb, 'bomb.ostracon', sha)).rejects.toThrow(/more than 4 GB|not a whole bundle/);
  });
});

describe('frame cache', () => {
  const frame = (floats: number) => ({ pixels: new Float32Array(floats) }) as Rendered;
  test('drops the least recently used over its budget, and keeps what was just asked for', () => {
    const cache = new FrameCache(3 * 400);
    ['a', 'b', 'c'].forEach((k) => cache.set(k, frame(100)));
    cache.get('a');
    cache.set('d', frame(100));
    expect(['a', 'b', 'c', 'd'].map((k) => cache.has(k))).toEqual([true, false, true, true]);
  });
});

describe('export', () => {
  const host = (encode: (f: number) => Promise<Uint8Array>): PictureHost => ({
    render: () => Promise.reject(new Error('not asked for')),
    encode: (_shot, _lane, frame) => encode(frame),
  });
  const job = { lane: 'main', first: 3, last: 8, scale: 1, name: 'x.####', settings: DEFAULT_OUTPUT };
  const shot = testShot({ main: flat(4, 4, 0) }, []);

  test('frames that are done out of order are written in order', async () => {
    const written: string[] = [];
    const slow = host(async (f) => {
      for (let i = 0; i < (f % 3) * 5; i++) await Promise.resolve();
      return Uint8Array.of(f);
    });
    await exportRange(
      slow,
      shot,
      job,
      { write: async (name, b) => void written.push(`${name}=${b[0]}`) },
      3,
      () => undefined,
      new AbortController().signal,
    );
    expect(written).toEqual([3, 4, 5, 6, 7, 8].map((f) => `x.000${f}.exr=${f}`));
  });

  test('every third frame, numbered from where one likes, and only those that are wanted', async () => {
    const job3 = { ...job, step: 3, start: 1001, settings: { ...DEFAULT_OUTPUT, container: 'tif' as const } };
    expect(filesOf(job3)).toEqual([
      { frame: 3, name: 'x.1001.tif' },
      { frame: 6, name: 'x.1004.tif' },
    ]);
    const written: string[] = [];
    const sink = { write: async (name: string, b: Uint8Array) => void written.push(`${name}=${b[0]}`) };
    const told: [number, number][] = [];
    const encode = host(async (f) => Uint8Array.of(f));
    await exportRange(
      encode,
      shot,
      job3,
      sink,
      2,
      (done, of) => void told.push([done, of]),
      new AbortController().signal,
      (n) => n !== 'x.1001.tif',
    );
    expect(written).toEqual(['x.1004.tif=6']);
    expect(told).toEqual([[1, 1]]);
  });

  test('a stop ends it between frames, an error says why', async () => {
    const controller = new AbortController();
    const written: string[] = [];
    const sink = { write: async (name: string) => void (written.push(name) === 2 && controller.abort()) };
    await expect(
      exportRange(
        host(async () => Uint8Array.of(1)),
        shot,
        job,
        sink,
        2,
        () => undefined,
        controller.signal,
      ),
    ).rejects.toThrow('cancelled');
    expect(written).toHaveLength(2);
    const failing = host(async (f) => (f === 5 ? Promise.reject(new Error('frame 5 is missing')) : Uint8Array.of(f)));
    await expect(
      exportRange(failing, shot, job, { write: async () => undefined }, 2, () => undefined, new AbortController().signal),
    ).rejects.toThrow('frame 5');
  });

  test('the zip holds the files', async () => {
    const zip = new ZipSink();
    await zip.write('a.png', Uint8Array.of(1, 2, 3));
    await zip.write('b.png', Uint8Array.of(4));
    const entries = unzipSync(new Uint8Array(await zip.finish().arrayBuffer()));
    expect(Object.entries(entries).map(([n, b]) => [n, [...b]])).toEqual([
      ['a.png', [1, 2, 3]],
      ['b.png', [4]],
    ]);
  });
});

describe('the demo shot', () => {
  test('renders to a keeper over a night harbour, at every proxy scale alike', async () => {
    const { shot, files } = await openShotFile('demo/shots/sg010.json');
    const host = await nodeHost(files);
    const at = async (scale: number) => {
      const r = await host.render(shot, { tap: { lane: 'harbour' }, frame: 20, scale, channels: ['R', 'G', 'B', 'A'] });
      const w = r.region.x1;
      return (x: number, y: number) => [...r.pixels.subarray(4 * (Math.floor(y * scale) * w + Math.floor(x * scale))).subarray(0, 4)];
    };
    const [full, half] = [await at(1), await at(0.5)];
    // Coat, sky, water: opaque, and none of it green.
    for (const [x, y] of [
      [540, 420],
      [120, 80],
      [120, 470],
    ] as const) {
      const [r, g, b, a] = full(x, y);
      expect(a).toBeCloseTo(1, 4);
      expect(g!).toBeLessThan(1.25 * Math.max(r!, b!));
      half(x, y).forEach((v, i) => expect(Math.abs(v - full(x, y)[i]!)).toBeLessThan(0.03));
    }
  });
});
