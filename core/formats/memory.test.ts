import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { decodeMedia, encodeMedia } from '@/engine/codecs';
import { nodeKernels } from '@/engine/node/host';
import { makeKernels } from '@/engine/wasm';
import { random } from '@/demo/noise';
import { rect } from '../geometry/rect';
import type { OutputSettings } from './output';
import { DEFAULT_OUTPUT } from './output';

const [W, H] = [512, 512];

async function made(settings: Partial<OutputSettings>): Promise<Uint8Array> {
  const k = await nodeKernels();
  const planes = Object.fromEntries(
    ['R', 'G', 'B', 'A'].map((c, j) => [c, k.copy(Array.from({ length: W * H }, (_, i) => ((i * (j + 3)) % 997) / 997))]),
  );
  const bytes = await encodeMedia(
    { region: rect(0, 0, W, H), planes },
    { width: W, height: H, pixelAspect: 1 },
    { ...DEFAULT_OUTPUT, ...settings },
    k,
  );
  Object.values(planes).forEach((p) => k.give(p));
  return bytes;
}

describe('memory of decoding', () => {
  test.each<[string, Partial<OutputSettings>, number]>([
    ['OpenEXR ZIP', { compression: 'ZIP' }, 8],
    ['OpenEXR PIZ', { compression: 'PIZ' }, 8],
    ['OpenEXR, float', { compression: 'ZIPS', bits: 32 }, 16],
    ['PNG, 16 bit', { container: 'png', bits: 16, colourSpace: 'sRGB' }, 8],
    ['DPX, 10 bit', { container: 'dpx', bits: 10, colourSpace: 'sRGB' }, 4],
    ['TIFF, 16 bit', { container: 'tif', bits: 16, colourSpace: 'sRGB' }, 8],
  ])('%s takes no more than four times what its header declares, whole or damaged', async (_, settings, bytesAPixel) => {
    const bytes = await made(settings);
    const next = random(11);
    for (let round = 0; round < 6; round++) {
      const data = bytes.slice();
      for (let i = 0; i < round * 3; i++) data[Math.floor(next() * data.length)]! ^= 1 << Math.floor(next() * 8);
      const kernels = await makeKernels(await WebAssembly.compile(readFileSync(join(process.cwd(), 'kernels/build/kernels.wasm'))));
      const before = kernels.reserved;
      await decodeMedia(data, 'a', { colourSpace: 'linear', alpha: 'premultiplied' }, kernels).catch(() => undefined);
      // A page is what memory grows by at least.
      expect(kernels.reserved - before).toBeLessThanOrEqual(4 * W * H * bytesAPixel + 2 ** 20);
    }
  });
});
