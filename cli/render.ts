import { mkdir, writeFile } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import type { Shot } from '@/core/document/types';
import { MediaError, ShotError } from '@/core/errors';
import { DEFAULT_OUTPUT } from '@/core/formats/output';
import { openBundleFile } from '@/engine/node/bundle';
import { nodeHost, openShotFile } from '@/engine/node/host';
import { frameName, patternExpression } from '@/engine/sequences';
import { UsageError, only, parseArguments, parseFrames, userPath } from './arguments';

/** Renders frames of a lane (the result unless named) to a numbered sequence. */
export async function render(args: string[]): Promise<void> {
  const { words, options } = parseArguments(args, []);
  only(options, ['lane', 'frames', 'scale', 'out', 'bits']);
  const [file] = words;
  const out = options.get('out');
  if (!file || words.length !== 1) throw new UsageError('render takes one shot file or bundle');
  if (!out) throw new UsageError('render needs --out');
  const scale = Number(options.get('scale') ?? 1);
  if (![1, 0.5, 0.25].includes(scale)) throw new UsageError('--scale is 1, 0.5 or 0.25');
  const container = extname(out).slice(1).toLowerCase();
  if (container !== 'exr' && container !== 'png') throw new UsageError(`--out must end in .exr or .png, not "${extname(out)}"`);
  const bits = Number(options.get('bits') ?? 8);
  if (bits !== 8 && bits !== 16) throw new UsageError('--bits is 8 or 16');

  const path = userPath(file);
  const { shot, files } = await (path.endsWith('.ostracon') ? openBundleFile(path) : openShotFile(path));
  const lane = laneNamed(shot, options.get('lane'));
  const range = options.has('frames') ? parseFrames(options.get('frames')!) : shot.range;
  if (range.last > range.first && !patternExpression(basename(out))) {
    throw new UsageError('--out needs #### in its name when more than one frame is rendered');
  }
  const host = await nodeHost(files);
  await mkdir(userPath(dirname(out)), { recursive: true });
  const settings = { ...DEFAULT_OUTPUT, container, bits } as const;
  for (let frame = range.first; frame <= range.last; frame++) {
    const bytes = await host.encode(shot, lane, frame, scale, settings);
    const to = join(userPath(dirname(out)), frameName(basename(out), frame));
    await writeFile(to, bytes).catch((e: Error) => {
      throw new MediaError(to, `it cannot be written (${e.message})`);
    });
    process.stdout.write(`${to}\n`);
  }
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
