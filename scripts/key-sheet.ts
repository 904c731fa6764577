// Lays what "Key a screen" makes of SG010 over black, white and the harbour, into one sheet: docs/screenshots/key-sheet.png.
import { join } from 'node:path';
import type { OverlayOptions } from 'sharp';
import sharp from 'sharp';
import { oneCommand, plateOnly } from '@/bench/keying';
import { SRGB } from '@/core/colour';
import { RGBA } from '@/core/picture';
import { nodeHost, openShotFile } from '@/engine/node';

const root = process.env.OSTRACON_ROOT ?? '.';
/** Hair against the bright part of the screen, the cape wide open, the lantern in motion. */
const FRAMES = [6, 24, 41];
const SIZE = { width: 640, height: 360 };

const { shot, files } = await openShotFile(join(root, 'demo/shots/sg010.json'));
const host = await nodeHost(files);
const key = await oneCommand(plateOnly(shot, 'keeper'), host, [1, 24, 48]);
const harbour = {
  ...shot,
  lanes: shot.lanes.filter((l) => l.id === 'harbour').map((l) => ({ ...l, steps: l.steps.slice(0, -1) })),
  result: 'harbour',
};
const { width, height } = shot.format;
const behind = await host.render(harbour, { tap: { lane: 'harbour' }, frame: 1, scale: 1, channels: RGBA });
const wide = behind.region.x1 - behind.region.x0;
const backings: readonly ((x: number, y: number, c: number) => number)[] = [
  () => 0,
  () => 1,
  (x, y, c) => behind.pixels[4 * ((y - behind.region.y0) * wide + x - behind.region.x0) + c]!,
];

const tiles: OverlayOptions[] = [];
for (const [row, frame] of FRAMES.entries()) {
  const { pixels } = await host.render(key, { tap: { lane: 'keeper' }, frame, scale: 1, channels: RGBA });
  for (const [column, back] of backings.entries()) {
    const out = Buffer.alloc(3 * width * height);
    for (let i = 0; i < width * height; i++) {
      const cover = pixels[4 * i + 3]!;
      for (let c = 0; c < 3; c++) {
        const light = pixels[4 * i + c]! + (1 - cover) * back(i % width, Math.floor(i / width), c);
        out[3 * i + c] = Math.round(255 * SRGB.encode(Math.min(1, Math.max(0, light))));
      }
    }
    const input = await sharp(out, { raw: { width, height, channels: 3 } })
      .resize(SIZE.width, SIZE.height)
      .png()
      .toBuffer();
    tiles.push({ input, left: column * SIZE.width, top: row * SIZE.height });
  }
}
await sharp({ create: { width: 3 * SIZE.width, height: FRAMES.length * SIZE.height, channels: 3, background: '#000' } })
  .composite(tiles)
  .png({ compressionLevel: 9, palette: true, quality: 90 })
  .toFile(join(root, 'docs/screenshots/key-sheet.png'));
