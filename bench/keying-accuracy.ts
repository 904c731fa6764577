import { writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Shot } from '@/core/document/types';
import { RGBA } from '@/core/picture';
import type { PlateOptions } from '@/demo/sg010';
import { SG010 } from '@/demo/sg010';
import { nodeHost, openShotFile } from '@/engine/node/host';
import type { KeyFigures, KeyTruth, Renderer } from './keying';
import { bareKey, keyFigures, meanFigures, oneCommand, plateOnly, truthOf, writeUnseen } from './keying';

const root = process.env.OSTRACON_ROOT ?? '.';
const every = (first: number, last: number, step = 1): number[] =>
  Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, i) => first + i * step);

interface Row {
  name: string;
  figures: KeyFigures;
}

async function figuresOf(
  host: Renderer,
  shot: Shot,
  tap: { lane: string; after?: string },
  truths: readonly KeyTruth[],
): Promise<KeyFigures> {
  const list: KeyFigures[] = [];
  for (const t of truths) list.push(keyFigures((await host.render(shot, { tap, frame: t.frame, scale: 1, channels: RGBA })).pixels, t));
  return meanFigures(list);
}

/** All rows of one plate: what the one command makes, after each of its steps, and the bare key with its best constants. */
async function plateRows(
  host: Renderer,
  plate: Shot,
  truths: readonly KeyTruth[],
  finished?: { shot: Shot; after: string },
): Promise<Row[]> {
  const lane = plate.result!;
  const made = await oneCommand(plate, host, [truths[0]!.frame, truths[truths.length >> 1]!.frame, truths[truths.length - 1]!.frame]);
  const steps = made.lanes.find((l) => l.id === lane)!.steps;
  const rows: Row[] = [{ name: '**Key a screen**, as made', figures: await figuresOf(host, made, { lane }, truths) }];
  for (const s of steps.slice(0, -1)) {
    rows.push({ name: `… up to ${s.name}`, figures: await figuresOf(host, made, { lane, after: s.id }, truths) });
  }
  if (finished)
    rows.push({ name: "the demo shot's own key", figures: await figuresOf(host, finished.shot, { lane, after: finished.after }, truths) });
  const colour = steps[0]!.params.screenColour as number[];
  rows.push({ name: 'bare key, thresholds 0 and 1', figures: await figuresOf(host, bareKey(plate, colour, 0, 1), { lane }, truths) });
  let best = { mse: Infinity, low: 0, high: 1 };
  const middle = [truths[truths.length >> 1]!];
  for (const low of [0, 0.05, 0.1, 0.15, 0.2, 0.3, 0.4, 0.5]) {
    for (const high of [0.6, 0.7, 0.8, 0.9, 1]) {
      const { mse } = (await figuresOf(host, bareKey(plate, colour, low, high), { lane }, middle)).whole;
      if (mse < best.mse) best = { mse, low, high };
    }
  }
  rows.push({
    name: `bare key, best constant thresholds (${best.low}, ${best.high})`,
    figures: await figuresOf(host, bareKey(plate, colour, best.low, best.high), { lane }, truths),
  });
  return rows;
}

const n = (v: number): string => v.toPrecision(3);
const percent = (v: number): string => `${(100 * v).toFixed(2)} %`;
const line = (cells: readonly string[]): string => `| ${cells.join(' | ')} |`;

function tables(rows: readonly Row[]): string {
  return [
    line(['matte', 'SAD, whole', 'SAD, band', 'MSE, band', 'gradient, band', 'gradient, whole', 'MSE, hair', 'MSE, cape']),
    line(Array<string>(8).fill('---')),
    ...rows.map(({ name, figures: f }) =>
      line([name, ...[f.whole.sad, f.band.sad, f.band.mse, f.band.gradient, f.whole.gradient, f.hair, f.cape].map(n)]),
    ),
    '',
    line([
      'matte and colour',
      'solid is 1',
      'empty is 0',
      'solid is 1, away from the band',
      'empty is 0, away',
      'ΔE2000 over black',
      'over white',
    ]),
    line(Array<string>(7).fill('---')),
    ...rows.map(({ name, figures: f }) =>
      line([name, percent(f.solid), percent(f.empty), percent(f.solidAway), percent(f.emptyAway), n(f.overBlack), n(f.overWhite)]),
    ),
  ].join('\n');
}

const truthsOf = (frames: readonly number[], o: PlateOptions): KeyTruth[] =>
  frames.map((f) => {
    process.stdout.write(`truth of frame ${f}\n`);
    return truthOf(f, o);
  });

/** Keys, on every `step`th frame. */
export async function keyingAccuracy(step: number): Promise<string> {
  const { shot, files } = await openShotFile(join(root, 'demo/shots/sg010.json'));
  const frames = every(1, 48, step);
  const keeper = await plateRows(await nodeHost(files), plateOnly(shot, 'keeper'), truthsOf(frames, SG010), { shot, after: 'keeper-key' });

  // Another seed, a blue screen in another light; nothing was chosen by it.
  const UNSEEN: PlateOptions = { ...SG010, seed: 4711, screen: [0.05, 0.1, 0.34], noise: 0.022 };
  const unseenFrames = every(1, 48, 8 * step);
  const unseenTruths = truthsOf(
    every(1, unseenFrames.length).map((_, i) => unseenFrames[i]!),
    UNSEEN,
  );
  const pattern = await writeUnseen('blue', unseenTruths);
  const blueShot = {
    ...JSON.parse(JSON.stringify({ ...plateOnly(shot, 'keeper'), id: 'unseen', name: 'unseen' })),
    sources: [{ id: 'src-keeper', name: 'plate', path: 'plate.####.jpg', colourSpace: 'Rec.709' }],
  };
  const blueFile = join(dirname(pattern), 'shot.json');
  writeFileSync(blueFile, JSON.stringify(blueShot));
  const opened = await openShotFile(blueFile);
  const blue = await plateRows(await nodeHost(opened.files), opened.shot, unseenTruths);
  return `SAD in thousands of pixels, MSE per pixel, gradient error in thousands (derivatives of a Gaussian, σ 1.4). The band is every pixel of partial true
coverage grown by 3 px. The stand and the tape are not part of the true matte, so a key that keeps them is charged for them. "Hair" are partial
pixels that hair covers, "cape" the other partial ones that the cape covers. ΔE2000 is the mean over the band of the element laid over black and over white,
against the true colour and coverage without spill.

### SG010 keeper, ${frames.length} frames

${tables(keeper)}

### A blue plate that nothing was tuned on, ${unseenFrames.length} frames

${tables(blue)}`;
}
