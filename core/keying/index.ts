export type { FoundScreen, ScreenSample } from './find-screen';
export { findScreen } from './find-screen';
export type { KeyedPicture, MatteFigures } from './matte-report';
export { matteFigures } from './matte-report';
export type { ColourSample } from './samples';
export { sampleBox, samplesOf } from './samples';
