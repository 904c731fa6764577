import type { ResampleFilter } from '../../filters/resample';
import { FILTERS } from '../../filters/resample';
import type { Homography } from '../../geometry/homography';
import { choice, number } from '../../param';
import type { Format } from '../../picture';
import { steadied } from '../../readings/steady';
import type { SteadySettings } from '../../readings/steady';
import type { ReadingData } from '../../readings/track-data';
import type { Mapping } from '../../geometry/mapping';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';
import type { Pins } from './corners';
import { ON_READING, acrossLens, cornerMap, cornerParams, partParams, readingParams } from './corners';
import { placing } from './placing';

export interface StabiliseValues extends Pins {
  from: 'reading' | 'keys';
  reading: ReadingData | null;
  second: ReadingData | null;
  mode: SteadySettings['mode'];
  window: number;
  horizontal: boolean;
  vertical: boolean;
  turn: boolean;
  size: boolean;
  fill: SteadySettings['fill'];
  filter: ResampleFilter;
}

export const steadySettings = (p: Omit<StabiliseValues, keyof Pins | 'reading' | 'second' | 'from' | 'filter'>): SteadySettings => ({
  mode: p.mode,
  window: p.window,
  parts: { horizontal: p.horizontal, vertical: p.vertical, turn: p.turn, size: p.size },
  fill: p.fill,
});

/** From the frame as it was to the one that is shown. */
export function stabiliseMap(p: StabiliseValues, format: Format, frame: number): Homography | null {
  if (p.from === 'keys') return cornerMap(p, format);
  return p.reading && steadied(p.reading, p.second, frame, steadySettings(p), format);
}

function placements(p: StabiliseValues, io: StepIo<unknown>): Mapping[] {
  const map = stabiliseMap(p, io.inputs.main!.format, io.frame);
  return map ? [acrossLens(map, p.from === 'reading' ? p.reading : null, p.fill !== 'none')] : [];
}

export const stabilise = defineStep({
  type: 'stabilise',
  title: 'Stabilise',
  family: 'Place & warp',
  summary: 'Takes the shake out of a plate by a reading: all of it, or what is quick; and fills the frame.',
  params: {
    ...readingParams,
    mode: choice(
      'Motion',
      'lock',
      [
        { value: 'lock', title: 'Lock', help: 'All motion is removed.' },
        { value: 'smooth', title: 'Smooth', help: 'What is slow is kept.' },
      ],
      { when: { from: ['reading'] } },
    ),
    window: number('Window', 24, [3, 96], {
      unit: 'frames',
      min: 1,
      max: 1000,
      decimals: 0,
      animatable: false,
      when: { from: ['reading'] },
      help: 'Of Smooth, and of a slow scale.',
    }),
    ...partParams,
    fill: choice('Fill frame', 'constant', [
      { value: 'none', title: 'No: edges show' },
      { value: 'constant', title: 'By one scale', help: 'The least that covers every frame.' },
      { value: 'varying', title: 'By a slow scale', help: 'Changes slowly, and covers each frame.' },
    ]),
    filter: choice('Filter', 'catmullRom', FILTERS),
    from: choice('Driven by', 'reading', ON_READING, { group: 'Corners' }),
    ...cornerParams('keys'),
  },
  feeds: [],
  neutral: (p, io) => placements(p, io).every((m) => m.isIdentity),
  placements,
  ...placing,
});
