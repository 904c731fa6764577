import type { Kernels } from '@/kernels';
import { invert } from '@/core/geometry/fit';
import { mapPoint } from '@/core/geometry/homography';
import { inPolygon } from '@/core/geometry/polygon';
import type { Gray, GrayFrame } from '@/core/readings/gray';
import { frameOf } from '@/core/readings/gray';
import { newPlane, newPoint } from '@/core/readings/make';
import { PlaneTracker } from '@/core/readings/plane';
import type { PointSettings } from '@/core/readings/point';
import { PointTracker } from '@/core/readings/point';
import { PANEL, tableAt } from '@/demo/sg020';
import { MARK, shakeAt } from '@/demo/sg060';
import { lumaOf } from './frames';
import { followAll, followPlaneOnce, maskOf, matOf, openCv, release } from './opencv';
import { table, timeOf } from './timing';

const FRAMES = 24;

async function framesOf(root: string, shot: string, lane: string): Promise<Gray[]> {
  const luma = await lumaOf(root, shot, lane);
  return Promise.all(Array.from({ length: FRAMES }, (_, i) => luma(i + 1)));
}

/** Trackers without decoding, one core, 960×540 luma, beside OpenCV's build for npm. */
export async function benchReadings(root: string, kernels: Kernels): Promise<string> {
  await openCv();
  const mooring = await framesOf(root, 'sg060', 'mooring');
  const chart = await framesOf(root, 'sg020-begun', 'table');
  const perSecond = (ms: number): string => ((1000 * (FRAMES - 1)) / ms).toFixed(0);
  const rows: string[][] = [];

  const at = mapPoint(shakeAt(1), ...MARK);
  const base = newPoint(at, { reference: 1, range: { first: 1, last: FRAMES } }).settings;
  const follow = (change: Partial<PointSettings>): number => {
    const images: GrayFrame[] = mooring.map(frameOf);
    return timeOf(() => {
      const tracker = new PointTracker(kernels, { ...base, ...change }, images[0]!, ...at);
      for (let f = 1; f < FRAMES; f++) tracker.next(images[f]!, f + 1);
    });
  };
  const mats = mooring.map(matOf);
  const theirs = timeOf(() => {
    let p: readonly number[] = [at[0] - 0.5, at[1] - 0.5];
    for (let f = 1; f < FRAMES; f++) p = followAll(mats[f - 1], mats[f], p, 31).points;
  });
  for (const [name, change] of [
    ['point, pattern 31, search 91, shift', {}],
    ['the same, shift, turn and scale', { model: 'similarity' }],
    ['the same, affine', { model: 'affine' }],
  ] as const) {
    const mine = follow(change);
    rows.push([name, perSecond(mine), perSecond(theirs), `${(theirs / mine).toFixed(2)}×`]);
  }
  mats.forEach(release);

  const home = tableAt(1);
  const shape = (d: number): number[] =>
    PANEL.flatMap(([x, y], i) => mapPoint(home, x + (i === 0 || i === 3 ? -d : d), y + (i < 2 ? -d : d)));
  const tables = chart.map(matOf);
  const mask = maskOf(960, 540, (x, y) => inPolygon(shape(70), x, y));
  const plane = timeOf(() => {
    for (let f = 1; f < FRAMES; f++) followPlaneOnce(tables[f - 1], tables[f], mask, invert(home)!);
  });
  const images = chart.map(frameOf);
  const reading = newPlane([shape(70)], { reference: 1, range: { first: 1, last: FRAMES } });
  const mine = timeOf(
    () => {
      const tracker = new PlaneTracker(kernels, reading.settings, images[0]!, reading.region);
      for (let f = 1; f < FRAMES; f++) tracker.next(images[f]!, f + 1);
      tracker.close();
    },
    2000,
    3,
  );
  rows.push([
    'plane, perspective, 160 features and direct registration',
    perSecond(mine),
    perSecond(plane),
    `${(plane / mine).toFixed(2)}×`,
  ]);
  [...tables, mask].forEach(release);
  return [
    'Frames a second without decoding. OpenCV: pyramidal Lucas–Kanade of one point with a window of 31 and three levels; of 160 corners with RANSAC for the plane, without registration to the reference frame.',
    table(['tracker', 'frames/s', "OpenCV's", 'ours against it'], rows),
  ].join('\n\n');
}
