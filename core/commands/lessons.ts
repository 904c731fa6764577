import type { Draft } from 'immer';
import type { Lane, Shot, Step, Tap, Value } from '../document';
import { ShotError } from '../errors';
import type { LearntSoFar, LessonExample, LessonFrame, LessonParts, LessonSnapshot, Teaches, Variation } from '../learn';
import { newLesson, variationFor } from '../learn';
import type { LessonReading } from '../readings';
import type { Change } from './change';
import { readingOf } from './change';
import { addStep, changeStep, setFeed, setMask, setParams } from './commands';
import { newId, newLane } from './make';
import { aboutReading } from './readings';

export const lessonOf = (s: Draft<Shot>, id: string): Draft<LessonReading> => {
  const r = readingOf(s, id);
  if (r.kind !== 'lesson') throw new ShotError('that reading is no lesson');
  return r;
};

/** A lesson on what a point shows. */
export const addLesson =
  (tap: Tap, frame: number, teaches: Teaches, made: { reading?: string } = {}): Change =>
  (s) => {
    const reading: LessonReading = { ...aboutReading(s, tap, frame, 'Lesson 1'), ...newLesson(teaches), kind: 'lesson', channel: 'luma' };
    made.reading = reading.id;
    s.readings.push(reading as Draft<LessonReading>);
  };

/** What was learnt is of something that is no longer so. */
const outdate = (r: Draft<LessonReading>): void => {
  if (r.weights) r.stale = true;
};

const forget = (r: Draft<LessonReading>): void => {
  Object.assign(r, { weights: null, steps: 0, seconds: 0, losses: [], frames: [] } satisfies Partial<LessonParts>);
  delete r.stale;
};

/** Another kind of lesson has other weights: what was learnt goes. */
export const setTeaches =
  (id: string, teaches: Teaches): Change =>
  (s) => {
    const r = lessonOf(s, id);
    if (r.teaches === teaches) return;
    r.teaches = teaches;
    r.settings.variation = variationFor(teaches);
    r.snapshots = [];
    forget(r);
  };

export const changeLesson =
  (id: string, change: { seed?: number; minutes?: number; variation?: Partial<Variation>; passers?: readonly Tap[] }): Change =>
  (s) => {
    const r = lessonOf(s, id);
    const { variation, passers, ...settings } = change;
    Object.assign(r.settings, settings);
    if (variation) Object.assign(r.settings.variation, variation);
    if (passers) {
      r.passers = passers as Draft<Tap[]>;
      outdate(r);
    }
  };

/** Looks at another point of a lane. */
export const lookAt =
  (id: string, from: Tap): Change =>
  (s) => {
    const r = lessonOf(s, id);
    r.from = { ...from };
    outdate(r);
  };

/** Shows a lesson another frame. Throws ShotError where it is shown already. */
export const addExample =
  (id: string, frame: number, target: Tap): Change =>
  (s) => {
    const r = lessonOf(s, id);
    if (r.examples.some((e) => e.frame === frame))
      throw new ShotError(`frame ${frame} is shown already: two targets of one frame would contradict each other. Change the one it has`);
    r.examples.push({ frame, target: { ...target }, held: false } as Draft<LessonExample>);
    r.examples.sort((a, b) => a.frame - b.frame);
    outdate(r);
  };

export const changeExample =
  (id: string, frame: number, change: Partial<Pick<LessonExample, 'target' | 'held'>> | null): Change =>
  (s) => {
    const r = lessonOf(s, id);
    const index = r.examples.findIndex((e) => e.frame === frame);
    if (index < 0) throw new ShotError('that frame is no longer shown');
    if (change) Object.assign(r.examples[index]!, change);
    else r.examples.splice(index, 1);
    outdate(r);
  };

/** What a training came to. */
export const setLearnt =
  (id: string, learnt: LearntSoFar): Change =>
  (s) => {
    const r = lessonOf(s, id);
    Object.assign(r, learnt, { frames: [] });
    delete r.stale;
  };

export const forgetLearnt =
  (id: string): Change =>
  (s) =>
    forget(lessonOf(s, id));

/** Keeps what is learnt now, to come back to. */
export const keepSnapshot =
  (id: string): Change =>
  (s) => {
    const r = lessonOf(s, id);
    if (!r.weights) throw new ShotError('nothing is learnt yet: train it first');
    if (r.snapshots.some((x) => x.file.hash === r.weights!.hash)) throw new ShotError('this state is kept already');
    const [, loss, held] = r.losses.at(-1) ?? [0, 0, -1];
    r.snapshots.push({ id: newId(), steps: r.steps, loss: held >= 0 ? held : loss, file: { ...r.weights } } as Draft<LessonSnapshot>);
  };

