import { nodeKernels } from '@/engine/node/host';
import type { Cube } from '../colour/cube';
import { giveCube, prepareCube } from '../colour/cube';
import { SCHEMA } from '../document/types';
import type { Param, Shot, Step, Tap, Zone } from '../document/types';
import type { Commons } from '../evaluate/commons';
import type { ComputeHost } from '../evaluate/compute';
import { compute, prepare } from '../evaluate/compute';
import type { Plan, Request } from '../evaluate/plan';
import { makePlan } from '../evaluate/plan';
import type { Rect } from '../geometry/rect';
import { rect } from '../geometry/rect';
import type { PassNote } from '../passes/pass';
import type { Picture } from '../picture';
import type { Reading } from '../readings/types';
import { Applied } from '../learn/apply';
import type { Teaches } from '../learn/lesson';
import { STEPS } from '../steps';
import { testLearnt, testLesson } from './lesson';

/** Channels of a test picture: a function of the pixel's place, or one value. */
export type Filling = Record<string, number | ((x: number, y: number) => number)>;

export interface TestPicture {
  width: number;
  height: number;
  bounds?: Rect;
  fill: Filling;
  /** What is known of its passes besides their names. */
  passes?: Record<string, PassNote>;
}

export interface TestStep {
  type: string;
  params?: Record<string, Param | undefined>;
  feeds?: string[];
  /** Feeds that are points of lanes. */
  taps?: Record<string, Tap>;
  mix?: Param | undefined;
  mask?: { from: string; channel?: string; invert?: boolean };
  on?: boolean | undefined;
}

/** A shot of one lane a picture; the steps stand on the lane `main`, and a feed or mask is the lane of its picture's name. */
export function testShot(pictures: Record<string, TestPicture>, steps: readonly TestStep[]): Shot {
  const main = pictures.main!;
  const format = (p: TestPicture) => ({ width: p.width, height: p.height, pixelAspect: 1 });
  return {
    schema: SCHEMA,
    id: 't',
    name: 'test',
    format: format(main),
    frameRate: 24,
    range: { first: 1, last: 10 },
    result: 'main',
    readings: [],
    notes: [],
    sources: Object.entries(pictures).map(([name, p]) => ({
      id: `source ${name}`,
      name,
      kind: 'still',
      frames: [
        {
          frame: 1,
          hash: Buffer.from(name).toString('hex').padEnd(64, '0'),
          name,
          ...(p.bounds && { bounds: [p.bounds.x0, p.bounds.y0, p.bounds.x1, p.bounds.y1] }),
        },
      ],
      format: format(p),
      channels: Object.keys(p.fill),
      ...(p.passes && { passes: p.passes }),
      container: 'test',
      colourSpace: 'linear',
      alpha: 'premultiplied',
      missing: 'error',
      start: 1,
    })),
    lanes: Object.keys(pictures).map((name) => ({
      id: name,
      name,
      start: { source: `source ${name}` },
      muted: false,
      collapsed: false,
      steps: name === 'main' ? steps.map(makeStep) : [],
    })),
  };
}

function makeStep(s: TestStep, i: number): Step {
  return {
    id: `step ${i}`,
    type: s.type,
    name: `${s.type} ${i}`,
    on: s.on ?? true,
    params: (s.params ?? {}) as Record<string, Param>,
    mix: s.mix ?? 1,
    feeds: { ...Object.fromEntries((s.feeds ?? []).map((f) => [f, { lane: f }])), ...s.taps },
    ...(s.mask ? { mask: { lane: s.mask.from, channel: s.mask.channel ?? 'A', invert: s.mask.invert ?? false } } : {}),
  };
}

export interface Evaluated {
  planes: Record<string, Float32Array>;
  at(channel: string, x: number, y: number): number;
  plan: Plan;
  /** NaN and infinite pixels that filters took as missing. */
  missing: number;
}

export interface EvaluateOptions extends Partial<Request> {
  /** Around steps of `main`. */
  zones?: readonly Zone[];
  /** The shot's, where that is not the size of `main`. */
  format?: { width: number; height: number };
  /** Pixels a tile, and whether runs of steps share them; see ComputeHost. */
  tile?: number;
  fuse?: boolean;
  /** Colour tables by the id of their source. */
  tables?: Record<string, Cube>;
  readings?: readonly Reading[];
  /** What it shares with others that work the same frame out. */
  commons?: Commons;
  /** Asked at each poll; true ends the work. */
  cancelled?(): boolean;
  /** Told before each stage. */
  progress?: ComputeHost['progress'];
}

