import type { ResampleFilter } from '../../filters/resample';
import { FILTERS } from '../../filters/resample';
import type { Homography } from '../../geometry/homography';
import { choice } from '../../param';
import type { Format } from '../../picture';
import type { Mapping } from '../../geometry/mapping';
import type { ReadingData } from '../../readings/track-data';
import { followMap } from '../../readings/track-data';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';
import type { Pins } from './corners';
import { ON_READING, acrossLens, cornerMap, cornerParams, partParams, readingParams } from './corners';
import { placing, shutterParams, shutterTimes } from './placing';

export interface FollowValues extends Pins {
  from: 'reading' | 'keys';
  reading: ReadingData | null;
  second: ReadingData | null;
  horizontal: boolean;
  vertical: boolean;
  turn: boolean;
  size: boolean;
  filter: ResampleFilter;
  shutter: number;
  shutterSamples: number;
}

/** From the picture as it is on the reference frame to where it goes at a time. */
export function followedMap(p: FollowValues, format: Format, time: number): Homography | null {
  if (p.from === 'keys') return cornerMap(p, format);
  return p.reading && followMap(p.reading, p.second, time, p);
}

function placements(p: FollowValues, io: StepIo<FollowValues>): Mapping[] {
  const { format } = io.inputs.main!;
  const times = shutterTimes(io.frame, p);
  const maps =
    p.from === 'keys' && io.samples.length > 1 ? io.samples.map((s) => cornerMap(s, format)) : times.map((t) => followedMap(p, format, t));
  return maps.filter((m) => m !== null).map((m) => acrossLens(m, p.from === 'reading' ? p.reading : null));
}

export const follow = defineStep({
  type: 'follow',
  title: 'Follow',
  family: 'Place & warp',
  summary: 'Lets a picture go along with a reading, from where it stands on the reference frame.',
  params: {
    ...readingParams,
    ...partParams,
    filter: choice('Filter', 'catmullRom', FILTERS),
    ...shutterParams,
    from: choice('Driven by', 'reading', ON_READING, { group: 'Corners' }),
    ...cornerParams('keys'),
  },
  feeds: [],
  samples: (p, frame) => (p.from === 'keys' ? shutterTimes(frame, p) : []),
  neutral: (p, io) => placements(p as FollowValues, io as never).every((m) => m.isIdentity),
  placements: (p, io) => placements(p as FollowValues, io as never),
  ...placing,
});
