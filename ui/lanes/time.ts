import type { Shot } from '@/core/document';

/** Width of the time column, as global.css has it. */
export const COLUMN = 352;

/** Frames to per cent of the strip's width; a frame stands in the middle of its share. */
export const left = ({ range: { first, last } }: Pick<Shot, 'range'>, frame: number): string => {
  return `${(100 * (frame - first + 0.5)) / (last - first + 1)}%`;
};
