export type { Keying } from './edit';
export {
  KEYINGS,
  boxPoints,
  cornersToPoints,
  ellipsePoints,
  frozenShape,
  movePoints,
  shapeDefaults,
  thawedShape,
  toggleSmooth,
  withFollows,
  withKeyAt,
  withKeyMoved,
  withPointOn,
  withPointsAt,
  withSnapped,
  withoutKeyAt,
  withoutPoints,
} from './edit';
export { freehandPoints, outlinePoints } from './freehand';
export { lookOf } from './look';
export { OUTLINE_SIZE, cubicAt, cubicsOf, flatten } from './outline';
export type { Posed } from './pose';
export { carryOf, mapPoints, pointsAt, uncarryOf } from './pose';
export type { Falloff, Operation, Shape, ShapeKey, Spline } from './shapes';
export { DOUBTFUL, FALLOFFS, OPERATIONS, POINT_SIZE, SPLINES, pointCount } from './shapes';
export { snapBetween } from './snap';
export type { SvgOutline } from './svg';
export { readSvg, writeSvg } from './svg';