export const backToSnapshot =
  (id: string, snapshot: string): Change =>
  (s) => {
    const r = lessonOf(s, id);
    const kept = r.snapshots.find((x) => x.id === snapshot);
    if (!kept) throw new ShotError('that state is no longer kept');
    Object.assign(r, { weights: { ...kept.file }, steps: kept.steps, losses: r.losses.filter(([step]) => step <= kept.steps), frames: [] });
  };

export const removeSnapshot =
  (id: string, snapshot: string): Change =>
  (s) => {
    const r = lessonOf(s, id);
    r.snapshots = r.snapshots.filter((x) => x.id !== snapshot);
  };

export const setSureness =
  (id: string, frames: readonly LessonFrame[]): Change =>
  (s) => {
    lessonOf(s, id).frames = frames as Draft<LessonFrame[]>;
  };

/** Puts what was learnt into the lane that it is taught in, right after the point that is looked at. */
export const applyLesson =
  (id: string, made: { step?: string } = {}): Change =>
  (s) => {
    const r = lessonOf(s, id);
    addStep(r.from.lane, 'learn', r.from.after ?? '', made, false)(s);
    setParams(made.step!, { lesson: id }, r.reference)(s);
  };

/** The lesson that a step applies, and whether it is a matte. */
export const lessonOfStep = (shot: Shot, step: Step): LessonReading | undefined =>
  shot.readings.find((r): r is LessonReading => r.kind === 'lesson' && r.id === step.params.lesson);

/**
 * The usual finish after a learnt matte: levels close what is nearly full, clamp, tidy, edge detail in a band, colour under the edge,
 * and where there is a screen, despill and hair from a key that counts near the matte alone.
 */
export const finishMatte =
  (stepId: string, screen: readonly [number, number, number] | null): Change =>
  (s) => {
    const lane = s.lanes.find((l) => l.steps.some((x) => x.id === stepId));
    const learn = lane?.steps.find((x) => x.id === stepId);
    if (!lane || !learn) throw new ShotError('that step is no longer there');
    const index = lane.steps.indexOf(learn);
    const plate: Tap = { lane: lane.id, after: lane.steps[index - 1]?.id ?? '' };
    setParams(stepId, { output: 'matte' }, 1)(s);
    const put = (
      to: string,
      after: string,
      type: string,
      name: string,
      params: Record<string, Value>,
      feeds: Record<string, Tap> = {},
    ): string => {
      const made: { step?: string } = {};
      addStep(to, type, after, made, false)(s);
      const id = made.step!;
      changeStep(id, { name })(s);
      setParams(id, params, 1)(s);
      for (const [feed, tap] of Object.entries(feeds)) setFeed(id, feed, tap)(s);
      return id;
    };
    let last = stepId;
    const add = (type: string, name: string, params: Record<string, Value>, feeds?: Record<string, Tap>): string =>
      (last = put(lane.id, last, type, name, params, feeds));
    add('levels', 'Close what is nearly full', { channels: 'alpha', blackIn: 0.03, whiteIn: 0.95, unpremultiply: false });
    add('clamp', 'Within 0 and 1', { channels: 'alpha', unpremultiply: false });
    const tidy = add('tidyMatte', 'Tidy', { specks: 40, holes: 12, level: 0.1, follow: false });
    let hair: Draft<Lane> | null = null;
    if (screen) {
      const names = s.lanes.map((l) => l.name);
      const near = newLane(`${lane.name} near`, { tap: { lane: lane.id, after: tidy } }, names) as Draft<Lane>;
      hair = newLane(`${lane.name} hair`, { tap: plate }, [...names, near.name]) as Draft<Lane>;
      s.lanes.splice(s.lanes.indexOf(lane) + 1, 0, hair, near);
      const spread = put(near.id, '', 'choke', 'Spread', { radius: 6, follow: false });
      put(near.id, spread, 'softenMatte', 'Soften', { size: 3, follow: false });
      const calm = put(hair.id, '', 'blur', 'Calm the noise', { size: 0.8, channels: 'colour' });
      const key = put(hair.id, calm, 'screenKey', 'Key the hair', {
        screenColour: [...screen],
        balance: 1,
        low: 0.3,
        high: 0.9,
        output: 'matte',
      });
      put(hair.id, key, 'combineMattes', 'Near the matte', { operation: 'intersection', follow: false }, { other: { lane: near.id } });
      add('combineMattes', 'Hair from the key', { operation: 'union', follow: false }, { other: { lane: hair.id } });
    }
    // Colour multiplied by its matte is what the steps after this work on, and what joins lay over others.
    add('premultiply', 'Premultiply', {});
    add('edgeDetail', 'Edge detail', { method: 'guided', band: 3, radius: 3, noise: 0.02 }, { plate });
    if (screen && hair) {
      // What the key cannot tell from the screen may be cloth of its hue: that keeps its colour.
      const despill = add('despill', 'Despill', { screenColour: [...screen], share: 0.6 });
      setMask(despill, { lane: hair.id, channel: 'A', invert: false })(s);
    }
    add('extendColour', 'Extend colour', { distance: 2, keep: 1 });
  };
