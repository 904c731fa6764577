import type { Draft } from 'immer';
import { kindOf } from '../readings/kinds';
import type { MoveTap } from '../readings/kinds/kind';
import type { Reading } from '../readings/types';
import { findStep, isKeyed, isLink, lastKnown } from './params';
import type { Lane, Param, Shot, Step, Tap } from './types';
import { limitedOf } from './zones';

/** A place of a shot that taps a lane. */
export interface TapPlace {
  tap: Tap;
  /** What it is: a lane's start, a mask, a feed by its name, or where a reading or its matte is measured. */
  use: string;
  kind: 'start' | 'mask' | 'feed' | 'reading' | 'readingMatte' | 'lesson';
  /** Whose it is. */
  owner: string;
  /** The lane and step that it stands in, but for readings. */
  lane?: Lane;
  step?: Step;
}

/** Every tap of a shot, those of readings included. */
export function tapPlaces(shot: Shot): TapPlace[] {
  const places: TapPlace[] = [];
  for (const lane of shot.lanes) {
    if ('tap' in lane.start) places.push({ tap: lane.start.tap, use: 'start', kind: 'start', owner: lane.name, lane });
    for (const step of limitedOf(lane)) {
      const owner = `${lane.name} ▸ ${step.name}`;
      for (const [use, tap] of Object.entries(step.feeds)) places.push({ tap, use, kind: 'feed', owner, lane, step });
      if (step.mask) places.push({ tap: step.mask, use: 'mask', kind: 'mask', owner, lane, step });
    }
  }
  for (const r of shot.readings) {
    places.push({ tap: r.from, use: 'from', kind: 'reading', owner: r.name });
    for (const own of kindOf(r).taps?.(r) ?? []) places.push({ ...own, owner: r.name });
  }
  return places;
}

/** Moves what a reading taps besides the picture that it is of; where nothing is given it goes, with what hangs on it. Changes the reading. */
export const moveTaps = (r: Draft<Reading>, to: MoveTap): void => kindOf(r as Reading).moveTaps?.(r, to);

/** "the mask of keeper ▸ Grade", 'the reading "hull"' */
export function tellPlace({ kind, use, owner }: TapPlace): string {
  switch (kind) {
    case 'start':
      return `the start of ${owner}`;
    case 'reading':
      return `the reading "${owner}"`;
    case 'readingMatte':
      return `the matte of the reading "${owner}"`;
    case 'lesson':
      return `the ${use} of the lesson "${owner}"`;
    default:
      return `the ${use} of ${owner}`;
  }
}

/** Taps of a lane right after one of its steps. */
export const tapsAfter = (shot: Shot, lane: string, step: string): TapPlace[] =>
  tapPlaces(shot).filter(({ tap }) => tap.lane === lane && tap.after === step);

/** Every parameter of a step, its mix included. */
export const paramsOf = (step: Step): [string, Param][] => [...Object.entries(step.params), ['mix', step.mix]];

/** Parameters elsewhere that follow some of these steps. */
export function linksInto(shot: Shot, steps: ReadonlySet<string>): { lane: Lane; step: Step; name: string }[] {
  return shot.lanes.flatMap((lane) =>
    limitedOf(lane)
      .filter((s) => !steps.has(s.id))
      .flatMap((step) =>
        paramsOf(step)
          .filter(([, p]) => isLink(p) && steps.has(p.link.step) && findStep(shot, p.link.step))
          .map(([name]) => ({ lane, step, name })),
      ),
  );
}

/** What a parameter is without what it follows: its own, or what the followed one was last, which moves with its keys. */
export function unfollowed(shot: Shot, param: Param): Param | undefined {
  const own = isLink(param) ? lastKnown(shot, param.link) : param;
  return isKeyed(own) ? { keys: own.keys.map((k) => ({ ...k })) } : own;
}
