import { MediaError, ShotError } from '@/core/errors';
import { PLANE_MODELS, boxAround } from '@/core/geometry';
import type { Pictures } from '@/core/readings';
import { POINT_MODELS, READING_CHANNELS, measurePlane, measurePoint, newPlane, newPoint } from '@/core/readings';
import { nodeKernels } from '@/engine/node';
import { UsageError, only, parseArguments, parseFrames, userPath } from './arguments';
import { wholeOption } from './output';
import { readCamera } from './camera';
import { readLens } from './read-lens';
import { channelOf, decoded, matteOf, numbers, oneOf, openSequence } from './read-pictures';

const COMMON = ['frames', 'frame', 'channel', 'model', 'json'];

/** Takes readings of a sequence and prints them. */
export async function read(args: string[]): Promise<void> {
  const [kind, ...rest] = args;
  if (kind === 'lens') return readLens(rest);
  if (kind === 'camera') return readCamera(rest);
  if (kind !== 'point' && kind !== 'plane') throw new UsageError('read takes point, plane, lens or camera, and a sequence');
  const { words, options } = parseArguments(rest, ['json']);
  only(options, [...COMMON, ...(kind === 'point' ? ['at', 'pattern', 'search', 'renew'] : ['region', 'matte'])]);
  const [pattern] = words;
  if (!pattern || words.length !== 1) throw new UsageError(`read ${kind} takes one sequence, named by its ####`);
  const sequence = await openSequence(pattern);
  const all = [...sequence.keys()];
  const range = options.has('frames') ? parseFrames(options.get('frames')!) : { first: Math.min(...all), last: Math.max(...all) };
  const reference = wholeOption(options, 'frame', range.first);
  if (reference < range.first || reference > range.last) {
    throw new UsageError(`--frame ${reference} lies outside of frames ${range.first}-${range.last}`);
  }
  for (let f = range.first; f <= range.last; f++) {
    if (!sequence.has(f)) throw new MediaError(userPath(pattern), `frame ${f} is missing`);
  }
  const channel = oneOf(options, 'channel', READING_CHANNELS, 'luma');
  const pictures: Pictures = { frame: async (f) => channelOf(await decoded(sequence.get(f)!), channel) };
  const matte = options.get('matte');
  if (matte !== undefined) {
    const mattes = await openSequence(matte);
    pictures.matte = (f) => matteOf(mattes, f, matte);
  }
  const about = { reference, range, channel };
  const { width, height } = await pictures.frame(reference);
  const asked = kind === 'point' ? numbers(options, 'at', 2) : numbers(options, 'region');
  if (asked && !touches(asked, width, height)) {
    throw new ShotError(
      `--${kind === 'point' ? 'at' : 'region'} lies outside of ${userPath(pattern)}, whose frames are ${width}×${height} pixels`,
    );
  }
  const measured =
    kind === 'point'
      ? await measurePoint(await nodeKernels(), pointOf(options, about), pictures)
      : await measurePlane(await nodeKernels(), planeOf(options, about), pictures);
  const frames = measured.map((f) => ({ ...f, flag: f.flag ?? null, used: undefined, rejected: undefined }));
  if (options.has('json')) process.stdout.write(`${JSON.stringify({ frames })}\n`);
  else for (const f of frames) process.stdout.write(`${Object.values(f).map(text).join('  ').trimEnd()}\n`);
}

const text = (v: unknown): string =>
  typeof v === 'number' ? String(Number(v.toFixed(4))) : Array.isArray(v) ? v.map(text).join(' ') : String(v ?? '');

/** Whether the box around some positions has something of a picture in it. */
function touches(list: readonly number[], width: number, height: number): boolean {
  const { x0, y0, x1, y1 } = boxAround([list]);
  return x0 < width && y0 < height && x1 >= 0 && y1 >= 0;
}

type About = Parameters<typeof newPoint>[1];

function pointOf(options: ReadonlyMap<string, string>, about: About): ReturnType<typeof newPoint> {
  const at = numbers(options, 'at', 2);
  if (!at) throw new UsageError('read point needs --at X,Y');
  const made = newPoint([at[0]!, at[1]!], about);
  const box = (name: string): readonly [number, number, number, number] | undefined => {
    const size = numbers(options, name, 2);
    if (!size) return undefined;
    const [w, h] = size as [number, number];
    if (w < 3 || h < 3 || w > 2000 || h > 2000) throw new UsageError(`--${name} is from 3,3 to 2000,2000 pixels`);
    return [-Math.floor(w / 2), -Math.floor(h / 2), Math.ceil(w / 2), Math.ceil(h / 2)];
  };
  const settings = {
    ...made.settings,
    pattern: box('pattern') ?? made.settings.pattern,
    search: box('search') ?? made.settings.search,
    model: oneOf(options, 'model', POINT_MODELS, 'shift'),
    renew: oneOf(options, 'renew', ['never', 'every', 'guarded'] as const, 'guarded'),
  };
  return { ...made, settings };
}

function planeOf(options: ReadonlyMap<string, string>, about: About): ReturnType<typeof newPlane> {
  const region = numbers(options, 'region');
  if (!region && !options.has('matte')) throw new UsageError('read plane needs --region x1,y1,x2,y2,... or --matte');
  if (region && (region.length < 6 || region.length % 2))
    throw new UsageError('--region takes three corners or more, as x1,y1,x2,y2,x3,y3');
  const made = newPlane(region ? [region] : [], about);
  return { ...made, settings: { ...made.settings, model: oneOf(options, 'model', PLANE_MODELS, 'perspective') } };
}
