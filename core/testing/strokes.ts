import type { Stroke } from '../paint/strokes';

/** A hard stroke of full flow, as it is changed. */
export const testStroke = (change: Partial<Stroke> = {}): Stroke => ({
  tool: 'paint',
  first: 1,
  last: 10,
  size: 8,
  hardness: 1,
  flow: 1,
  colour: [1, 0.5, 0.25],
  points: [10, 10, 30, 10],
  ...change,
});