/** Works out the lane `main` (or the request's changes) and returns plain arrays. Checks that no plane was left behind. */
export async function evaluate(
  pictures: Record<string, TestPicture>,
  steps: readonly TestStep[],
  { tile: pixels, fuse, tables = {}, readings = [], cancelled, progress, commons, format, zones, ...request }: EvaluateOptions = {},
): Promise<Evaluated> {
  const kernels = await nodeKernels();
  kernels.watch();
  const before = kernels.used;
  const owed = new Set(kernels.owing());
  const bare = testShot(pictures, steps);
  const lessons = steps.filter((s) => s.type === 'learn');
  const shot = {
    ...bare,
    ...(format && { format: { ...format, pixelAspect: 1 } }),
    ...(zones?.length && { lanes: bare.lanes.map((l) => (l.id === 'main' ? { ...l, zones: [...zones] } : l)) }),
    readings: [...readings, ...(lessons.length > 0 ? (['matte', 'change'] as const).map(testLesson) : [])],
    sources: [...bare.sources, ...Object.keys(tables).map((id) => ({ ...bare.sources[0]!, id, name: id, kind: 'lut' as const }))],
  };
  const prepared = new Map(Object.entries(tables).map(([id, cube]) => [id, prepareCube(cube, kernels)]));
  const plan = makePlan(shot, { tap: { lane: 'main' }, frame: 1, channels: ['R', 'G', 'B', 'A'], scale: 1, ...request }, STEPS);
  const made = new Map(plan.sources.map((node) => [node, paint(pictures[node.source.name]!, kernels)]));
  const applied = new Map<string, Applied>();
  let missing = 0;
  let planes: Record<string, Float32Array> = {};
  try {
    const tile = compute(prepare(plan, kernels, undefined, fuse), {
      kernels,
      table: (source) => prepared.get(source.id)!,
      lesson: ({ id }) => {
        const made = applied.get(id) ?? kernels.unguarded(() => new Applied(kernels, testLearnt(id as Teaches)));
        applied.set(id, made);
        return made;
      },
      picture: (node) => ({ region: made.get(node)!.bounds, planes: made.get(node)!.planes }),
      missing: (_, count) => (missing += count),
      ...(cancelled && { cancelled }),
      ...(progress && { progress }),
      ...(commons && { commons }),
      ...(pixels && { tile: pixels }),
    });
    planes = Object.fromEntries(Object.entries(tile.planes).map(([c, p]) => [c, Float32Array.from(p)]));
    Object.values(tile.planes).forEach((p) => kernels.give(p));
  } finally {
    [...made.values()].flatMap((p) => Object.values(p.planes)).forEach((p) => kernels.give(p));
    prepared.forEach((p) => giveCube(p, kernels));
    applied.forEach((a) => a.dispose());
  }
  if (kernels.used !== before)
    throw new Error(
      `${kernels.used - before} bytes were left behind:\n${kernels
        .owing()
        .filter((o) => !owed.has(o))
        .join('\n')}`,
    );
  const { region } = plan;
  const w = region.x1 - region.x0;
  return { planes, plan, missing, at: (c, x, y) => planes[c]![(y - region.y0) * w + x - region.x0]! };
}

function paint(p: TestPicture, kernels: Awaited<ReturnType<typeof nodeKernels>>): Picture {
  const b = p.bounds ?? rect(0, 0, p.width, p.height);
  const w = b.x1 - b.x0;
  const planes = Object.fromEntries(
    Object.entries({ A: 1, ...p.fill } as Filling).map(([c, f]) => {
      const plane = kernels.take(w * (b.y1 - b.y0));
      for (let i = 0; i < plane.length; i++) plane[i] = typeof f === 'number' ? f : f(b.x0 + (i % w), b.y0 + Math.floor(i / w));
      return [c, plane];
    }),
  );
  return { format: { width: p.width, height: p.height, pixelAspect: 1 }, bounds: b, channels: Object.keys(planes), planes };
}

/** A flat picture of one colour. */
export const flat = (width: number, height: number, r: number, g = r, b = r, a = 1): TestPicture => ({
  width,
  height,
  fill: { R: r, G: g, B: b, A: a },
});
