import { createHash } from 'node:crypto';
import { mkdtemp, rm, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { strToU8, unzipSync, zipSync } from 'fflate';
import type { Shot } from '@/core/document/types';
import { DEFAULT_OUTPUT } from '@/core/formats/output';
import { flat, testShot } from '@/core/testing/evaluate';
import { FrameCache } from './browser/frame-cache';
import { readBundle, writeBundle } from './bundle';
import { exportRange, filesOf } from './export';
import type { PictureHost, Rendered } from './host';
import { FileReader } from './node/file-reader';
import { nodeHost, openShotFile } from './node/host';
import { ZipFiles, ZipSink } from './zip';

const sha = async (b: Blob): Promise<string> =>
  createHash('sha256')
    .update(new Uint8Array(await b.arrayBuffer()))
    .digest('hex');
const blob = (b: Uint8Array): Blob => new Blob([b as Uint8Array<ArrayBuffer>]);

/** Collects what is written. */
function collected(): { to: WritableStream<Uint8Array>; bytes(): Uint8Array } {
  const parts: Uint8Array[] = [];
  return {
    to: new WritableStream({ write: (chunk) => void parts.push(chunk.slice()) }),
    bytes: () => Uint8Array.from(Buffer.concat(parts)),
  };
}

describe('bundles', () => {
  const bytes = strToU8('a picture');
  const make = async (): Promise<{ shot: Shot; packed: Uint8Array }> => {
    const shot = testShot({ main: flat(4, 4, 0) }, []);
    shot.sources[0]!.frames = [{ frame: 1, hash: await sha(blob(bytes)), name: 'main.png' }];
    const out = collected();
    await writeBundle(shot, async () => bytes, out.to);
    return { shot, packed: out.bytes() };
  };
  const packedShot = (text: string, more: Record<string, Uint8Array> = {}): Blob => blob(zipSync({ 'shot.json': strToU8(text), ...more }));

  test('come back whole', async () => {
    const { shot, packed } = await make();
    const back = await readBundle(blob(packed), 'a.ostracon', sha);
    expect(back.shot).toEqual(shot);
    const [hash] = back.media.keys();
    expect(await (await back.file(hash!)).text()).toBe('a picture');
    expect(back.bytes).toBe(9);
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
      /media "main\.png" is not in it/,
    ],
    [
      'media that is changed',
      (e) =>
        Object.keys(e)
          .filter((k) => k.startsWith('media/'))
          .forEach((k) => (e[k] = strToU8('another'))),
      /media "main\.png" is damaged/,
    ],
  ])('%s is refused in words', async (_, change, message) => {
    const entries = unzipSync((await make()).packed);
    change(entries);
    await expect(readBundle(blob(zipSync(entries)), 'a.ostracon', sha)).rejects.toThrow(message);
  });

  test('a cut bundle is refused', async () => {
    const whole = (await make()).packed;
    await expect(readBundle(blob(whole.subarray(0, whole.length - 30)), 'cut.ostracon', sha)).rejects.toThrow(
      /cut\.ostracon: this is not a whole bundle/,
    );
  });

  test('what claims other sizes than it has, or unpacks to far more than it should, is refused', async () => {
    const claim = (await make()).packed.slice();
    const view = new DataView(claim.buffer);
    for (let i = 0; i + 46 < claim.length; i++) if (view.getUint32(i, true) === 0x02014b50) view.setUint32(i + 24, 0xfffffff0, true);
    await expect(readBundle(blob(claim), 'bomb.ostracon', sha)).rejects.toThrow(/unpacks to more than 64 MB|damaged|not a whole bundle/);
    const { shot } = await make();
    const zeros = new Uint8Array(24 * 2 ** 20);
    const media = { [`media/${shot.sources[0]!.frames![0]!.hash}`]: zeros };
    await expect(readBundle(packedShot(JSON.stringify(shot), media), 'bomb.ostracon', sha)).rejects.toThrow(/far more than it should/);
  });

  test('files that the shot does not name are not unpacked', async () => {
    const { packed } = await make();
    const entries = { ...unzipSync(packed), 'unnamed.bin': new Uint8Array(32 * 2 ** 20) };
    await expect(readBundle(blob(zipSync(entries)), 'a.ostracon', sha)).resolves.toMatchObject({ bytes: 9 });
  });

  test.each([
    ['brackets without end', '['.repeat(30_000), /nested more than 64 deep/],
    ['lists in a document', `{"schema":"ostracon/1","sources":${'['.repeat(5000)}${']'.repeat(5000)}}`, /nested more than 64 deep/],
    [
      'a million things that are none',
      JSON.stringify({ schema: 'ostracon/1', sources: Array.from({ length: 10 ** 6 }, (_, i) => i * i) }),
      /sources holds more than 20000 things/,
    ],
  ])('%s: refused at once', async (_, text, message) => {
    await expect(readBundle(packedShot(text), 'odd.ostracon', sha)).rejects.toThrow(message);
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

  test('a file goes back to the host once it is written, and not before', async () => {
    const said: string[] = [];
    const lending = { ...host(async (f) => Uint8Array.of(f)), takeBack: (b: Uint8Array) => void said.push(`back ${b[0]}`) };
    const sink = {
      write: async (_name: string, b: Uint8Array) => {
        await new Promise((next) => setTimeout(next, 2));
        said.push(`written ${b[0]}`);
      },
    };
    await exportRange(lending, shot, { ...job, last: 5 }, sink, 3, () => undefined, new AbortController().signal);
    expect(said).toEqual([3, 4, 5].flatMap((f) => [`written ${f}`, `back ${f}`]));
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
    const out = collected();
    const zip = new ZipSink(out.to);
    for (let i = 0; i < 300; i++) await zip.write(`${i}.png`, Uint8Array.of(i & 255));
    await zip.finish();
    const files = await ZipFiles.open(blob(out.bytes()), 'a.zip');
    for (const i of [0, 1, 299]) {
      expect(new Uint8Array(await (await files.read(`${i}.png`)).arrayBuffer())).toEqual(Uint8Array.of(i & 255));
    }
    expect(files.has('300.png')).toBe(false);
  });

  test('a file of more than 4 GB has its true size in the directory', async () => {
    // A file of holes: it takes no room on the disk.
    const size = 2 ** 32 + 4096;
    const path = join(await mkdtemp(join(tmpdir(), 'zip64-')), 'large.mov');
    await writeFile(path, '');
    await truncate(path, size);
    let [end, written] = [Buffer.alloc(0), 0];
    const to = new WritableStream<Uint8Array>({
      write(chunk) {
        written += chunk.length;
        // Only the end is kept, where the directory stands.
        end = Buffer.concat([end, chunk.subarray(-1024)]).subarray(-1024);
      },
    });
    const zip = new ZipSink(to);
    const file = await FileReader.open(path);
    await zip.write('large.mov', file);
    await zip.finish();
    await file.close();
    await rm(dirname(path), { recursive: true });
    expect(written).toBeGreaterThan(size);
    // The extra field of Zip64 in the central directory: both sizes in 64 bits.
    const at = end.indexOf(Buffer.from([0x50, 0x4b, 1, 2]));
    const extra = end.indexOf(Buffer.from([1, 0]), at + 46 + 'large.mov'.length);
    expect([end.readBigUInt64LE(extra + 4), end.readBigUInt64LE(extra + 12)]).toEqual([BigInt(size), BigInt(size)]);
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
