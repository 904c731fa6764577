import { invert } from '../../geometry/fit';
import type { Homography } from '../../geometry/homography';
import { choice, number } from '../../param';
import type { Format } from '../../picture';
import { formatRect } from '../../picture';
import { steadied } from '../../readings/steady';
import type { SteadySettings } from '../../readings/steady';
import type { ReadingData } from '../../readings/use';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';
import type { Pins } from './corners';
import { ON_READING, cornerMap, cornerParams, partParams, readingParams } from './corners';
import type { Warp } from './warp';
import { renderWarp, warpBounds, warpFilter, warpNeeds, warpNeutral, warpMiddle } from './warp';

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
  filter: 'cubic' | 'linear';
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

function warpOf(p: StabiliseValues, io: StepIo<unknown>): Warp {
  const map = stabiliseMap(p, io.inputs.main!.format, io.frame);
  const back = map && invert(map);
  return { backward: back ? [back] : [], cubic: p.filter === 'cubic', hold: p.fill !== 'none' };
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
    filter: warpFilter,
    from: choice('Driven by', 'reading', ON_READING, { group: 'Corners' }),
    ...cornerParams('keys'),
  },
  feeds: [],
  neutral: (p, io) => warpNeutral(warpOf(p, io)),
  bounds: (p, io) => (p.fill === 'none' ? warpBounds(warpOf(p, io), io) : formatRect(io.inputs.main!.format)),
  toSource: (p, io) => warpMiddle(warpOf(p, io)),
  needs: (p, want, io) => warpNeeds(warpOf(p, io), want, io),
  render: (ctx, p, out) => renderWarp(ctx, warpOf(p, ctx), out),
});
