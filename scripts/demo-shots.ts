// Makes the demo shots that commands build: node scripts/run.mjs scripts/demo-shots.ts [SHOT]
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Draft } from 'immer';
import { produce } from 'immer';
import type { Lane, Shot, Step } from '@/core/document';
import { SCHEMA } from '@/core/document';
import type { Stroke } from '@/core/paint';
import { keyScreen } from '@/core/assemblies';
import * as parts from './demo-parts';
import { basin } from './demo-basin';
import { chart, slipway } from './demo-lens';
import { diver } from './demo-diver';
import { coat } from './demo-lesson';
import { mooring, table } from './demo-readings';
import { marksTaught, wallTaught } from './demo-taught';
import type { Written } from './demo-parts';
import { wall } from './demo-wall';

const root = process.env.OSTRACON_ROOT ?? '.';
const fileOf = (name: string): string => join(root, 'demo/shots', `${name}.json`);

let made = 0;
/** A step whose id is given by its place in the end. */
const step = (type: string, name: string, part: Parameters<typeof parts.step>[3] = {}): Draft<Step> =>
  parts.step(`made ${++made}`, type, name, part) as Draft<Step>;
const laneOf = (name: string, steps: Draft<Step>[]): Draft<Lane> =>
  parts.lane(name, name, { tap: { lane: 'keeper', after: '' } }, steps) as Draft<Lane>;

/** A region brushed for every frame, with a soft edge. */
function region(name: string, size: number, points: number[], soft: number): Draft<Lane> {
  const brushed = [stroke({ size, hardness: 1, points })];
  return laneOf(name, [
    step('paint', 'Brush the region', { params: { output: 'matte', strokes: brushed } }),
    step('softenMatte', 'Soften', { params: { size: soft, follow: false } }),
  ]);
}

/** Ids by place, so that the file is the same each time. */
function named(shot: Shot): Shot {
  const ids = new Map<string, string>();
  const short = (s: string): string => s.toLowerCase().replace(/[^a-z0-9]+/g, '-');
  for (const l of shot.lanes) {
    ids.set(l.id, short(l.name));
    for (const s of l.steps) ids.set(s.id, `${short(l.name)}-${short(s.name)}`);
  }
  const text = JSON.stringify(shot, (key, value: unknown) =>
    ['id', 'lane', 'after', 'result'].includes(key) && typeof value === 'string' ? (ids.get(value) ?? value) : value,
  );
  return JSON.parse(text) as Shot;
}

function keeperByRegions(): Shot {
  const film = JSON.parse(readFileSync(fileOf('sg010'), 'utf8')) as Shot;
  const lane = (id: string): Shot['lanes'][number] => film.lanes.find((l) => l.id === id)!;
  const start: Shot = {
    ...film,
    schema: SCHEMA,
    id: 'sg010-regions',
    name: 'SG010 keeper, by regions',
    lanes: [
      { ...lane('keeper'), steps: [] },
      { ...lane('harbour'), steps: lane('harbour').steps.filter((s) => s.type !== 'join') },
    ],
  };
  const screenColour = [0.047, 0.256, 0.075] as const;
  const keyed = produce(start, (d) => keyScreen({ lane: 'keeper', screenColour, over: 'harbour' })(d));
  const id = (name: string): string => keyed.lanes.find((l) => l.name === name)!.id;
  const fine = (name: string, low: number, high: number, gamma: number): Draft<Lane> =>
    laneOf(name, [
      step('screenKey', 'Fine key', {
        params: { screenColour: [...screenColour], balance: 1, low, high, gamma, output: 'matte' },
        feeds: { screenPlate: { lane: id('keeper screen') }, outside: { lane: id('keeper garbage') } },
      }),
    ]);
  return named(
    produce(keyed, (d) => {
      const keeper = d.lanes.find((l) => l.id === 'keeper')!;
      const join = (name: string, other: string, where: string): Draft<Step> =>
        step('combineMattes', name, {
          params: { operation: 'union', follow: false },
          feeds: { other: { lane: other } },
          mask: { lane: where, channel: 'A', invert: false },
        });
      const edge = keeper.steps.find((s) => s.type === 'edgeDetail')!;
      edge.params = { ...edge.params, brush: CAPE_BRUSH, brushed: 'too' };
      keeper.steps.splice(
        1,
        0,
        ...[join('Hair in its region', 'hair key', 'head region'), join('Lantern in its region', 'lantern key', 'hand region')],
      );
      const spill = keeper.steps.findIndex((s) => s.type === 'despill');
      keeper.steps.splice(spill + 1, 0, step('paint', 'Warm the cape', { params: { strokes: CAPE_COLOUR } }));
      keeper.steps.push(...(lane('keeper').steps.filter((s) => ['grade', 'transform'].includes(s.type)) as Draft<Step>[]));
      const at = d.lanes.indexOf(keeper) + 1;
      d.lanes.splice(
        at,
        0,
        fine('hair key', 0.06, 0.82, 1),
        region('head region', 200, [470, 170, 470, 240], 20),
        fine('lantern key', 0.07, 0.84, 1.1),
        region('hand region', 110, [638, 270, 628, 350], 16),
      );
    }),
  );
}

const stroke = (change: Partial<Stroke>): Stroke => ({
  tool: 'paint',
  first: 1,
  last: 48,
  size: 60,
  hardness: 0.6,
  flow: 1,
  colour: [1, 1, 1],
  points: [],
  ...change,
});
/** The cape hangs at the left; both brushes keep clear of the coat. */
const CAPE_BRUSH = [stroke({ size: 50, points: [322, 345, 305, 430, 300, 540] })];
const CAPE_COLOUR = [stroke({ tool: 'tint', flow: 0.5, size: 70, colour: [0.3, 0.22, 0.1], points: [325, 330, 300, 430, 300, 540] })];

const write = (name: string, shot: object): string => {
  // Numbers in a row stay on one line.
  const text = JSON.stringify(shot, null, 1).replace(/\[\s*(-?\d[^[\]{}"]*?)\s*\]/g, (_, list: string) => `[${list.replace(/\s+/g, ' ')}]`);
  writeFileSync(fileOf(name), `${text}\n`);
  return fileOf(name);
};
/** The sources of a demo shot as its file names them. */
const sourcesOf = (name: string): Written['sources'] => (JSON.parse(readFileSync(fileOf(name), 'utf8')) as Written).sources;
/** Those that are asked for by name, or all. */
const SHOTS: Record<string, () => unknown> = {
  'sg010-regions': () => write('sg010-regions', keeperByRegions()),
  'sg010-coat': () => coat(write),
  sg020: () => table(write),
  'sg020-taught': () => marksTaught(write, sourcesOf('sg020')),
  sg030: () => diver(write),
  sg040: () => wall(write),
  'sg040-taught': () => wallTaught(write, sourcesOf('sg040')),
  sg050: () => slipway(write),
  sg060: () => mooring(write),
  sg070: () => chart(write),
  sg080: () => basin(write),
};
const asked = process.argv[2];
for (const [name, make] of Object.entries(SHOTS)) if (!asked || asked === name) await make();
