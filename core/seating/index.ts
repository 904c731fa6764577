export type { Figures, Triple } from './figures';
export { figuresOf, overFrames } from './figures';
export type { Around } from './look';
export { lookAround, lookAtElement } from './look';
export type { Match, Now, Row } from './match';
export { ROWS, differenceOf, matchOf, rowOf } from './match';
