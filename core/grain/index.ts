export type { GrainLook } from './measure';
export { measureGrain } from './measure';
export type { ChannelGrain } from './model';
export { sigmaAt, sizeOf } from './model';
