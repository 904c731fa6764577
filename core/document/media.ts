import { ShotError } from '../errors';
import { kindOf } from '../readings/kinds';
import type { LessonReading } from '../readings/types';
import type { MediaFile, MediaFrame, Shot, Source, SourceKind } from './types';

/** The numbers of a source's first and last media frame. Throws ShotError where it has none. */
export function wholeFrames(source: Source): { first: number; last: number } {
  const frames = source.frames ?? [];
  const movie = source.kind === 'movie';
  const first = movie ? 1 : frames[0]?.frame;
  const last = movie ? source.length : frames[frames.length - 1]?.frame;
  if (first === undefined || last === undefined) {
    throw new ShotError(`the source "${source.name}" has no frames`, { source: source.name });
  }
  return { first, last };
}

/** Of those the ones that are used. Throws ShotError where it has none. */
export function usedFrames(source: Source): { first: number; last: number } {
  const { first, last } = wholeFrames(source);
  return { first: Math.max(first, source.trim?.first ?? first), last: Math.min(last, source.trim?.last ?? last) };
}

/** As many as are told of. */
const MOST_GAPS = 10_000;

/** The numbers from the first to the last that no frame of a sequence has. */
export function gapsIn(frames: readonly { frame: number }[], first: number, last: number): number[] {
  const has = new Set(frames.map((f) => f.frame));
  const gaps: number[] = [];
  for (let f = first; f <= last && gaps.length < MOST_GAPS; f++) if (!has.has(f)) gaps.push(f);
  return gaps;
}

/** Whether a source is a picture: lanes start from those alone. */
export const isPicture = (source: Pick<Source, 'kind'>): boolean => source.kind !== 'lut' && source.kind !== 'model';

/** What a source that is no picture is called. */
export const kindTitle = (source: Pick<Source, 'kind'>): string => (source.kind === 'model' ? 'a model' : 'a colour table');

/** Names under which headers of several formats say the same. */
export const SAID = { rate: 'frames a second', table: 'table', model: 'model', size: 'size' } as const;

/** What a source's header says under a name. */
export const attributeOf = (source: Source, name: string): string | undefined => source.attributes?.find(([n]) => n === name)?.[1];

/** Frames a second that a movie's header says. */
export function ownRateOf(source: Source): number | undefined {
  const rate = Number(attributeOf(source, SAID.rate));
  return rate > 0 ? rate : undefined;
}

/** What a step needs that is no picture: one file. A colour table or a model among the sources, or what a lesson has learnt. */
export type Asset = Pick<Source, 'id' | 'name' | 'frames' | 'path'> & { readonly kind: SourceKind | 'weights' };

/** What a lesson has learnt as an asset; null where that is nothing. */
export const assetOfLesson = ({ id, name, weights }: LessonReading): Asset | null =>
  weights && { id, name, kind: 'weights', frames: [{ ...weights, frame: 1 }] };

/** Stands for a still's, an asset's or a movie's contents: its hash, or where it lies. */
export const contentOf = (source: Pick<Source, 'id' | 'frames' | 'path'>): string => source.frames?.[0]?.hash ?? source.path ?? source.id;

/** The file that holds a frame of a source. */
export const mediaOf = (source: Pick<Source, 'frames'> & { kind: Asset['kind'] }, mediaFrame: number): MediaFrame | undefined =>
  source.kind === 'movie' ? source.frames?.[0] : source.frames?.find((f) => f.frame === mediaFrame);

/** Every file of a source, those of further layers included. */
export const filesOf = (source: Source): MediaFile[] => (source.frames ?? []).flatMap((f) => [f, ...(f.parts ?? [])]);

/** Every file of a shot: of its sources, and what its lessons have learnt. */
export const filesOfShot = (shot: Shot): MediaFile[] => [
  ...shot.sources.flatMap(filesOf),
  ...shot.readings.flatMap((r) => kindOf(r).files?.(r) ?? []),
];

/** The frames of the shot at which a source's own frames stand; a still without a length has one. */
export function spanOf(source: Source, shotRate: number): { first: number; last: number } {
  if (source.kind === 'still' || !isPicture(source)) return { first: source.start, last: source.start + (source.duration ?? 1) - 1 };
  const { first, last } = usedFrames(source);
  const count = Math.ceil(((last - first + 1) * shotRate) / (source.rate ?? shotRate));
  return { first: source.start, last: source.start + count - 1 };
}

/** Whether all frames of a source stand before or after the shot's, so that only its end frame is seen; null where some are within. */
export function outsideShot(source: Source, shot: Pick<Shot, 'range' | 'frameRate'>): 'before' | 'after' | null {
  if (!isPicture(source) || (source.kind === 'still' && source.duration === undefined)) return null;
  const { first, last } = spanOf(source, shot.frameRate);
  return last < shot.range.first ? 'before' : first > shot.range.last ? 'after' : null;
}

/**
 * The media frame of a source that stands at a frame of the shot, or null for black. `shotRate` is the shot's frames a second.
 * Throws ShotError where it is missing.
 */
export function mediaFrameAt(source: Source, frame: number, shotRate: number): number | null {
  const at = frame - source.start;
  if (!isPicture(source)) throw new ShotError(`"${source.name}" is ${kindTitle(source)}, not a picture`, { source: source.name });
  if (source.kind === 'still') {
    const gone = source.duration !== undefined && (at < 0 || at >= source.duration);
    return gone ? null : (source.frames?.[0]?.frame ?? 1);
  }
  const { first, last } = usedFrames(source);
  // The small number keeps times that are whole but for rounding from falling a frame short.
  const wanted = first + (source.rate === undefined ? at : Math.floor((at * source.rate) / shotRate + 1e-6));
  // Outside its own range a source holds its end frames: handles are worth more than black.
  if (wanted < first || wanted > last) return wanted < first ? first : last;
  const frames = source.frames ?? [];
  if (source.kind === 'movie' || frames.some((f) => f.frame === wanted)) return wanted;
  if (source.missing === 'black') return null;
  const before = frames.filter((f) => f.frame < wanted).pop() ?? frames[0]!;
  if (source.missing === 'hold') return before.frame;
  throw new ShotError(
    `"${source.name}" has no frame ${wanted} (${before.name} is the last before it). ` +
      `Bring the frame in, or set the source's missing frames to hold or black.`,
    { source: source.name },
  );
}
