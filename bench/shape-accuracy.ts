import { depthInside } from '@/demo/walker';
import { trueCoat } from '@/demo/sg040';
import { trueKeeper } from '@/demo/keeper-outline';
import type { Shot } from '@/core/document/types';
import { OUTLINE_SIZE, flatten } from '@/core/shape/outline';
import { outlinePoints } from '@/core/shape/freehand';
import { shapeDefaults, withFollows, withPointsAt } from '@/core/shape/edit';
import { pointsAt } from '@/core/shape/pose';
import type { Shape } from '@/core/shape/shapes';
import { join } from 'node:path';
import { RGBA } from '@/core/picture';
import { lookOf } from '@/core/shape/look';
import type { Look } from '@/core/shape/snap';
import { snapBetween } from '@/core/shape/snap';
import { nodeHost, openShotFile } from '@/engine/node/host';
import { table } from './timing';

const root = process.env.OSTRACON_ROOT ?? '.';

/** Something whose true outline is known on every frame of a demo shot. */
interface Outlined {
  name: string;
  file: string;
  lane: string;
  /** Readings that it is tried with, by what the table calls them. */
  ways: readonly (readonly [string, readonly string[]])[];
  /** Dense, x and y after each other, from the same place of the thing on. */
  truth(frame: number): number[];
  /** Below this row nothing of it is seen. */
  seen: number;
  /** Of the outline that a hand draws. */
  points: number;
}

const SUBJECTS: readonly Outlined[] = [
  {
    ...{ name: "SG040's checked coat and hat", file: 'sg040', lane: 'wall', truth: trueCoat, seen: Infinity, points: 30 },
    ways: [
      ['unassisted', []],
      ['following the coat', ['coat']],
    ],
  },
  {
    ...{ name: "SG010's keeper, cap to sleeve", file: 'sg010', lane: 'keeper', truth: trueKeeper, seen: 540, points: 48 },
    ways: [['unassisted', []]],
  },
];

/** Mean and greatest distance of a shape's outline from the true one on a frame, px; at points every two pixels of it. */
function outlineError(
  shot: Pick<Shot, 'readings'>,
  shape: Shape,
  of: Outlined,
  frame: number,
  truth: readonly number[],
): { mean: number; most: number } {
  const outline = flatten({ ...shape, points: pointsAt(shot, shape, frame) });
  const n = outline.length / OUTLINE_SIZE;
  let [sum, length, most] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const [a, b] = [i * OUTLINE_SIZE, ((i + 1) % n) * OUTLINE_SIZE];
    const [x0, y0, x1, y1] = [outline[a]!, outline[a + 1]!, outline[b]!, outline[b + 1]!];
    if ((y0 + y1) / 2 > of.seen) continue;
    const l = Math.hypot(x1 - x0, y1 - y0);
    const d = Math.abs(depthInside(truth, (x0 + x1) / 2, (y0 + y1) / 2));
    sum += d * l;
    length += l;
    most = Math.max(most, d);
  }
  return { mean: sum / length, most };
}

/** An outline as a hand would key it: the true one, by so many points, on so many frames from the first to the last. */
function keyedOutline(
  shot: Pick<Shot, 'readings'>,
  of: Outlined,
  follows: readonly string[],
  keys: number,
  { first, last }: Shot['range'],
): Shape {
  const frames = Array.from({ length: keys }, (_, i) => Math.round(first + ((last - first) * i) / (keys - 1)));
  // The same points on each frame: the outline is walked from the crown on.
  const drawn = (f: number): number[] => outlinePoints(of.truth(f), of.points).map((v) => Math.round(v * 10) / 10);
  const [home, ...others] = frames as [number, ...number[]];
  const bare: Shape = { ...shapeDefaults, id: 'drawn', name: 'Drawn', keys: [{ frame: home, value: drawn(home), ease: 'linear' }] };
  return others.reduce((s, f) => withPointsAt(shot, s, f, drawn(f), 'here'), withFollows(shot, bare, follows));
}

async function accuracyOf(of: Outlined): Promise<string> {
  const { shot, files } = await openShotFile(join(root, `demo/shots/${of.file}.json`));
  const frames = Array.from({ length: shot.range.last - shot.range.first + 1 }, (_, i) => shot.range.first + i);
  const truths = frames.map((f) => of.truth(f));
  const rows: string[][] = [];
  const host = await nodeHost(files);
  const look = async (frame: number): Promise<Look> => {
    const { pixels, region, format } = await host.render(shot, { tap: { lane: of.lane, after: '' }, frame, scale: 1, channels: RGBA });
    return lookOf(pixels, region, format);
  };
  const measure = (keys: number, name: string, shape: Shape): void => {
    const errors = frames.map((f, i) => outlineError(shot, shape, of, f, truths[i]!));
    const mean = errors.reduce((s, e) => s + e.mean, 0) / frames.length;
    const at = errors.reduce((best, e, i) => (e.mean > errors[best]!.mean ? i : best), 0);
    rows.push([
      String(keys),
      name,
      mean.toFixed(2),
      `${errors[at]!.mean.toFixed(2)} (${frames[at]!})`,
      Math.max(...errors.map((e) => e.most)).toFixed(1),
    ]);
  };
  for (const keys of [2, 3, 5]) {
    for (const [name, follows] of of.ways) {
      const shape = keyedOutline(shot, of, follows, keys, shot.range);
      measure(keys, name, shape);
      measure(keys, `${name}, snapped`, await snapBetween(shot, shape, look));
    }
  }
  return [
    `${of.name}, ${frames.length} frames, ${of.points} points drawn on the true outline at the keys; distance of the outline from the true one, px.`,
    '',
    table(['keys', 'between them', 'mean', 'worst frame (which)', 'farthest point'], rows),
  ].join('\n');
}

/** Outlines that follow a reading, and that do not, against the true outlines of SG040's nearer passer-by and SG010's keeper. */
export async function shapeAccuracy(): Promise<string> {
  const parts: string[] = [];
  for (const of of SUBJECTS) parts.push(await accuracyOf(of));
  return parts.join('\n\n');
}
