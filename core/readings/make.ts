import type { Quad } from '../geometry/homography';
import type { Polygon } from '../geometry/polygon';
import { boxAround } from '../geometry/polygon';
import type { ReadingChannel } from './gray';
import { PLANE_SETTINGS } from './plane';
import { POINT_SETTINGS } from './point';
import type { PlaneReading, PointReading } from './types';

export interface About {
  id?: string;
  name?: string;
  from?: PointReading['from'];
  channel?: ReadingChannel;
  reference: number;
  range: { first: number; last: number };
}

/** A point reading that is not measured yet. */
export const newPoint = (at: readonly [number, number], about: About): PointReading => ({
  id: 'point',
  name: 'Point',
  from: { lane: '' },
  channel: 'luma',
  ...about,
  kind: 'point',
  settings: POINT_SETTINGS,
  at,
  frames: [],
});

/** A plane reading that is not measured yet; its surface is the shapes' box. */
export function newPlane(shapes: readonly Polygon[], about: About): PlaneReading {
  const { x0, y0, x1, y1 } = shapes.length ? boxAround(shapes) : { x0: 0, y0: 0, x1: 100, y1: 100 };
  const four = shapes[0]?.length === 8 ? shapes[0] : [x0, y0, x1, y0, x1, y1, x0, y1];
  const surface = [0, 2, 4, 6].map((i) => [four[i]!, four[i + 1]!] as const) as unknown as Quad;
  return {
    id: 'plane',
    name: 'Plane',
    from: { lane: '' },
    channel: 'luma',
    ...about,
    kind: 'plane',
    settings: PLANE_SETTINGS,
    region: { shapes, without: [] },
    surface,
    frames: [],
  };
}
