import type { Draft } from 'immer';
import type * as yup from 'yup';
import type { Tap } from '../../document/tap';
import type { MediaFile, Shot } from '../../document/types';
import type { Reading } from '../types';

/** A tap of a reading besides the picture that it is measured in. */
export interface ReadingTap {
  readonly tap: Tap;
  readonly kind: 'readingMatte' | 'lesson';
  /** "matte", "example of frame 12" */
  readonly use: string;
}

/** Where a tap goes; null where there is nothing any more. */
export type MoveTap = <T extends Tap>(tap: T) => T | null;

/**
 * A kind of readings, as the document needs it. A new one is a file here, a line in `index.ts`, and what the workbench shows of it
 * in `ui/readings/kinds.tsx`.
 */
export interface ReadingKind<R extends Reading = Reading> {
  /** Checks a reading of a document or a file. */
  readonly schema: yup.Schema;
  readonly taps?: (reading: R) => readonly ReadingTap[];
  /** Moves those taps; one without a place goes, with what hangs on it. Changes the reading. */
  readonly moveTaps?: (reading: Draft<R>, to: MoveTap) => void;
  /** Forgets another reading that is deleted. Changes the reading. */
  readonly forget?: (reading: Draft<R>, id: string) => void;
  /** Whether what was measured rests on another reading. */
  readonly restsOn?: (reading: R, id: string) => boolean;
  /** What steps get of it at the scale that they work at; null where nothing is measured yet. */
  readonly data: (reading: R, shot: Pick<Shot, 'readings'>, scale: number) => unknown;
  /** Files that it names. */
  readonly files?: (reading: R) => readonly MediaFile[];
  /** It as a table: the names of its columns, then its rows. */
  readonly table: (reading: R) => readonly [string, ...(readonly (string | number)[])[]];
}

/** A number of a table: five decimals, without zeros at its end. */
export const decimal = (v: number): string => String(Number(v.toFixed(5)));

export const eachTap = <T extends Tap>(taps: readonly T[], to: MoveTap): T[] => taps.flatMap((tap) => to(tap) ?? []);
