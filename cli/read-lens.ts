import { MediaError } from '@/core/errors';
import type { ChartFrame, LensSettings } from '@/core/lens';
import { CHART_PATTERNS, LENS_MODEL_NAMES, lensFile, measureChart, patternName, solveReading } from '@/core/lens';
import type { GrayFrame } from '@/core/readings';
import { UsageError, only, parseArguments, userPath } from './arguments';
import { channelOf, decoded, numbers, oneOf, openSequence } from './read-pictures';

/** Solves a lens from charts, several frames or files as several views by one lens, and prints it. */
export async function readLens(args: string[]): Promise<void> {
  const { words, options } = parseArguments(args, ['json']);
  only(options, ['json', 'pattern', 'model', 'mm', 'sensor', 'squeeze']);
  if (words.length === 0) throw new UsageError('read lens takes the pictures of a chart: files, or a sequence by its ####');
  const positive = (name: string, otherwise: number): number => {
    const [v] = numbers(options, name, 1) ?? [otherwise];
    if (!(v! > 0) && options.has(name)) throw new UsageError(`--${name} is greater than 0`);
    return v!;
  };
  const settings: LensSettings = {
    pattern: oneOf(options, 'pattern', ['auto', ...CHART_PATTERNS] as const, 'auto'),
    model: oneOf(options, 'model', ['auto', ...LENS_MODEL_NAMES] as const, 'auto'),
    mm: positive('mm', 0),
    sensor: positive('sensor', 0),
    squeeze: positive('squeeze', 1),
  };
  if (settings.mm > 0 !== settings.sensor > 0)
    throw new UsageError('--mm and --sensor tell the focal length together: give both, or neither');
  const frames: ChartFrame[] = [];
  let size: GrayFrame | null = null;
  for (const word of words) {
    for (const [number, path] of await openSequence(word)) {
      const picture = channelOf(await decoded(path), 'luma');
      if (size && (size.width !== picture.width || size.height !== picture.height)) {
        throw new MediaError(
          userPath(path),
          `it is ${picture.width}×${picture.height} and the others are ${size.width}×${size.height}: one lens at a time`,
        );
      }
      size = picture;
      // Files that are no sequence have no number of their own.
      const frame = frames.some((f) => f.frame === number) ? Math.max(...frames.map((f) => f.frame)) + 1 : number;
      frames.push(measureChart(picture.read(0, 0, picture.width, picture.height), frame, settings));
    }
  }
  const made = solveReading({ frames, lines: [], settings }, { width: size!.width, height: size!.height });
  if (options.has('json')) return void process.stdout.write(`${JSON.stringify(lensFile(made))}\n`);
  const [{ lens, rms, max, assumed }] = made.solved as [(typeof made.solved)[0]];
  const lines = [
    `model ${lens.model}`,
    ...Object.entries(lens.coefficients).map(([k, v]) => `${k} ${v.toPrecision(6)}`),
    `centre ${lens.centre.map((v) => v.toFixed(2)).join(' ')}`,
    `focal ${lens.focal.toFixed(2)} px${assumed ? ' (assumed: flat views do not tell it)' : ''}`,
    `residual ${rms.toFixed(3)} px, at most ${max.toFixed(3)}`,
    ...made.frames.map(
      (f) => `frame ${f.frame}: ${patternName(f.pattern)}, ${f.crossings.filter((c) => c.used).length} of ${f.crossings.length} crossings`,
    ),
  ];
  process.stdout.write(`${lines.join('\n')}\n`);
}
