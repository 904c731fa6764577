export type { Curve } from './curves';
export { CURVE_CHANNELS, LEAST_APART, MOST_POINTS, STRAIGHT, curveThrough, isStraight } from './curves';
