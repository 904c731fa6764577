import { mkdir } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, dirname, extname, join } from 'node:path';
import type { Shot } from '@/core/document';
import { ShotError } from '@/core/errors';
import type { OutputSettings } from '@/core/formats';
import type { OpenShot } from '@/engine/node';
import { FramePool, nodeHost, openBundleFile, openShotFile } from '@/engine/node';
import type { Sink } from '@/engine';
import { exportRange, patternExpression } from '@/engine';
import { UsageError, only, parseArguments, parseFrames, userPath, within } from './arguments';
import { whenLeft } from './leaving';
import { OUTPUT_FLAGS, OUTPUT_OPTIONS, outputSettings, wholeOption } from './output';
import { writeWhole } from './write-file';

/** Renders frames of a lane (the result unless named) to a numbered sequence. */
export async function render(args: string[]): Promise<void> {
  const { words, options } = parseArguments(args, [...OUTPUT_FLAGS, 'beyond']);
  only(options, [...OUTPUT_OPTIONS, 'beyond', 'lane', 'frames', 'scale', 'out', 'workers']);
  const [file] = words;
  const out = options.get('out');
  if (!file || words.length !== 1) throw new UsageError('render takes one shot file or bundle');
  if (!out) throw new UsageError('render needs --out');
  const scale = Number(options.get('scale') ?? 1);
  if (![1, 0.5, 0.25].includes(scale)) throw new UsageError('--scale is 1, 0.5 or 0.25');
  const settings = outputSettings(out, options);

  const path = userPath(file);
  const opened = await (path.endsWith('.ostracon') ? openBundleFile(path) : openShotFile(path));
  const forget = whenLeft(() => opened.closeNow());
  try {
    await renderShot(opened, options, out, scale, settings);
  } finally {
    forget();
    opened.closeNow();
  }
}

async function renderShot(
  { shot, files }: OpenShot,
  options: ReadonlyMap<string, string>,
  out: string,
  scale: number,
  settings: OutputSettings,
): Promise<void> {
  const lane = laneNamed(shot, options.get('lane'));
  const range = options.has('frames') ? parseFrames(options.get('frames')!) : shot.range;
  within(range, shot.range, options);
  if (range.last > range.first && !patternExpression(basename(out))) {
    throw new UsageError('--out needs #### in its name when more than one frame is rendered');
  }
  const frames = range.last - range.first + 1;
  const workers = Math.min(frames, workersOf(options));
  const folder = userPath(dirname(out));
  await mkdir(folder, { recursive: true });
  const sink: Sink = {
    write: async (name, bytes) => {
      const to = join(folder, name);
      await writeWhole(to, bytes);
      process.stdout.write(`${to}\n`);
    },
  };
  const job = { lane, ...range, scale, name: basename(out, extname(out)), settings };
  const pool = workers > 1 ? new FramePool(new URL(import.meta.url), workers, files) : null;
  try {
    await exportRange(pool ?? (await nodeHost(files)), shot, job, sink, 2 * workers, () => undefined, new AbortController().signal);
  } finally {
    await pool?.close();
  }
}

/** One worker a core unless said. */
function workersOf(options: ReadonlyMap<string, string>): number {
  const count = wholeOption(options, 'workers', availableParallelism());
  if (count < 1 || count > 64) throw new UsageError('--workers is a whole number from 1 to 64');
  return count;
}

function laneNamed(shot: Shot, name: string | undefined): string {
  if (name === undefined) {
    if (shot.result === null) throw new ShotError('the shot has no result lane; name one with --lane');
    return shot.result;
  }
  const lane = shot.lanes.find((l) => l.name === name || l.id === name);
  if (!lane) throw new ShotError(`there is no lane "${name}"; there are ${shot.lanes.map((l) => `"${l.name}"`).join(', ')}`);
  return lane.id;
}
