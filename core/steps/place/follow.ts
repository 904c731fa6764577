import { invert } from '../../geometry/fit';
import type { Homography } from '../../geometry/homography';
import { choice } from '../../param';
import type { Format } from '../../picture';
import type { ReadingData } from '../../readings/use';
import { followMap } from '../../readings/use';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';
import type { Pins } from './corners';
import { ON_READING, cornerMap, cornerParams, partParams, readingParams } from './corners';
import type { Warp } from './warp';
import { renderWarp, shutterParams, shutterTimes, warpBounds, warpFilter, warpNeeds, warpNeutral, warpMiddle } from './warp';

export interface FollowValues extends Pins {
  from: 'reading' | 'keys';
  reading: ReadingData | null;
  second: ReadingData | null;
  horizontal: boolean;
  vertical: boolean;
  turn: boolean;
  size: boolean;
  filter: 'cubic' | 'linear';
  shutter: number;
  shutterSamples: number;
}

/** From the picture as it is on the reference frame to where it goes at a time. */
export function followedMap(p: FollowValues, format: Format, time: number): Homography | null {
  if (p.from === 'keys') return cornerMap(p, format);
  return p.reading && followMap(p.reading, p.second, time, p);
}

function warpOf(p: FollowValues, io: StepIo<FollowValues>): Warp {
  const { format } = io.inputs.main!;
  const times = shutterTimes(io.frame, p);
  const maps =
    p.from === 'keys' && io.samples.length > 1 ? io.samples.map((s) => cornerMap(s, format)) : times.map((t) => followedMap(p, format, t));
  return { backward: maps.map((m) => m && invert(m)).filter((m) => m !== null), cubic: p.filter === 'cubic' };
}

export const follow = defineStep({
  type: 'follow',
  title: 'Follow',
  family: 'Place & warp',
  summary: 'Lets a picture go along with a reading, from where it stands on the reference frame.',
  params: {
    ...readingParams,
    ...partParams,
    filter: warpFilter,
    ...shutterParams,
    from: choice('Driven by', 'reading', ON_READING, { group: 'Corners' }),
    ...cornerParams('keys'),
  },
  feeds: [],
  samples: (p, frame) => (p.from === 'keys' ? shutterTimes(frame, p) : []),
  neutral: (p, io) => warpNeutral(warpOf(p as FollowValues, io as never)),
  bounds: (p, io) => warpBounds(warpOf(p as FollowValues, io as never), io),
  toSource: (p, io) => warpMiddle(warpOf(p as FollowValues, io as never)),
  needs: (p, want, io) => warpNeeds(warpOf(p as FollowValues, io as never), want, io),
  render: (ctx, p, out) => renderWarp(ctx as never, warpOf(p as FollowValues, ctx as never), out),
});
