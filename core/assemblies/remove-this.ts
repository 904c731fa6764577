import type { Draft } from 'immer';
import type { Lane, Param, Shot, Step, Tap } from '../document';
import { ShotError } from '../errors';
import { boxAround } from '../geometry';
import type { ChannelGrain } from '../grain';
import { sigmaAt } from '../grain';
import { cornersToPoints } from '../shape';
import type { Change } from '../commands/change';
import { laneOf } from '../commands/change';
import { freeName, newLane, newStep } from '../commands/make';
import { addPlane, changePlane } from '../commands/readings';
import { addShapes } from '../commands/shapes';

/** Softness of a patch's edge, px. */
const FEATHER = 4;
/** How far around the thing its surface is followed, as a share of its size, and at least in px. */
const AROUND = 0.7;
const LEAST_AROUND = 40;

/** What comes into the place of a thing that is taken out. */
export type RemoveBy = 'patches' | 'smooth' | 'frames' | 'beside';

export interface RemoveOptions {
  /** The point of a lane that it is seen at. */
  tap: Tap;
  /** x and y of corners of one or several outlines, drawn around it on a frame, in that point's pixels. */
  outlines: readonly (readonly number[])[];
  frame: number;
  by: RemoveBy;
  /** Of `beside`: from where, px from its own place. */
  shift?: readonly [number, number];
  /** The reading that it goes with; a plane around it is made without. */
  reading?: string;
  /** A lane whose alpha is what passes in front of it. */
  front?: string;
  /** The plate's, given back to the patch. */
  grain?: readonly ChannelGrain[];
  name?: string;
}

export interface Removed {
  reading?: string;
  /** The lane of the patch alone, and the patch. */
  lane?: string;
  patch?: string;
  /** The lane that it is taken from; none where it is taken from beside. */
  clean?: string;
}

/**
 * Takes a thing out of a lane: a clean picture of its place (one frame filled, or many frames agreed), a patch of it that goes along with a reading,
 * in the light of each frame, with the plate's grain, behind what is in front; joined over the point. All of it are lanes and steps like any others.
 * Throws ShotError where a part of it is not there.
 */
export const removeThis =
  (o: RemoveOptions, made: Removed = {}): Change =>
  (s) => {
    const lane = laneOf(s, o.tap.lane);
    if (o.outlines.length === 0 || o.outlines.some((p) => p.length < 6))
      throw new ShotError('what shall go needs an outline of three corners or more');
    if (o.front !== undefined && !s.lanes.some((l) => l.id === o.front))
      throw new ShotError('the lane of what is in front is no longer there');
    const after = o.tap.after ?? lane.steps.at(-1)?.id ?? '';
    const plate: Tap = { lane: lane.id, after };
    const name = freeName(
      o.name ?? 'Removed 1',
      s.lanes.map((l) => l.name),
    );
    made.reading = o.reading ?? followAround(s, plate, o, name);
    const { reading: id } = made;
    if (!s.readings.some((r) => r.id === id)) throw new ShotError('the reading that it goes with is no longer there');
    const front: Record<string, Tap> = o.front === undefined ? {} : { front: { lane: o.front } };

    const patch = stepOf(
      'patch',
      'Patch',
      { reading: id, frame: o.frame, output: 'alone', ...(o.by === 'beside' && { shift: [...(o.shift ?? [0, 0])] }) },
      front,
    );
    const lanes: Draft<Lane>[] = [];
    const laneOn = (called: string, steps: Draft<Step>[]): Draft<Lane> => {
      const branch = newLane(
        called,
        { tap: plate },
        [...s.lanes, ...lanes].map((l) => l.name),
      ) as Draft<Lane>;
      branch.steps = steps;
      lanes.push(branch);
      return branch;
    };
    const grain = o.grain?.length ? [stepOf('grain', 'Grain of the plate', { measured: o.grain.map((g) => ({ ...g })) })] : [];
    made.lane = laneOn(name, [patch, ...grain]).id;
    made.patch = patch.id;
    if (o.by !== 'beside') {
      made.clean = laneOn(`${name} clean`, cleanSteps(o, id!, patch.id)).id;
      patch.feeds.from = { lane: made.clean };
    }
    s.lanes.splice(s.lanes.indexOf(lane), 0, ...lanes);
    addShapes(
      patch.id,
      o.outlines.map((p, i) => ({
        name: o.outlines.length > 1 ? `Outline ${i + 1}` : 'Outline',
        points: cornersToPoints(p),
        feather: FEATHER,
        follows: [id!],
      })),
      o.frame,
    )(s);
    const join = stepOf(
      'join',
      freeName(
        'over',
        lane.steps.map((x) => x.name),
      ),
      {},
      { front: { lane: made.lane } },
    );
    lane.steps.splice(lane.steps.findIndex((x) => x.id === after) + 1, 0, join);
  };

