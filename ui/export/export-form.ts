import * as yup from 'yup';
import type { ColourSpace, Shot } from '@/core/document';
import { makePlan } from '@/core/evaluate';
import type { OutputContainer, OutputSettings } from '@/core/formats';
import { CONTAINERS, DEFAULT_OUTPUT, OUTPUT_CONTAINERS, isLight } from '@/core/formats';
import type { Pass } from '@/core/layers';
import { passesOf } from '@/core/layers';
import { STEPS } from '@/core/steps';
import type { MovieKind, MovieQuality } from '@/engine/browser';
import { MOVIES } from '@/engine/browser';
import type { ExportJob } from '@/engine';

/** What is written: a container and its bits, as "png 16", or a movie's kind. */
export interface ExportForm {
  lane: string;
  kind: string;
  colourSpace: ColourSpace;
  alpha: boolean;
  compression: OutputSettings['compression'];
  quality: number;
  movieQuality: MovieQuality;
  notes: boolean;
  /** Names of passes that are left out. */
  without: string[];
  name: string;
  first: number;
  last: number;
  step: number;
  start: number;
  scale: number;
}

const whole = () => yup.number().typeError('a whole number').integer('a whole number').required('a whole number');

export const exportSchema = yup.object({
  name: yup
    .string()
    .trim()
    .required('a name is needed')
    .matches(/^[^\\/:*?"<>|]+$/, 'the name has a sign that files cannot have')
    .when('kind', {
      is: (k: string) => !(k in MOVIES),
      then: (s) => s.matches(/#/, 'the name needs #### where the frame number goes'),
    }),
  first: whole(),
  last: whole().min(yup.ref('first'), 'the range ends before it starts'),
  step: whole().min(1, 'every frame or every so many: 1 or more'),
  start: whole().min(0, 'numbers start at 0 or later'),
  quality: whole().min(1, 'from 1 to 100').max(100, 'from 1 to 100'),
});

/** Every kind of file, as the choice shows it. */
export const KINDS: readonly (readonly [string, string])[] = [
  ...OUTPUT_CONTAINERS.flatMap((c) =>
    CONTAINERS[c].bits.map((b): [string, string] => [
      `${c} ${b}`,
      `${CONTAINERS[c].title}${CONTAINERS[c].bits.length > 1 ? `, ${bitsText(c, b)}` : ''}`,
    ]),
  ),
  ...Object.entries(MOVIES).map(([k, m]): [string, string] => [k, m.title]),
];

function bitsText(container: OutputContainer, bits: number): string {
  if (bits === 32) return 'float';
  return container === 'exr' ? 'half float' : `${bits} bit`;
}

export const movieOf = (kind: string): MovieKind | null => (kind in MOVIES ? (kind as MovieKind) : null);

/** Container and bits of a kind that is no movie. */
export function containerOf(kind: string): { container: OutputContainer; bits: number } {
  const [container, bits] = kind.split(' ');
  return { container: container as OutputContainer, bits: Number(bits) };
}

export const endingOf = (kind: string): string => {
  const movie = movieOf(kind);
  return movie ? MOVIES[movie].ending : containerOf(kind).container;
};

/** The colour space that a kind usually holds. */
export function usualSpace(kind: string): ColourSpace {
  if (movieOf(kind)) return 'Rec.709';
  const out = containerOf(kind);
  return isLight(out) ? 'linear' : CONTAINERS[out.container].space;
}

/** The passes that a lane delivers at its end. */
export function passesOfLane(shot: Shot, lane: string, frame: number): Pass[] {
  try {
    return passesOf(makePlan(shot, { tap: { lane }, frame, channels: ['A'], scale: 1 }, STEPS).root.info.channels);
  } catch {
    return [];
  }
}

export function jobOf(f: ExportForm, passes: readonly Pass[]): ExportJob {
  const [first, last, step, start] = [f.first, f.last, f.step, f.start].map(Number) as [number, number, number, number];
  const movie = movieOf(f.kind);
  const settings: OutputSettings = {
    ...DEFAULT_OUTPUT,
    ...(movie ? { container: 'yuv', bits: 8 } : containerOf(f.kind)),
    colourSpace: movie ? 'Rec.709' : f.colourSpace,
    alpha: f.alpha,
    compression: f.compression,
    quality: Number(f.quality),
    notes: f.notes,
    ...(f.without.length > 0 && { layers: passes.map((p) => p.name).filter((n) => !f.without.includes(n)) }),
  };
  return { lane: f.lane, first, last, step, ...(start !== first && { start }), scale: Number(f.scale), name: f.name.trim(), settings };
}
