import type { Draft } from 'immer';
import type { Part } from '../params';
import { partKey } from '../params';
import type { Lane, Param, Shot, Step, Tap } from '../document';
import { fitName } from '../document';
import { ShotError } from '../errors';
import type { Change } from './change';
import { laneOf, stepOf } from './change';
import { freeName, newId, newLane, newStep } from './make';
import { cameraOf } from './space';

export type ThingKind = 'card' | 'ball' | 'box' | 'model' | 'points' | 'light' | 'catcher' | 'holder';

/** Kinds with the names that new ones are given, and what such a one begins with. */
export const THING_KINDS: Readonly<Record<ThingKind, { title: string; begins: Readonly<Record<string, Param>> }>> = {
  card: { title: 'Card', begins: { casts: false, facing: true } },
  model: { title: 'Model', begins: {} },
  catcher: { title: 'Shadow catcher', begins: {} },
  light: { title: 'Light', begins: { at: [4, 6, 3] } },
  points: { title: 'Points', begins: {} },
  box: { title: 'Box', begins: { at: [0, 0.5, 0] } },
  ball: { title: 'Ball', begins: { at: [0, 0.5, 0], inside: false } },
  holder: { title: 'Holder', begins: {} },
};

export interface ThingOptions {
  readonly name?: string;
  /** Parameters besides those that it begins with. */
  readonly params?: Readonly<Record<string, Param>>;
  /** The lane that it shows. */
  readonly picture?: Tap;
}

const thingsOf = (step: Draft<Step>): Part[] => {
  const list = step.params.things as unknown;
  return Array.isArray(list) ? [...(list as Part[])] : [];
};

function sceneOf(s: Draft<Shot>, id: string): Draft<Step> {
  const { step } = stepOf(s, id);
  if (step.type !== 'scene') throw new ShotError('things are put into a scene step');
  return step;
}

/** Puts a thing into a scene; `made` is told its id. */
export const addThing =
  (stepId: string, what: ThingKind, options: ThingOptions = {}, made: { thing?: string } = {}): Change =>
  (s) => {
    const step = sceneOf(s, stepId);
    const had = thingsOf(step);
    const id = newId().replace(/[^\w]/g, '').slice(0, 8) || 'thing';
    const { title, begins } = THING_KINDS[what];
    const name = freeName(
      fitName(options.name ?? title),
      had.map((p) => p.name),
    );
    step.params.things = [...had, { id, name }] as unknown as Draft<Param>;
    for (const [key, value] of Object.entries({ what, ...begins, ...options.params }))
      step.params[partKey(id, key)] = value as Draft<Param>;
    if (options.picture) step.feeds[partKey(id, 'picture')] = options.picture;
    made.thing = id;
  };

export const renameThing =
  (stepId: string, thing: string, name: string): Change =>
  (s) => {
    const step = sceneOf(s, stepId);
    step.params.things = thingsOf(step).map((t) => (t.id === thing ? { ...t, name: fitName(name) } : t)) as unknown as Draft<Param>;
  };

/**
 * A lane for things in the shot that a camera was found in, joined over the picture right after the point that the camera was measured in: on straight pixels where that is straight, so that a
 * lens after it bends them too. `made` is told the lane and the scene step.
 */
export const putThingsIn =
  (cameraId: string, made: { lane?: string; step?: string } = {}): Change =>
  (s) => {
    const camera = cameraOf(s, cameraId);
    if (!camera.solved) throw new ShotError('the camera is not solved yet: things have no place before it is');
    const below = laneOf(s, camera.from.lane);
    const lane = newLane(
      'things',
      { empty: true },
      s.lanes.map((l) => l.name),
    ) as Draft<Lane>;
    const step = newStep('scene', []) as Draft<Step>;
    step.params.camera = cameraId;
    lane.steps.push(step);
    const over = newStep(
      'join',
      below.steps.map((x) => x.name),
    ) as Draft<Step>;
    over.name = freeName(
      'things over',
      below.steps.map((x) => x.name),
    );
    over.feeds.front = { lane: lane.id };
    const { after } = camera.from;
    const at = after === undefined ? below.steps.length : after === '' ? 0 : below.steps.findIndex((x) => x.id === after) + 1;
    below.steps.splice(at, 0, over);
    s.lanes.splice(s.lanes.indexOf(below), 0, lane);
    made.lane = lane.id;
    made.step = step.id;
  };
