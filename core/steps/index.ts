import type { StepDefinition } from '../step';
import { channelSteps } from './channels';
import { cleanSteps, grainSteps } from './clean';
import { colourSteps } from './colour';
import { filterSteps } from './filter';
import { generateSteps } from './generate';
import { joinSteps } from './join';
import { lightSteps } from './light';
import { matteSteps } from './matte';
import { passSteps } from './passes';
import { placeSteps } from './place';
import { shapeSteps } from './shape';
import { spaceSteps } from './space';
import { timeSteps } from './time';
import { zone } from './zone';

/** Every step there is, by type, in the order of the add-step list; `internal` ones are not in that. */
export const STEPS: ReadonlyMap<string, StepDefinition> = new Map(
  [
    ...colourSteps,
    ...channelSteps,
    ...matteSteps,
    ...shapeSteps,
    ...cleanSteps,
    ...filterSteps,
    ...grainSteps,
    ...placeSteps,
    ...generateSteps,
    ...timeSteps,
    ...passSteps,
    ...lightSteps,
    ...joinSteps,
    ...spaceSteps,
    zone,
  ].map((s) => [s.type, s]),
);

export { FORMULA_NAMES } from './channels/formula';
export { colourOfLayer } from './channels/pick-layer';
export { focusOptions } from './passes/depth-of-field';
export type { CornerPinValues } from './place/corner-pin';
export { cornersAt } from './place/corner-pin';
export type { Pins } from './place/corners';
export { CORNERS, frameCorners, pinnedCorners } from './place/corners';
export type { FollowValues } from './place/follow';
export { followedMap } from './place/follow';
export type { StabiliseValues } from './place/stabilise';
export { stabiliseMap, steadySettings } from './place/stabilise';
export type { Placement } from './place/transform';
export { placementMatrix } from './place/transform';
export { sourceTime, timesOf } from './time/retime';
