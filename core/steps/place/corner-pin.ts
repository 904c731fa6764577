import { ShotError } from '../../errors';
import type { Homography, Quad } from '../../geometry/homography';
import { homographyBetween, mapPoint } from '../../geometry/homography';
import { choice, reading, toggle } from '../../param';
import type { Format } from '../../picture';
import { formatRect } from '../../picture';
import type { ReadingData } from '../../readings/use';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';
import type { Pins } from './corners';
import { CORNERS, cornerParams, frameCorners, pinnedCorners } from './corners';
import type { Warp } from './warp';
import { renderWarp, shutterParams, shutterTimes, warpBounds, warpFilter, warpNeeds, warpMiddle } from './warp';

export interface CornerPinValues extends Pins {
  from: 'corners' | 'points' | 'plane';
  plane: ReadingData | null;
  first: ReadingData | null;
  second: ReadingData | null;
  third: ReadingData | null;
  fourth: ReadingData | null;
  unwrap: boolean;
  filter: 'cubic' | 'linear';
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

/** From positions of the step's picture to those of the picture it is given. */
function backward(corners: Quad, unwrap: boolean, format: Format): Homography {
  const frame = frameCorners(format);
  const map = unwrap ? homographyBetween(frame, corners) : homographyBetween(corners, frame);
  if (!map) throw new ShotError('its corners cross or lie on a line: move one so that they make a four-sided shape again');
  return map;
}

function warpOf(p: CornerPinValues, io: StepIo<CornerPinValues>): Warp {
  const { format } = io.inputs.main!;
  const looks =
    p.from === 'corners' && io.samples.length > 1
      ? io.samples.map((s) => pinnedCorners(s, format))
      : shutterTimes(io.frame, p).map((t) => cornersAt(p, format, t));
  return { backward: looks.filter((c) => c !== null).map((c) => backward(c, p.unwrap, format)), cubic: p.filter === 'cubic' };
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
    filter: warpFilter,
    ...shutterParams,
  },
  feeds: [],
  samples: (p, frame) => (p.from === 'corners' ? shutterTimes(frame, p) : []),
  neutral: (p, io) =>
    p.from === 'corners'
      ? p.shutter === 0 && CORNERS.every((c) => p[c][0] === 0 && p[c][1] === 0)
      : cornersAt(p, io.inputs.main!.format, io.frame) === null,
  // Also what cannot be pinned is told here, before a pixel is asked for.
  bounds: (p, io) => {
    const warp = warpOf(p, io as never);
    return p.unwrap ? formatRect(io.inputs.main!.format) : warpBounds(warp, io);
  },
  toSource: (p, io) => warpMiddle(warpOf(p, io as never)),
  needs: (p, want, io) => warpNeeds(warpOf(p, io as never), want, io),
  render: (ctx, p, out) => renderWarp(ctx as never, warpOf(p, ctx as never), out),
});
