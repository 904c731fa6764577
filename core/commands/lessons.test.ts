import { produce } from 'immer';
import { parseShot } from '../document/schema';
import { SCHEMA } from '../document/types';
import type { Shot } from '../document/types';
import { filesOfShot } from '../document/media';
import { tapPlaces } from '../document/taps';
import type { LessonReading } from '../readings/types';
import * as lessons from './lessons';
import { clipLane, pasteLanes } from './clipboard';
import { removeReading } from './readings';
import { removeLane } from './structure';
import type { Change } from './change';

const lane = (id: string): Shot['lanes'][number] => ({ id, name: id, start: { empty: true }, steps: [], muted: false, collapsed: false });
const start: Shot = {
  schema: SCHEMA,
  id: 's',
  name: 's',
  format: { width: 64, height: 36, pixelAspect: 1 },
  frameRate: 24,
  range: { first: 1, last: 20 },
  sources: [],
  lanes: [lane('plate'), lane('drawn')],
  result: 'plate',
  readings: [],
  notes: [],
};
const after = (shot: Shot, ...changes: Change[]): Shot => changes.reduce((s, c) => produce(s, c), shot);
const file = (letter: string) => ({ hash: letter.repeat(64), name: `${letter}.lesson` });
const made: { reading?: string; step?: string } = {};
const begun = after(start, lessons.addLesson({ lane: 'plate' }, 5, 'matte', made));
const id = made.reading!;
const lessonOf = (shot: Shot): LessonReading => shot.readings[0] as LessonReading;
const learnt = (letter: string, steps: number) =>
  lessons.setLearnt(id, {
    weights: file(letter),
    steps,
    seconds: 9,
    losses: [
      [40, 0.5, -1],
      [steps, 0.2, -1],
    ],
  });

test('a lesson is shown frames in order, each once, and is saved as it is', () => {
  const shot = after(begun, lessons.addExample(id, 9, { lane: 'drawn' }), lessons.addExample(id, 3, { lane: 'drawn' }));
  expect(lessonOf(shot).examples.map((e) => e.frame)).toEqual([3, 9]);
  expect(() => after(shot, lessons.addExample(id, 9, { lane: 'plate' }))).toThrow(/shown already/);
  const trained = after(shot, learnt('a', 80), lessons.changeExample(id, 3, { held: true }));
  expect(parseShot(JSON.parse(JSON.stringify(trained)))).toEqual(trained);
  expect(lessonOf(trained).stale).toBe(true);
});

test('what it names is known: lanes, and files for bundles and cleaning up', () => {
  const shot = after(begun, lessons.addExample(id, 9, { lane: 'drawn' }), learnt('a', 80), lessons.keepSnapshot(id), learnt('b', 160));
  expect(tapPlaces(shot).map((p) => p.tap.lane)).toContain('drawn');
  expect(filesOfShot(shot).map((f) => f.hash[0])).toEqual(['b', 'a']);
  // A lane that goes takes the frames that it was the target of along.
  expect(lessonOf(after(shot, removeLane('drawn'))).examples).toEqual([]);
});

test('states are kept, come back to, and never twice', () => {
  const shot = after(begun, learnt('a', 80), lessons.keepSnapshot(id), learnt('b', 160));
  expect(() => after(after(begun, learnt('a', 80), lessons.keepSnapshot(id)), lessons.keepSnapshot(id))).toThrow(/kept already/);
  expect(() => after(begun, lessons.keepSnapshot(id))).toThrow(/nothing is learnt/);
  const back = after(shot, lessons.backToSnapshot(id, lessonOf(shot).snapshots[0]!.id));
  expect(lessonOf(back)).toMatchObject({ steps: 80, weights: file('a') });
});

test('another kind of lesson forgets what was learnt', () => {
  const shot = after(begun, learnt('a', 80), lessons.keepSnapshot(id), lessons.setTeaches(id, 'change'));
  expect(lessonOf(shot)).toMatchObject({ weights: null, steps: 0, snapshots: [], teaches: 'change' });
  expect(lessonOf(shot).settings.variation.occluders).toBeGreaterThan(0);
});

test('applied it stands right after the point that it looks at, and then cannot be deleted', () => {
  const shot = after(begun, learnt('a', 80), lessons.applyLesson(id, made));
  expect(shot.lanes[0]!.steps.map((s) => [s.type, s.params.lesson])).toEqual([['learn', id]]);
  expect(() => after(shot, removeReading(id))).toThrow(/uses this reading/);
  const finished = after(shot, lessons.finishMatte(made.step!, [0.05, 0.25, 0.07]));
  expect(finished.lanes.find((l) => l.id === 'plate')!.steps.map((s) => s.type)).toEqual([
    'learn',
    'levels',
    'clamp',
    'tidyMatte',
    'combineMattes',
    'premultiply',
    'edgeDetail',
    'despill',
    'extendColour',
  ]);
  expect(finished.lanes).toHaveLength(4);
  expect(() => parseShot(JSON.parse(JSON.stringify(finished)))).not.toThrow();
  const bare = after(shot, lessons.finishMatte(made.step!, null));
  expect(bare.lanes).toHaveLength(2);
});

test('pasted into another shot it keeps what it has learnt, and shows nothing that is not there', () => {
  const shot = after(begun, lessons.addExample(id, 9, { lane: 'drawn' }), learnt('a', 80), lessons.applyLesson(id, made));
  const other: Shot = { ...start, id: 'other', lanes: [], result: null };
  const alone = lessonOf(after(other, pasteLanes(clipLane(shot, 'plate'))));
  expect(alone).toMatchObject({ weights: file('a'), examples: [] });
  const both = after(other, pasteLanes({ ...clipLane(shot, 'plate'), lanes: shot.lanes }));
  expect(lessonOf(both).examples.map((e) => both.lanes.find((l) => l.id === e.target.lane)?.name)).toEqual(['drawn']);
});
