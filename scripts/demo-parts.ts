import type { Lane, Param, Shot, Step, Tap } from '@/core/document/types';
import type { Reading } from '@/core/readings/types';
import { newShot } from '@/store/make';

/** A shot file as it is written: sources name their files, what headers say is left out. */
export type Written = Omit<Shot, 'sources'> & { sources: { id: string; name: string; path: string; colourSpace: string }[] };

interface Part {
  params?: Record<string, Param>;
  feeds?: Record<string, Tap>;
  mask?: Step['mask'];
}

export const step = (id: string, type: string, name: string, { params = {}, feeds = {}, mask }: Part = {}): Step => ({
  id,
  type,
  name,
  on: true,
  params,
  feeds,
  mix: 1,
  ...(mask && { mask }),
});

export const lane = (id: string, name: string, start: Lane['start'], steps: Step[]): Lane => ({
  id,
  name,
  start,
  steps,
  muted: false,
  collapsed: false,
});

/** An empty shot of the demo film's format. */
export const film = (id: string, name: string): Written => ({
  ...newShot(name),
  id,
  format: { width: 960, height: 540, pixelAspect: 1 },
  sources: [],
});

export const tenth = (v: number): number => Math.round(v * 10) / 10;
/** Eight digits of a number, and tenths of pixels for features. */
export const lean = (readings: readonly Reading[]): Reading[] =>
  JSON.parse(
    JSON.stringify(readings, (key, v: unknown) =>
      key === 'used' || key === 'rejected'
        ? (v as number[]).map(tenth)
        : typeof v === 'number' && !Number.isInteger(v)
          ? Number(v.toPrecision(8))
          : v,
    ),
  ) as Reading[];
