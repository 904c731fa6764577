import { mkdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import type { Shot } from '@/core/document/types';
import { DEFAULT_OUTPUT } from '@/core/formats/output';
import { RGBA } from '@/core/picture';
import { exportRange } from '@/engine/export';
import { nodeHost, openShotFile } from '@/engine/node/host';
import { FramePool } from '@/engine/node/workers';
import type { Kernels } from '@/kernels';
import { oneCommand, plateOnly } from './keying';
import { naiveKeyRows } from './keys-naive';
import { median, ms, table, times } from './timing';

const FRAMES = 8;

/** The first frames of the demo plate at twice their size, as a shot file of the plate alone. */
async function enlarged(root: string): Promise<string> {
  const folder = join(tmpdir(), 'saltgate-key-hd');
  mkdirSync(folder, { recursive: true });
  for (let f = 1; f <= FRAMES; f++) {
    const name = `keeper.${String(f).padStart(4, '0')}.jpg`;
    await sharp(join(root, 'demo/media/sg010', name))
      .resize(1920, 1080)
      .jpeg({ quality: 92 })
      .toFile(join(folder, name));
  }
  const { shot } = await openShotFile(join(root, 'demo/shots/sg010.json'));
  const path = join(folder, 'shot.json');
  const source = { id: 'src-keeper', name: 'plate', path: 'keeper.####.jpg', colourSpace: 'Rec.709' };
  const plate = {
    ...plateOnly(shot, 'keeper'),
    format: { width: 1920, height: 1080, pixelAspect: 1 },
    range: { first: 1, last: FRAMES },
    sources: [source],
  };
  writeFileSync(path, JSON.stringify(plate));
  return path;
}

/** What "Key a screen" makes of an HD plate: each of its steps, and whole frames by one core and by two workers. */
export async function benchKeys(root: string, entry: URL, kernels: Kernels): Promise<string> {
  const { shot: plate, files } = await openShotFile(await enlarged(root));
  const host = await nodeHost(files);
  const shot = await oneCommand(plate, host, [1, 4, 8]);
  const spent = new Map<string, number[]>();
  const whole: number[] = [];
  for (let frame = 1; frame <= FRAMES; frame++) {
    // Each point after what it is made from: what is measured is what it adds.
    const order = [
      ...shot.lanes.filter((l) => l.name.endsWith('screen')),
      ...shot.lanes.filter((l) => /core|garbage/.test(l.name)),
      shot.lanes[0]!,
    ];
    let sum = 0;
    for (const lane of order) {
      for (const after of [...(lane === order[0] ? [''] : []), ...lane.steps.map((s) => s.id)]) {
        const matte = /core|garbage/.test(lane.name) && after !== '';
        const { milliseconds } = await host.render(shot, {
          tap: { lane: lane.id, after },
          frame,
          scale: 1,
          channels: matte ? ['A'] : RGBA,
        });
        const name = after === '' ? 'the plate, decoded' : `${lane.name} ▸ ${lane.steps.find((s) => s.id === after)!.name}`;
        spent.set(name, [...(spent.get(name) ?? []), milliseconds]);
        sum += milliseconds;
      }
    }
    whole.push(sum);
  }
  const seconds: number[] = [];
  for (const count of [1, 2]) seconds.push(await exported(shot, files, entry, count));
  const each = seconds.map((s) => (1000 * s) / FRAMES);
  return [
    'What the one command makes of an HD plate (the demo plate at twice its size), one core unless said; medians.',
    table(
      ['', 'a frame'],
      [
        ...[...spent].map(([name, list]) => [name, `${ms(median(list))} ms`]),
        ['all of it, step by step', `${ms(median(whole))} ms`],
        ['rendered as uncompressed half EXR, one worker', `${ms(each[0]!)} ms`],
        ['the same, two workers', `${ms(each[1]!)} ms: ${times(each[0]! / each[1]!)}`],
      ],
    ),
    naiveKeyRows(kernels),
  ].join('\n\n');
}

async function exported(shot: Shot, files: ReadonlyMap<string, string>, entry: URL, workers: number): Promise<number> {
  const pool = new FramePool(entry, workers, files as Map<string, string>);
  const job = { lane: shot.result!, scale: 1, name: 'f.####', settings: { ...DEFAULT_OUTPUT, compression: 'NONE' as const } };
  const run = (first: number, last: number): Promise<void> =>
    exportRange(
      pool,
      shot,
      { ...job, first, last },
      { write: async () => undefined },
      2 * workers,
      () => undefined,
      new AbortController().signal,
    );
  // The kernels are loaded and compiled before the clock runs.
  await run(1, workers);
  const started = performance.now();
  await run(1, FRAMES);
  const took = (performance.now() - started) / 1000;
  await pool.close();
  return took;
}
