import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { produce } from 'immer';
import type { Shot } from '@/core/document';
import { lookOf } from '@/core/learn';
import type { LessonReading } from '@/core/readings';
import { RGBA } from '@/core/picture';
import { DRAWN } from '@/demo/sg010';
import { lessonInput, shownOf } from '@/engine';
import { nodeHost, openShotFile, trainInNode } from '@/engine/node';
import { addExample, addLesson, applyLesson, finishMatte } from '@/core/commands';
import type { Written } from './demo-parts';
import { film, lane, step } from './demo-parts';

type Write = (name: string, shot: object) => string;
const STEPS = 6000;

/** A keeper in a coat of the screen's own hue: four frames are drawn, the others learnt, the hair keyed. */
export async function coat(write: Write): Promise<void> {
  const start: Written = {
    ...film('sg010-coat', 'SG010 green coat'),
    sources: [
      { id: 'src-coat', name: 'green coat plate', path: '../media/sg010-coat/coat.####.jpg', colourSpace: 'Rec.709' },
      {
        id: 'src-drawn',
        name: 'drawn mattes',
        path: '../media/sg010-coat/coat-matte.####.png',
        colourSpace: 'linear',
        alpha: 'luma',
        missing: 'black',
      } as never,
      { id: 'src-harbour', name: 'night harbour', path: '../media/sg010/harbour.png', colourSpace: 'sRGB' },
    ],
    lanes: [
      lane('coat', 'coat', { source: 'src-coat' }, []),
      lane('drawn', 'drawn mattes', { source: 'src-drawn' }, []),
      lane('harbour', 'harbour', { source: 'src-harbour' }, [
        step('harbour-blur', 'blur', 'Out of focus', { params: { size: 2.5 } }),
        step('harbour-over', 'join', 'Keeper in front', { params: { operator: 'over' }, feeds: { front: { lane: 'coat' } } }),
      ]),
    ],
    result: 'harbour',
    range: { first: 1, last: 48 },
  };
  const made: { reading?: string; step?: string } = {};
  const went = keptOf('sg010-coat');
  const opened = await openShotFile(write('sg010-coat', start));
  let shot: Shot = produce(opened.shot, (s) => {
    addLesson({ lane: 'coat', after: '' }, 18, 'matte', made)(s);
    for (const frame of DRAWN) addExample(made.reading!, frame, { lane: 'drawn' })(s);
    s.readings.find((r) => r.id === made.reading)!.name = 'Coat';
  });
  const learnt = went ?? (await taught(shot, opened.files, FILE, STEPS));
  const screen = [0.047, 0.256, 0.075] as const;
  shot = produce(shot, (s) => {
    const r = s.readings[0] as LessonReading;
    Object.assign(r, asLearnt(FILE, learnt));
    applyLesson(r.id, made)(s);
    finishMatte(made.step!, screen)(s);
  });
  // Ids by name, so that the file is the same each time.
  const ids = new Map<string, string>([[made.reading!, 'coat-lesson']]);
  const short = (s: string): string => s.toLowerCase().replace(/[^a-z0-9]+/g, '-');
  for (const l of shot.lanes) {
    ids.set(l.id, short(l.name));
    for (const s of l.steps) ids.set(s.id, `${short(l.name)}-${short(s.name)}`);
  }
  const text = JSON.stringify({ ...shot, sources: start.sources }, (_, v: unknown) => (typeof v === 'string' ? (ids.get(v) ?? v) : v));
  write('sg010-coat', JSON.parse(text) as object);
}

const FILE = 'sg010-coat/coat.lesson';
const inRoot = (path: string): string => join(process.env.OSTRACON_ROOT ?? '.', path);
export type Went = Pick<LessonReading, 'steps' | 'seconds' | 'losses'>;

/** With `keep`, what was learnt before stays: only what is done with it is made again. */
export function keptOf(name: string): Went | null {
  if (process.argv[3] !== 'keep') return null;
  const shot = JSON.parse(readFileSync(inRoot(`demo/shots/${name}.json`), 'utf8')) as Shot;
  const { steps, seconds, losses } = shot.readings.find((r) => r.kind === 'lesson') as LessonReading;
  return { steps, seconds, losses };
}

/** What a shot file says of a lesson that lies among the demo's media. */
export const asLearnt = (file: string, went: Went): Partial<LessonReading> => ({
  ...went,
  weights: { hash: '0'.repeat(64), name: file.split('/').at(-1)!, path: `../media/${file}` },
});

/** Trains the only lesson of a shot and writes what it has learnt, as far as it is needed to be applied. */
export async function taught(shot: Shot, files: Map<string, string>, file: string, most: number): Promise<Went> {
  const host = await nodeHost(files);
  const lesson = shot.readings.find((r) => r.kind === 'lesson') as LessonReading;
  const { input } = await lessonInput(lesson, async (tap, frame) =>
    shownOf(await host.render(shot, { tap, frame, scale: 1, channels: RGBA })),
  );
  let told = 0;
  const { session, stop } = await trainInNode(
    { ...input, look: lookOf(input.examples, lesson.teaches), seed: 1 },
    (r) => r.step >= most,
    (r) => {
      if (r.step - told < 500) return;
      told = r.step;
      process.stdout.write(`step ${r.step}, loss ${r.loss.toPrecision(3)}\n`);
    },
  );
  const { step: steps, losses, seconds } = session.report();
  writeFileSync(inRoot(`demo/media/${file}`), session.file(lesson.name, true));
  await stop();
  return { steps, seconds: Math.round(seconds), losses };
}
