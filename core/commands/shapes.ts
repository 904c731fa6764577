import type { Draft } from 'immer';
import { current, isDraft } from 'immer';
import type { Shot, Step, Structured, Tap, Zone } from '../document';
import { isKeyed } from '../document';
import { ShotError } from '../errors';
import type { Shape } from '../shape';
import { shapeDefaults, withFollows } from '../shape';
import { STEPS } from '../steps';
import type { Change } from './change';
import { stepOf } from './change';
import { addStep, changeLane, setParam, tapLane } from './commands';
import { freeName, newId } from './make';

/** The parameter of a step or zone that holds its shapes; null where it has none. */
export function shapesParam(step: Pick<Step, 'type'>): string | null {
  const found = Object.entries(STEPS.get(step.type)?.params ?? {}).find(([, d]) => d.kind === 'shapes');
  return found?.[0] ?? null;
}

/** A step's or zone's shapes. */
export const shapesIn = (step: Pick<Step, 'type' | 'params'>): readonly Shape[] => {
  const name = shapesParam(step);
  const value = name === null ? undefined : step.params[name];
  return Array.isArray(value) ? (value as unknown as readonly Shape[]) : [];
};

/** Puts what is made of a step's shapes in their place. */
export const changeShapes =
  (step: string, change: (list: readonly Shape[], shot: Shot) => readonly Shape[]): Change =>
  (s) => {
    const found = stepOf(s, step).step;
    const name = shapesParam(found);
    if (name === null) throw new ShotError(`"${found.name}" has no shapes`);
    const list = shapesIn(isDraft(found) ? current(found) : found);
    setParam(step, name, change(list, s as Shot) as Structured)(s);
  };

/**
 * A lane of what is seen at a point, with a Roto step in which nothing is drawn yet: its matte is for whatever says where by a matte.
 * It stands right below the lane that it is of.
 */
export const shapesLane =
  (on: Tap, name: string, made: { lane?: string; step?: string } = {}): Change =>
  (s) => {
    tapLane(on, made)(s);
    changeLane(made.lane!, { name: `${name} shapes` })(s);
    addStep(made.lane!, 'roto', undefined, made)(s);
  };

/** The picture that a step gets, or a zone's first step: what it is masked by is drawn on that. */
export function inputOf(shot: Shot, id: string): Tap {
  const { step, lane } = stepOf(shot as Draft<Shot>, id);
  const first = 'first' in step ? (step as Zone).first : id;
  const at = lane.steps.findIndex((x) => x.id === first);
  return { lane: lane.id, after: lane.steps[at - 1]?.id ?? '' };
}

/** Changes some shapes of a step; one that becomes null goes. Locked ones are refused. */
export const changeSome =
  (step: string, ids: readonly string[], change: (shape: Shape, shot: Shot) => Shape | null): Change =>
  (s) =>
    changeShapes(step, (list, shot) =>
      list.flatMap((x) => {
        if (!ids.includes(x.id)) return [x];
        const next = change(x, shot);
        if (x.locked && (!next || next.locked)) throw new ShotError(`the shape "${x.name}" is locked`);
        return next ? [next] : [];
      }),
    )(s);

/** Points as they lie in the picture on a frame, or keys as they are. */
export type NewShape = Partial<Omit<Shape, 'id' | 'keys'>> & ({ points: readonly number[] } | Pick<Shape, 'keys'>);

/** Adds shapes behind the others of a step; those of points are drawn on the frame. */
export const addShapes =
  (step: string, made: readonly NewShape[], frame: number, ids: string[] = []): Change =>
  (s) =>
    changeShapes(step, (list, shot) => {
      const all = [...list];
      for (const one of made) {
        const { points, keys, follows = [], ...more } = one as Partial<Shape> & { points?: readonly number[] };
        const id = newId();
        ids.push(id);
        const there = follows.filter((f) => shot.readings.some((r) => r.id === f));
        const shape: Shape = {
          ...shapeDefaults,
          mark: all.length % 8,
          ...more,
          id,
          name: freeName(
            more.name || 'Shape 1',
            all.map((x) => x.name),
          ),
          follows: keys ? there : [],
          keys: keys ?? [{ frame, value: [...points!], ease: 'linear' }],
        };
        all.push(keys || there.length === 0 ? shape : withFollows(shot, shape, there));
      }
      return all;
    })(s);

/** Frames with a key of a parameter, or of a shape. */
export const keyFramesOf = (step: Step): number[] => [
  ...new Set([
    ...[...Object.values(step.params), step.mix].flatMap((p) => (isKeyed(p) ? p.keys.map((k) => k.frame) : [])),
    ...shapesIn(step).flatMap((x) => x.keys.map((k) => k.frame)),
  ]),
];

/** Puts a shape before another place in the list; what comes later is laid over what comes before. */
export const moveShape =
  (step: string, id: string, to: number): Change =>
  (s) =>
    changeShapes(step, (list) => {
      const shape = list.find((x) => x.id === id);
      if (!shape) throw new ShotError('that shape is no longer there');
      const rest = list.filter((x) => x.id !== id);
      return [...rest.slice(0, to), shape, ...rest.slice(to)];
    })(s);
