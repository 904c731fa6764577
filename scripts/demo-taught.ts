import { join } from 'node:path';
import { produce } from 'immer';
import type { Shot, Tap } from '@/core/document';
import { addExample, addLesson } from '@/core/commands';
import { mapPoint } from '@/core/geometry';
import type { LessonReading } from '@/core/readings';
import { WALL_MARK, wallAt } from '@/demo/sg040';
import { nodeHost, openShotFile } from '@/engine/node';
import { asLearnt, keptOf, taught } from './demo-lesson';
import type { Written } from './demo-parts';
import { lane, step, tenth, withRemoved, written } from './demo-parts';

type Write = (name: string, shot: Written) => string;

interface Teaching {
  /** The new shot's file, its name, and the file of what is learnt. */
  file: string;
  name: string;
  lesson: string;
  learnt: string;
  /** The plate, where it is right, the frames that are shown, and what passes in front. */
  plate: string;
  right: Tap;
  frames: readonly number[];
  passer: string;
  steps: number;
}

const shotFile = (name: string): string => join(process.env.OSTRACON_ROOT ?? '.', 'demo/shots', `${name}.json`);

/** A shot whose plate is mended by what a few of its frames, mended by hand, have taught: on a lane of its own, beside the other. */
async function learntAway(write: Write, shot: Shot, sources: Written['sources'], t: Teaching): Promise<Written> {
  const had = keptOf(t.file);
  const made: { reading?: string } = {};
  const grain = shot.lanes.flatMap((l) => l.steps).find((x) => x.type === 'grain')!;
  const from: Tap = { lane: t.plate, after: '' };
  const begun = produce({ ...shot, id: t.file, name: t.name }, (s) => {
    addLesson(from, t.frames[1]!, 'change', made)(s);
    for (const frame of t.frames) addExample(made.reading!, frame, t.right)(s);
    const lesson = s.readings.find((r) => r.id === made.reading) as LessonReading;
    Object.assign(lesson, { id: `${t.file}-lesson`, name: t.lesson, passers: [{ lane: t.passer }] });
    s.lanes.push(
      lane('taught', 'taught', { tap: from }, [
        step('taught-learn', 'learn', t.lesson, { params: { lesson: lesson.id, acts: true } }),
        // What is learnt is as smooth as the mean of what it was shown: where it acts, it gets the plate's grain.
        step('taught-grain', 'grain', 'Grain of the plate', {
          params: grain.params,
          mask: { lane: 'taught', after: 'taught-learn', channel: 'lesson.acts', invert: false },
        }),
      ]) as never,
    );
    s.result = 'taught';
  });
  const opened = await openShotFile(write(t.file, written(begun, sources)));
  const went = had ?? (await taught(opened.shot, opened.files, t.learnt, t.steps));
  return written(
    produce(begun, (s) => {
      Object.assign(
        s.readings.find((r) => r.kind === 'lesson')!,
        asLearnt(t.learnt, went),
      );
    }),
    sources,
  );
}

/** The step right after a lane's plate that brings a patch in. */
const patchOf = (shot: Shot, of: string): string => shot.lanes.find((l) => l.id === of)!.steps[0]!.id;

/** SG040: the box and the mark are taken out by hand, and learnt away from three of those frames. */
export async function wallTaught(write: Write, sources: Written['sources']): Promise<void> {
  const { shot, files } = await openShotFile(shotFile('sg040'));
  const box = patchOf(shot, 'wall');
  const [x, y] = mapPoint(wallAt(1), WALL_MARK.x, WALL_MARK.y);
  const r = WALL_MARK.r + 8;
  const turn = (i: number): number => (i / 24) * 2 * Math.PI;
  const outline = Array.from({ length: 24 }, (_, i) => [x + r * Math.cos(turn(i)), y + r * Math.sin(turn(i))].map(tenth)).flat();
  const bare = produce(shot, (s) => {
    const wall = s.lanes.find((l) => l.id === 'wall')!;
    delete wall.zones;
    wall.steps = wall.steps.filter((p) => p.id === box);
  });
  const mended = await withRemoved(
    await nodeHost(files),
    bare,
    {
      tap: { lane: 'wall', after: box },
      outlines: [outline],
      frame: 1,
      by: 'patches',
      reading: 'stone',
      front: 'passers',
      name: 'Company mark',
    },
    'mark',
  );
  const right: Tap = { lane: 'wall', after: mended.lanes.find((l) => l.id === 'wall')!.steps.at(-1)!.id };
  const done = await learntAway(write, mended, sources, {
    file: 'sg040-taught',
    name: 'SG040 harbour wall, taught',
    lesson: 'Bare wall',
    learnt: 'lessons/bare-wall.lesson',
    plate: 'wall',
    right,
    frames: [8, 25, 41],
    passer: 'passers',
    steps: 6000,
  });
  write('sg040-taught', done);
}

/** SG020: the panel's marks are learnt away from three frames on which they were taken out, the arm before them or not. */
export async function marksTaught(write: Write, sources: Written['sources']): Promise<void> {
  const { shot } = await openShotFile(shotFile('sg020'));
  const done = await learntAway(write, shot, sources, {
    file: 'sg020-taught',
    name: 'SG020 chart table, marks taught',
    lesson: 'No marks',
    learnt: 'lessons/no-marks.lesson',
    plate: 'table',
    right: { lane: 'table', after: patchOf(shot, 'table') },
    frames: [4, 24, 44],
    passer: 'arm',
    steps: 3000,
  });
  const over = step('taught-over', 'join', 'over', { params: { operator: 'over' }, feeds: { front: { lane: 'tide' } } });
  write(
    'sg020-taught',
    produce(done, (s) => void s.lanes.find((l) => l.id === 'taught')!.steps.push(over as never)),
  );
}
