export { behindOf, looksBehind } from './behind';
export { handleAt, valueAt } from './curve';
export { name, text } from './fields';
export { laneOf, lanesBehind, soloShot, sourceShot, tapIndex, usersOf } from './graph';
export { easeKeys, moveKeys, partsOf, repeatedKeys, replacedBy, smoothKeys, thinKeys } from './keys';
export { LIMITS, fitName } from './limits';
export type { Asset } from './media';
export {
  SAID,
  attributeOf,
  contentOf,
  filesOf,
  filesOfShot,
  gapsIn,
  isPicture,
  kindTitle,
  mediaFrameAt,
  mediaOf,
  outsideShot,
  ownRateOf,
  spanOf,
  usedFrames,
  wholeFrames,
} from './media';
export { FORM, formOf, isNewer, migrate, migrateSteps } from './migrate';
export {
  admit,
  findStep,
  followsNothing,
  isKeyed,
  isLink,
  lastKnown,
  paramsOf,
  resolveParam,
  withKey,
  withValue,
  withoutKey,
} from './params';
export { checkReferences } from './references';
export { readNewer, repairShot } from './repair';
export { checkShot, parseShot, stepSchema, zoneSchema } from './schema';
export { linksInto, moveTaps, tapPlaces, tapsAfter, tellPlace, unfollowed } from './taps';
export { parseJson, parseShotText } from './text';
export type {
  AlphaKind,
  ColourSpace,
  Ease,
  Key,
  Lane,
  LaneStart,
  Mask,
  MediaFile,
  MediaFrame,
  Missing,
  Note,
  NoteColour,
  Param,
  Shot,
  Source,
  Step,
  Structured,
  Tap,
  Value,
  Zone,
} from './types';
export { NOTE_COLOURS, SCHEMA } from './types';
export { applies, stepValues } from './values';
export { limitedOf, spanOfZone, stepsOfZone, zoneOfStep, zoneTrouble } from './zones';
