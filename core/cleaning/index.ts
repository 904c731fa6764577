export type { LightFit } from './fit-light';
export type { SeenPlanes } from './ring-light';
export { lightOfRing, planesOf, ringShots } from './ring-light';
