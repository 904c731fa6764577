import { mkdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import type { Shot } from '@/core/document/types';
import type { Plan } from '@/core/evaluate/plan';
import { makePlan } from '@/core/evaluate/plan';
import { DEFAULT_OUTPUT } from '@/core/formats/output';
import { RGBA } from '@/core/picture';
import type { StepDefinition } from '@/core/step';
import { STEPS } from '@/core/steps';
import { nodeHost, openShotFile } from '@/engine/node/host';
import type { Renderer } from '@/engine/renderer';
import type { Kernels } from '@/kernels';
import { oneCommand, plateOnly } from './keying';
import { naiveKeyRows } from './keys-naive';
import { workerRows } from './by-workers';
import { median, ms, table } from './timing';

/** Frames that are measured, and those before them on which each worker settles: code is compiled as it runs. */
const FRAMES = 16;
const SETTLING = 8;
/** Of an export: of a short one the worker that is done first waits for the other. */
const EXPORTED = 32;
const ALL = 2 * SETTLING + EXPORTED;

/** The first frames of the demo plate at twice their size, as a shot file of the plate alone. */
async function enlarged(root: string): Promise<string> {
  const folder = join(tmpdir(), 'saltgate-key-hd');
  mkdirSync(folder, { recursive: true });
  for (let f = 1; f <= ALL; f++) {
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
    range: { first: 1, last: ALL },
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
  for (let frame = 1; frame <= SETTLING + FRAMES; frame++) {
    const times = await stepTimes(host.renderer, shot, frame);
    if (frame <= SETTLING) continue;
    whole.push([...times.values()].reduce((sum, t) => sum + t, 0));
    for (const [name, t] of times) spent.set(name, [...(spent.get(name) ?? []), t]);
  }
  const settings = { ...DEFAULT_OUTPUT, compression: 'NONE' as const };
  const about = { shot, files, entry, settings, settling: SETTLING, frames: EXPORTED };
  const exports = await workerRows('exported as uncompressed half EXR', about);
  return [
    `What the one command makes of an HD plate (the demo plate at twice its size): medians of ${FRAMES} frames, after ${SETTLING} on which the engine settles. Each step's time is what it takes within the whole.`,
    table(
      ['', 'a frame'],
      [
        ...[...spent].map(([name, list]) => [name, `${ms(median(list))} ms`]),
        ['all of it, one core', `${ms(median(whole))} ms`],
        ...exports,
      ],
    ),
    naiveKeyRows(kernels),
  ].join('\n\n');
}

/** What the parts of a frame take, in milliseconds: the plate's decoding, and each step while the whole is worked out. */
async function stepTimes(renderer: Renderer, shot: Shot, frame: number): Promise<Map<string, number>> {
  const spent = new Map<string, number>();
  const names = new Map<unknown, string>();
  const timed = new Map(
    [...STEPS].map(([type, d]): [string, StepDefinition] => [
      type,
      {
        ...d,
        render(ctx, p, out) {
          const started = performance.now();
          d.render(ctx, p, out);
          const name = names.get(p)!;
          spent.set(name, (spent.get(name) ?? 0) + performance.now() - started);
        },
      },
    ]),
  );
  const request = { frame, scale: 1, channels: RGBA };
  const started = performance.now();
  await worked(renderer, makePlan(shot, { ...request, tap: { lane: shot.result!, after: '' } }, STEPS));
  spent.set('the plate, decoded', performance.now() - started);
  const plan = makePlan(shot, { ...request, tap: { lane: shot.result! } }, timed);
  for (const node of plan.nodes) if (node.kind === 'step') names.set(node.p, `${node.lane.name} ▸ ${node.step.name}`);
  await worked(renderer, plan);
  return spent;
}

async function worked(renderer: Renderer, plan: Plan): Promise<void> {
  const { planes } = await renderer.tile(plan);
  Object.values(planes).forEach((p) => renderer.kernels.give(p));
}