/** What the patch is taken from: many frames agreed, or one filled. */
function cleanSteps(o: RemoveOptions, reading: string, patch: string): Draft<Step>[] {
  const front = (feed: string): Record<string, Tap> => (o.front === undefined ? {} : { [feed]: { lane: o.front } });
  if (o.by === 'frames') {
    return [
      stepOf('cleanPlate', 'What the frames agree on', { reading, home: o.frame }, front('matte')),
      stepOf('fill', 'Close what no frame shows', { within: 'alpha', spread: 1 }),
    ];
  }
  // The hole is the patch's outline: changed there, it changes here.
  const shapes: Param = { link: { step: patch, param: 'shapes' } };
  const { x0, y0, x1, y1 } = boxAround(o.outlines);
  const reach = Math.round(Math.min(1000, Math.max(60, 0.8 * Math.max(x1 - x0, y1 - y0))));
  const method: Record<string, Param> = o.by === 'smooth' ? { method: 'smooth' } : { reach };
  return [
    // Grain is given to the patch on every frame: that of one frame would lie still beneath it.
    ...(o.grain?.length ? [stepOf('denoise', 'Grain off', { noise: noiseOf(o.grain) })] : []),
    stepOf('fill', 'Fill', { shapes, spread: 2, ...method }, front('avoid')),
    stepOf('hold', 'One frame', { frame: o.frame }),
  ];
}

const stepOf = (type: string, name: string, params: Record<string, Param>, feeds: Record<string, Tap> = {}): Draft<Step> =>
  ({ ...newStep(type, []), name, params, feeds }) as Draft<Step>;

/** The noise of a grain at a middle light, as a share of the root of that light. */
const noiseOf = (grain: readonly ChannelGrain[]): number => Number(Math.min(0.1, sigmaAt(grain[1]!, 0.18) / Math.sqrt(0.19)).toFixed(4));

/** A plane to be measured around what goes, without it. */
function followAround(s: Draft<Shot>, plate: Tap, { outlines, frame }: RemoveOptions, name: string): string {
  const { x0, y0, x1, y1 } = boxAround(outlines);
  const d = Math.max(LEAST_AROUND, AROUND * Math.max(x1 - x0, y1 - y0));
  const { width, height } = s.format;
  const inside = (v: number, most: number): number => Math.min(most - 4, Math.max(4, v));
  const [l, t, r, b] = [inside(x0 - d, width), inside(y0 - d, height), inside(x1 + d, width), inside(y1 + d, height)];
  const made: { reading?: string } = {};
  const region = [l, t, r, t, r, b, l, b];
  addPlane(plate, region, frame, made)(s);
  changePlane(made.reading!, { region: { shapes: [region], without: outlines.map((p) => [...p]) } })(s);
  const reading = s.readings.find((x) => x.id === made.reading)!;
  reading.name = freeName(
    `Around ${name}`,
    s.readings.filter((x) => x !== reading).map((x) => x.name),
  );
  return made.reading!;
}
