import { IDENTITY_H } from '../../geometry/fit';
import type { Homography, Quad } from '../../geometry/homography';
import { homographyBetween } from '../../geometry/homography';
import { Mapping } from '../../geometry/mapping';
import { point, reading, toggle } from '../../param';
import type { Format } from '../../picture';
import type { ReadingData } from '../../readings/track-data';

type Point = readonly [number, number];

export interface Pins {
  topLeft: Point;
  topRight: Point;
  bottomRight: Point;
  bottomLeft: Point;
}

export const CORNERS = ['topLeft', 'topRight', 'bottomRight', 'bottomLeft'] as const satisfies readonly (keyof Pins)[];

/** The frame's own corners, in the order of CORNERS. */
export const frameCorners = ({ width: w, height: h }: Pick<Format, 'width' | 'height'>): Quad => [
  [0, 0],
  [w, 0],
  [w, h],
  [0, h],
];

/** Where the corners are pinned, in pixels of the frame. */
export const pinnedCorners = (p: Pins, format: Pick<Format, 'width' | 'height'>): Quad =>
  frameCorners(format).map(([x, y], i) => [x + p[CORNERS[i]!][0], y + p[CORNERS[i]!][1]]) as unknown as Quad;

/** Four corners as parameters, where `from` is one value: any map of a frame can be written by them, also frame by frame as keys. */
export function cornerParams(from: string) {
  const corner = (title: string) =>
    point(title, [0, 0], {
      unit: 'px',
      pixels: true,
      group: 'Corners',
      when: { from: [from] },
      help: "How far the corner is moved from the frame's.",
    });
  return {
    topLeft: corner('Top left'),
    topRight: corner('Top right'),
    bottomRight: corner('Bottom right'),
    bottomLeft: corner('Bottom left'),
  };
}

/** The map that four moved corners stand for. */
export const cornerMap = (p: Pins, format: Pick<Format, 'width' | 'height'>): Homography =>
  homographyBetween(frameCorners(format), pinnedCorners(p, format)) ?? IDENTITY_H;

/** A motion that was measured on one side of a lens, as it is seen where it is used. */
export function acrossLens(motion: Homography, by: ReadingData | null, holds = false): Mapping {
  const own = Mapping.by(motion, holds);
  return by?.across ? by.across.inverse.then(own).then(by.across) : own;
}

const LIVE = { when: { from: ['reading'] } } as const;
const part = (title: string) => toggle(title, true, { group: 'Parts', animatable: false, ...LIVE });

/** Which parts of a reading's motion a step takes. */
export const partParams = { horizontal: part('Across'), vertical: part('Up and down'), turn: part('Turn'), size: part('Scale') };

/** The readings that drive a step, while they do. */
export const readingParams = {
  reading: reading('Track', 'any', { help: 'A detail, or a plane with all of its perspective.', ...LIVE }),
  second: reading('Second point', 'point', { help: 'Gives turn and scale, with a point as the track.', ...LIVE }),
};

export const ON_READING = [
  { value: 'reading', title: 'The reading' },
  { value: 'keys', title: 'Its corners' },
] as const;
