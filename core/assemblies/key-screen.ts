import type { Draft } from 'immer';
import type { Lane, Param, Shot, Step, Tap } from '../document';
import { ShotError } from '../errors';
import { appendStep } from '../commands/change';
import type { Change } from '../commands/commands';
import { freeName, newId, newLane } from '../commands/make';

interface Part {
  type: string;
  name: string;
  params?: Record<string, Param>;
  feeds?: Record<string, Tap>;
}

const stepOf = ({ type, name, params = {}, feeds = {} }: Part): Draft<Step> =>
  ({
    id: newId(),
    type,
    name,
    on: true,
    params,
    feeds,
    mix: 1,
  }) as Draft<Step>;

export interface KeyScreenOptions {
  /** The lane that is keyed, and the step after which its plate is: '' is its start; before its first join unless said. */
  lane: string;
  after?: string;
  /** Scene-linear. */
  screenColour: readonly [number, number, number];
  /** The lane that it is laid over, or that a join of it brings and that goes under it; without one it is joined to nothing. */
  over?: string;
}

/**
 * A key in layers: a screen made of the plate, a core and a garbage matte from hard keys, a soft key between the two, spill off and
 * colour carried under the edge. Everything is steps and lanes like any others. Throws ShotError where a lane is gone.
 */
export const keyScreen =
  ({ lane: laneId, screenColour, over, after }: KeyScreenOptions): Change =>
  (s) => {
    const lane = s.lanes.find((l) => l.id === laneId);
    const behind = over === undefined ? undefined : s.lanes.find((l) => l.id === over);
    if (!lane || (over !== undefined && !behind)) throw new ShotError('that lane is no longer there');
    if (behind === lane) throw new ShotError(`"${lane.name}" cannot be laid over itself; choose another lane`);
    const plate: Tap = { lane: laneId, after: after ?? plateBefore(lane as Lane) };
    let at = lane.steps.findIndex((x) => x.id === plate.after) + 1;
    const colour = { screenColour: [...screenColour] };
    const names = s.lanes.map((l) => l.name);
    const branch = (name: string, parts: readonly Part[]): Draft<Lane> => {
      const made = newLane(`${lane.name} ${name}`, { tap: { ...plate } }, names) as Draft<Lane>;
      names.push(made.name);
      made.steps = parts.map(stepOf);
      return made;
    };

    const screen = branch('screen', [{ type: 'screenPlate', name: 'Screen plate', params: colour }]);
    const clean = { screenPlate: { lane: screen.id } };
    const core = branch('core', [
      { type: 'blur', name: 'Calm the noise', params: { size: 0.8, channels: 'colour' } },
      { type: 'screenKey', name: 'Hard key', params: { ...colour, ...HARD, low: 0.45, high: 0.6 }, feeds: clean },
      { type: 'tidyMatte', name: 'Close holes', params: { holes: 24, specks: 24, follow: false } },
      { type: 'choke', name: 'Shrink', params: { radius: -1.5, follow: false } },
      { type: 'softenMatte', name: 'Soften', params: { size: 1, direction: 'inward', follow: false } },
    ]);
    const garbage = branch('garbage', [
      { type: 'blur', name: 'Calm the noise', params: { size: 1.5, channels: 'colour' } },
      { type: 'screenKey', name: 'Hard key', params: { ...colour, ...HARD, low: 0.1, high: 0.2 }, feeds: clean },
      { type: 'tidyMatte', name: 'Keep the subject', params: { keep: 'largest', specks: 8, holes: 0, level: 0.3, follow: false } },
      { type: 'choke', name: 'Spread', params: { radius: 8, follow: false } },
      { type: 'softenMatte', name: 'Soften', params: { size: 2, direction: 'outward', follow: false } },
      { type: 'invert', name: 'Outside', params: { channels: 'alpha' } },
    ]);
    const add = (part: Part): void => {
      const taken = lane.steps.map((x) => x.name);
      lane.steps.splice(at++, 0, stepOf({ ...part, name: freeName(part.name, taken) }));
    };
    add({
      type: 'screenKey',
      name: 'Screen key',
      params: { ...colour, balance: 1, low: 0.06, high: 0.86, toe: 0.1, shoulder: 0.05, gamma: 1.12 },
      feeds: { ...clean, inside: { lane: core.id }, outside: { lane: garbage.id } },
    });
    add({ type: 'tidyMatte', name: 'Close pinholes', params: { specks: 0, holes: 0, pinholes: 5, level: 0.04 } });
    add({
      type: 'edgeDetail',
      name: 'Edge detail',
      params: { method: 'guided', band: 0, radius: 3, noise: 0.02 },
      feeds: { plate, background: { lane: screen.id } },
    });
    // The screen's light on a rim, and chroma that is sampled at half the size, make an edge's solid pixels partial.
    add({
      type: 'tidyMatte',
      name: 'Fill the rim',
      params: { low: 0.02, specks: 10, level: 0.02, holes: 0, reach: 6, from: 0.8 },
    });
    add({ type: 'despill', name: 'Despill', params: { ...colour, share: 0.6 } });
    add({ type: 'extendColour', name: 'Extend colour', params: { distance: 2, keep: 1 } });
    s.lanes.splice(s.lanes.indexOf(lane) + 1, 0, core, garbage, screen);
    const brings = lane.steps.find((x) => x.type === 'join' && x.feeds.front?.lane === over);
    // A background that was laid over the plate goes under what is keyed of it.
    if (brings) brings.params.operator = 'under';
    else if (behind) layOver(s, lane, behind);
  };

/** The step of a lane after which it is still one picture: the one before its first join; '' is its start. */
export function plateBefore(lane: Lane): string {
  const join = lane.steps.findIndex((x) => x.type === 'join');
  return lane.steps[(join < 0 ? lane.steps.length : join) - 1]?.id ?? '';
}

/** Hard keys deliver a matte only. */
const HARD = { balance: 1, output: 'matte' } as const;

/** Joins a lane over another, unless it already is; a lane that was the result itself makes the other the result. */
function layOver(s: Draft<Shot>, front: Draft<Lane>, behind: Draft<Lane>): void {
  if (!behind.steps.some((x) => x.type === 'join' && x.feeds.front?.lane === front.id)) {
    appendStep(behind, stepOf({ type: 'join', name: 'over', feeds: { front: { lane: front.id } } }));
  }
  if (s.result === front.id) {
    s.result = behind.id;
    // The one in front stands above.
    s.lanes = [...s.lanes.filter((l) => l !== behind), behind];
  }
}
