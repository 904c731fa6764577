import { ShotError } from '../../errors';
import type { ResampleFilter } from '../../filters/resample';
import { FILTERS } from '../../filters/resample';
import type { Quad } from '../../geometry/homography';
import { homographyBetween, mapPoint } from '../../geometry/homography';
import { Mapping } from '../../geometry/mapping';
import { choice, reading, toggle } from '../../param';
import type { Format } from '../../picture';
import { formatRect } from '../../picture';
import type { ReadingData } from '../../readings/track-data';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';
import type { Pins } from './corners';
import { CORNERS, cornerParams, frameCorners, pinnedCorners } from './corners';
import { placing, shutterParams, shutterTimes } from './placing';

export interface CornerPinValues extends Pins {
  from: 'corners' | 'points' | 'plane';
  plane: ReadingData | null;
  first: ReadingData | null;
  second: ReadingData | null;
  third: ReadingData | null;
  fourth: ReadingData | null;
  unwrap: boolean;
  filter: ResampleFilter;
  shutter: number;
  shutterSamples: number;
}

/** Where the frame's corners are pinned at a time; null where a reading that it needs is not chosen. */
export function cornersAt(p: CornerPinValues, format: Format, time: number): Quad | null {
  if (p.from === 'corners') return pinnedCorners(p, format);
  if (p.from === 'plane') {
    const map = p.plane?.mapAt(time);
    return map ? (p.plane!.surface!.map(([x, y]) => mapPoint(map, x, y)) as unknown as Quad) : null;
  }
  const points = [p.first, p.second, p.third, p.fourth];
  return points.every((q) => q !== null) ? (points.map((q) => q.positionAt(time)) as unknown as Quad) : null;
}

/** From the frame to its four corners, and from where those were measured to where they are seen. */
function pinned(corners: Quad, p: CornerPinValues, format: Format): Mapping {
  const map = homographyBetween(frameCorners(format), corners);
  if (!map) throw new ShotError('its corners cross or lie on a line: move one so that they make a four-sided shape again');
  const by = p.from === 'plane' ? p.plane : p.from === 'points' ? p.first : null;
  const all = by?.across ? Mapping.by(map).then(by.across) : Mapping.by(map);
  return p.unwrap ? all.inverse : all;
}

function placements(p: CornerPinValues, io: StepIo<CornerPinValues>): Mapping[] {
  const { format } = io.inputs.main!;
  const looks =
    p.from === 'corners' && io.samples.length > 1
      ? io.samples.map((s) => pinnedCorners(s, format))
      : shutterTimes(io.frame, p).map((t) => cornersAt(p, format, t));
  return looks.filter((c) => c !== null).map((c) => pinned(c, p, format));
}

export const cornerPin = defineStep({
  type: 'cornerPin',
  title: 'Corner pin',
  family: 'Place & warp',
  summary: "Pins the frame's four corners to four points or to a plane, or unwraps what lies between them to a flat frame.",
  params: {
    from: choice('Pinned to', 'corners', [
      { value: 'corners', title: 'Corners on the stage' },
      { value: 'points', title: 'Four point readings' },
      { value: 'plane', title: "A plane's surface" },
    ]),
    plane: reading('Plane', 'plane', { group: 'Reading', when: { from: ['plane'] } }),
    first: reading('Top left point', 'point', { group: 'Reading', when: { from: ['points'] } }),
    second: reading('Top right point', 'point', { group: 'Reading', when: { from: ['points'] } }),
    third: reading('Bottom right point', 'point', { group: 'Reading', when: { from: ['points'] } }),
    fourth: reading('Bottom left point', 'point', { group: 'Reading', when: { from: ['points'] } }),
    ...cornerParams('corners'),
    unwrap: toggle('Unwrap', false, { animatable: false, help: 'The other way about: what lies between the four points fills the frame.' }),
    filter: choice('Filter', 'catmullRom', FILTERS),
    ...shutterParams,
  },
  feeds: [],
  samples: (p, frame) => (p.from === 'corners' ? shutterTimes(frame, p) : []),
  neutral: (p, io) =>
    p.from === 'corners'
      ? p.shutter === 0 && CORNERS.every((c) => p[c][0] === 0 && p[c][1] === 0)
      : cornersAt(p, io.inputs.main!.format, io.frame) === null,
  // Also what cannot be pinned is told here, before a pixel is asked for.
  placements: (p, io) => placements(p, io as never),
  cuts: (p) => p.unwrap,
  ...placing,
  bounds: (p, io) => (p.unwrap ? formatRect(io.inputs.main!.format) : placing.bounds(p, io)),
});
