export { hideMark } from './hide-mark';
export { keyScreen, plateBefore } from './key-screen';
export type { RemoveBy, RemoveOptions, Removed } from './remove-this';
export { removeThis } from './remove-this';
export { matchNow, setMatch } from './seating';
