export type { Affine3 } from './affine';
export { inverseA3, pointA3 } from './affine';
export type { Cloud } from './cloud';
export type { Model } from './model';
export { nodesAt } from './model';
export { readObjModel } from './obj-model';
export { backTo } from './render';
export type { View } from './screen';
export { seenBy } from './screen';
