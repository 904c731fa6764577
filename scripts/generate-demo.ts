// Makes the demo film's media: npm run demo:generate [SHOT[:FRAMES]]. The same bytes on the same Node version.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker, isMainThread, parentPort, workerData } from 'node:worker_threads';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { SRGB } from '@/core/colour';
import { writePng } from '@/core/formats';
import { makeKernels } from '@/engine';
import { markerFile } from '@/demo/marker';
import { passSet } from '@/demo/pass-set';
import { posterFile } from '@/demo/poster';
import { renderHarbour } from '@/demo/harbour';
import { writePlate } from '@/demo/plate-file';
import { renderQuay } from '@/demo/quay';
import { DRAWN, FRAMES, GREEN_COAT, SG010, renderKeeper } from '@/demo/sg010';
import { SG020, TABLE_FRAMES, renderTable, renderTide } from '@/demo/sg020';
import { SG040, WALL_FRAMES, renderWall } from '@/demo/sg040';
import { SG050, SLIPWAY_FRAMES, renderSlipway } from '@/demo/sg050';
import { MOORING_FRAMES, SG060, renderMooring } from '@/demo/sg060';
import { CHART_FRAMES, SG070, renderChart } from '@/demo/sg070';
import { sprayFile } from '@/demo/spray';
import { DIVER_FRAMES, SG030 } from '@/demo/sg030';
import { BASIN_FRAMES, HEIGHT, WIDTH, buoyPlanes, renderBasin, renderRipples } from '@/demo/sg080';
import { EH, ELEMENT_FRAMES, EMBER_FRAMES, EW, renderDirt, renderEmbers, renderFog, renderQuayPiece, renderSmoke } from '@/demo/elements';
import { stillFile } from '@/demo/still-file';

const root = process.env.OSTRACON_ROOT ?? '.';
const fileOf = (shot: string, name: string, frame: number, ending: string): string =>
  join(root, 'demo/media', shot, `${name}.${String(frame).padStart(4, '0')}.${ending}`);

function harbour(): void {
  const [width, height] = [960, 540];
  const data = Uint16Array.from(renderHarbour(width, height), (v) => Math.round(65535 * SRGB.encode(Math.min(1, Math.max(0, v)))));
  // Ten significant bits keep the sky smooth and the file small.
  const png = writePng({ width, height, bits: 16, channels: 3, data: data.map((v) => (v & 0xffe0) | (v >> 11)) });
  writeFileSync(join(root, 'demo/media/sg010/harbour.png'), png);
}

/** Light as 8-bit sRGB code values in a PNG. */
function writeLight(light: Float32Array, width: number, height: number, path: string): void {
  const data = Uint8Array.from(light, (v) => Math.round(255 * SRGB.encode(Math.min(1, Math.max(0, v)))));
  writeFileSync(path, writePng({ width, height, bits: 8, channels: 3, data }));
}

/** Grey light as 8-bit sRGB code values in a PNG, half the film's size. */
function writeGrey(light: Float32Array, path: string): void {
  const data = Uint8Array.from(light, (v) => Math.round(255 * SRGB.encode(Math.min(1, Math.max(0, v)))));
  writeFileSync(path, writePng({ width: EW, height: EH, bits: 8, channels: 1, data }));
}

const kernelsHere = async () => makeKernels(await WebAssembly.compile(readFileSync(join(root, 'kernels/build/kernels.wasm'))));
const still = (shot: string, name: string): string => join(root, 'demo/media', shot, name);

