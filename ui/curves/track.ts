import type { Key } from '@/core/document/types';

/** One number of a keyed parameter over time. */
export interface Track {
  id: string;
  param: string;
  title: string;
  /** Which number of a list; 0 of a lone one. */
  part: number;
  keys: readonly Key[];
  colour: string;
}

/** What is seen of the plane of frames and values. */
export interface Viewport {
  first: number;
  last: number;
  low: number;
  high: number;
}
