export { copyShared } from './copy';
export { FILTERS } from './resample';
