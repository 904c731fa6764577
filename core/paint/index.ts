export type { LaidStroke } from './pose';
export { growthAt, poseStrokes } from './pose';
export type { Brush, Stroke } from './strokes';
export { BRUSHES, copies, neededPoints, strokesOf } from './strokes';
