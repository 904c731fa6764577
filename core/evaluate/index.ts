export type { CommonsLayout } from './commons';
export { Commons, layoutOf } from './commons';
export { abandon, compute, prepare } from './compute';
export type { Plan, PlanNode, Remark, Request, SourceNode } from './plan';
export { makePlan } from './plan';
export type { CacheFigures } from './results';
export { ResultCache } from './results';
export { stepSpace } from './step-space';
