import { readFileSync } from 'node:fs';
import { flat } from '@/core/testing/evaluate';
import { nodeKernels } from './node/host';
import { decodeLossy, encodeMedia, initCodecs, sniff, containerOf } from './codecs';

const compile = (path: string): Promise<WebAssembly.Module> => WebAssembly.compile(readFileSync(`node_modules/@jsquash/${path}.wasm`));
const FILES = {
  jpeg: 'jpeg/codec/dec/mozjpeg_dec',
  webp: 'webp/codec/dec/webp_dec',
  jpegEncoder: 'jpeg/codec/enc/mozjpeg_enc',
  webpEncoder: 'webp/codec/enc/webp_enc_simd',
};
type Codec = keyof typeof FILES;

/** Loaders that tell what was loaded. */
function counted(fails: Codec[] = []): Codec[] {
  const loaded: Codec[] = [];
  const of = (codec: Codec) => (): Promise<WebAssembly.Module> => {
    loaded.push(codec);
    return fails.splice(fails.indexOf(codec), Number(fails.includes(codec))).length
      ? Promise.reject(new Error('no network'))
      : compile(FILES[codec]);
  };
  initCodecs({ jpeg: of('jpeg'), webp: of('webp'), jpegEncoder: of('jpegEncoder'), webpEncoder: of('webpEncoder') });
  return loaded;
}

const settings = (container: 'jpg' | 'webp') =>
  ({ container, quality: 90, bits: 8, colourSpace: 'sRGB', alpha: false }) as unknown as Parameters<typeof encodeMedia>[2];
async function written(container: 'jpg' | 'webp'): Promise<Uint8Array> {
  const kernels = await nodeKernels();
  const { width, height } = flat(16, 8, 0.5);
  const region = { x0: 0, y0: 0, x1: width, y1: height };
  const planes = Object.fromEntries(['R', 'G', 'B', 'A'].map((c) => [c, kernels.zeros(width * height).fill(c === 'A' ? 1 : 0.5)]));
  const bytes = await encodeMedia({ region, planes } as never, { width, height, pixelAspect: 1 }, settings(container), kernels);
  Object.values(planes).forEach((p) => kernels.give(p));
  return bytes;
}

// The other tests of this process go on with all of them.
afterAll(() => void counted());

describe('codecs', () => {
  test('each is loaded when it is first needed, and then once', async () => {
    await nodeKernels();
    const loaded = counted();
    expect(loaded).toEqual([]);
    const jpg = await written('jpg');
    expect(loaded).toEqual(['jpegEncoder']);
    const { width, data } = await decodeLossy(jpg, 'gull.jpg', 'JPEG');
    // 0.5 of light is 188 in sRGB.
    expect([width, Math.abs(data[0]! - 188) <= 2]).toEqual([16, true]);
    await decodeLossy(jpg, 'gull.jpg', 'JPEG');
    await written('jpg');
    expect(loaded).toEqual(['jpegEncoder', 'jpeg']);
    const webp = await written('webp');
    await decodeLossy(webp, 'gull.webp', 'WebP');
    expect(loaded).toEqual(['jpegEncoder', 'jpeg', 'webpEncoder', 'webp']);
  });

  test('a damaged file is named, and good ones are read after it without loading anything again', async () => {
    const loaded = counted();
    const jpg = await written('jpg');
    const broken = jpg.slice();
    broken.fill(0, 200, broken.length - 2);
    for (let k = 0; k < 3; k++)
      await decodeLossy(broken, 'broken.jpg', 'JPEG').catch((e: Error) => expect(e.message).toMatch(/broken\.jpg.*damaged/));
    expect((await decodeLossy(jpg, 'gull.jpg', 'JPEG')).height).toBe(8);
    expect(loaded.filter((l) => l === 'jpeg')).toHaveLength(1);
  });

  test('what does not load now may load later, and is not the file’s fault', async () => {
    const jpg = await written('jpg');
    const loaded = counted(['jpeg']);
    await expect(decodeLossy(jpg, 'gull.jpg', 'JPEG')).rejects.toThrow('no network');
    expect((await decodeLossy(jpg, 'gull.jpg', 'JPEG')).width).toBe(16);
    expect(loaded).toEqual(['jpeg', 'jpeg']);
  });

  test('a file is what its first bytes say, whatever it is called', async () => {
    const [jpg, webp] = [await written('jpg'), await written('webp')];
    expect([sniff(jpg), sniff(webp), sniff(new Uint8Array(40))]).toEqual(['JPEG', 'WebP', null]);
    expect(containerOf(jpg, 'gull.png')).toBe('JPEG');
    expect(() => containerOf(new Uint8Array(0), 'gull.jpg')).toThrow('the file is empty');
    expect(() => containerOf(new Uint8Array(40), 'gull.exr')).toThrow(/named \.exr but its contents are not OpenEXR/);
    expect(() => containerOf(new Uint8Array(40), 'gull.txt')).toThrow(/this kind of file is not known/);
  });
});
