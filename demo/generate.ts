// Makes the demo film's media: npm run demo:generate. The same bytes on the same Node version.
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker, isMainThread, parentPort, workerData } from 'node:worker_threads';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { REC709, SRGB } from '@/core/colour/transfer';
import { writePng } from '@/core/formats/codes';
import { renderHarbour } from './harbour';
import { FRAMES, SG010, renderKeeper } from './sg010';

const media = join(process.env.OSTRACON_ROOT ?? '.', 'demo/media/sg010');

async function keeperFrame(frame: number): Promise<void> {
  const { width, height, plate } = renderKeeper(frame, SG010);
  const { encode } = REC709;
  const codes = Buffer.from(plate.map((v) => Math.min(255, Math.max(0, Math.round(255 * encode(Math.max(0, v)))))));
  await sharp(codes, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 92, chromaSubsampling: '4:2:0' })
    .toFile(join(media, `keeper.${String(frame).padStart(4, '0')}.jpg`));
}

function harbour(): void {
  const [width, height] = [960, 540];
  const { encode } = SRGB;
  const data = Uint16Array.from(renderHarbour(width, height), (v) => Math.round(65535 * encode(Math.min(1, Math.max(0, v)))));
  // Ten significant bits keep the sky smooth and the file small.
  writeFileSync(
    join(media, 'harbour.png'),
    writePng({ width, height, bits: 16, channels: 3, data: data.map((v) => (v & 0xffe0) | (v >> 11)) }),
  );
}

if (isMainThread) {
  mkdirSync(media, { recursive: true });
  const only = process.argv[2]?.split(',').map(Number);
  if (!only || !existsSync(join(media, 'harbour.png'))) harbour();
  const frames = only ?? Array.from({ length: FRAMES.last }, (_, i) => i + 1);
  const workers = [0, 1].map(
    (k) =>
      new Promise<void>((done, fail) => {
        const worker = new Worker(fileURLToPath(import.meta.url), { workerData: frames.filter((_, i) => i % 2 === k) });
        worker.on('message', (f) => process.stdout.write(`keeper ${f}\n`));
        worker.on('error', fail);
        worker.on('exit', () => done());
      }),
  );
  await Promise.all(workers);
} else {
  for (const frame of workerData as number[]) {
    await keeperFrame(frame);
    parentPort!.postMessage(frame);
  }
}