/** What is made frame by frame, by shot. */
const SHOTS: Record<string, { frames: { first: number; last: number }; once?(): void; frame(frame: number): Promise<void> }> = {
  sg010: {
    frames: FRAMES,
    once: harbour,
    async frame(frame) {
      for (const [name, options] of Object.entries({ keeper: SG010, coat: GREEN_COAT })) {
        const folder = name === 'coat' ? 'sg010-coat' : 'sg010';
        mkdirSync(join(root, 'demo/media', folder), { recursive: true });
        const { width, height, plate, alpha } = renderKeeper(frame, options);
        await writePlate(plate, width, height, fileOf(folder, name, frame, 'jpg'));
        if (name === 'coat' && (DRAWN as readonly number[]).includes(frame)) {
          const data = Uint8Array.from(alpha, (v) => Math.round(255 * v));
          writeFileSync(fileOf(folder, 'coat-matte', frame, 'png'), writePng({ width, height, bits: 8, channels: 1, data }));
        }
      }
    },
  },
  sg020: {
    frames: TABLE_FRAMES,
    async frame(frame) {
      await writePlate(renderTable(frame, SG020).plate, 960, 540, fileOf('sg020', 'table', frame, 'jpg'));
      writeLight(renderTide(frame, 480, 320), 480, 320, fileOf('sg020', 'tide', frame, 'png'));
    },
  },
  sg040: {
    frames: WALL_FRAMES,
    async frame(frame) {
      await writePlate(renderWall(frame, SG040).plate, 960, 540, fileOf('sg040', 'wall', frame, 'jpg'));
    },
  },
  sg050: {
    frames: SLIPWAY_FRAMES,
    async frame(frame) {
      if (frame === 1) writeFileSync(still('sg050', 'sign.png'), posterFile());
      await writePlate(renderSlipway(frame, SG050), 960, 540, fileOf('sg050', 'slipway', frame, 'jpg'));
    },
  },
  sg070: {
    frames: CHART_FRAMES,
    async frame(frame) {
      await writePlate(renderChart(frame, SG070), 960, 540, fileOf('sg070', 'chart', frame, 'jpg'));
    },
  },
  sg060: {
    frames: MOORING_FRAMES,
    async frame(frame) {
      await writePlate(renderMooring(frame, SG060), 960, 540, fileOf('sg060', 'mooring', frame, 'jpg'));
    },
  },
  sg080: {
    frames: BASIN_FRAMES,
    async frame(frame) {
      if (frame === 1) writeFileSync(still('sg080', 'buoy.exr'), stillFile(buoyPlanes(), 'SG080 buoy', await kernelsHere()));
      await writePlate(renderBasin(frame), WIDTH, HEIGHT, fileOf('sg080', 'basin', frame, 'jpg'));
      await sharp(Buffer.from(renderRipples(frame)), { raw: { width: WIDTH / 2, height: HEIGHT / 2, channels: 3 } })
        .jpeg({ quality: 88, chromaSubsampling: '4:4:4' })
        .toFile(fileOf('sg080', 'ripples', frame, 'jpg'));
    },
  },
  elements: {
    frames: EMBER_FRAMES,
    async frame(frame) {
      writeLight(renderEmbers(frame), EW, EH, fileOf('elements', 'embers', frame, 'png'));
      if (frame <= ELEMENT_FRAMES.last) {
        writeGrey(renderFog(frame), fileOf('elements', 'fog', frame, 'png'));
        writeGrey(renderSmoke(frame), fileOf('elements', 'smoke', frame, 'png'));
      }
      if (frame > 1) return;
      writeGrey(renderDirt(), still('elements', 'lens-dirt.png'));
      writeFileSync(still('elements', 'marker.glb'), await markerFile());
      writeFileSync(still('elements', 'quay-piece.exr'), stillFile(renderQuayPiece(), 'a piece of the quay', await kernelsHere()));
    },
  },
  sg030: {
    frames: DIVER_FRAMES,
    async frame(frame) {
      const kernels = await kernelsHere();
      writeFileSync(fileOf('sg030', 'spray', frame, 'exr'), sprayFile(frame, kernels));
      writeFileSync(fileOf('sg030', 'diver', frame, 'exr'), passSet(frame, SG030, kernels));
      await writePlate(renderQuay(frame, 960, 540), 960, 540, fileOf('sg030', 'quay', frame, 'jpg'));
    },
  },
};

interface Work {
  shot: string;
  frame: number;
}

if (isMainThread) {
  const [only, list] = (process.argv[2] ?? '').split(':');
  const work: Work[] = [];
  for (const [shot, { frames, once }] of Object.entries(SHOTS)) {
    if (only && only !== shot) continue;
    mkdirSync(join(root, 'demo/media', shot), { recursive: true });
    if (!list) once?.();
    for (let f = frames.first; f <= frames.last; f++) if (!list || list.split(',').includes(String(f))) work.push({ shot, frame: f });
  }
  await Promise.all(
    [0, 1].map(
      (k) =>
        new Promise<void>((done, fail) => {
          const worker = new Worker(fileURLToPath(import.meta.url), { workerData: work.filter((_, i) => i % 2 === k) });
          worker.on('message', (text) => process.stdout.write(`${text}\n`));
          worker.on('error', fail);
          worker.on('exit', () => done());
        }),
    ),
  );
} else {
  for (const { shot, frame } of workerData as Work[]) {
    await SHOTS[shot]!.frame(frame);
    parentPort!.postMessage(`${shot} ${frame}`);
  }
}
