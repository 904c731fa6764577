import { choke } from './choke';
import { combineMattes } from './combine-mattes';
import { despill } from './despill';
import { differenceKey } from './difference-key';
import { edgeDetail } from './edge-detail';
import { extendColour } from './extend-colour';
import { learn } from './learn';
import { lumaKey } from './luma-key';
import { rangeKey } from './range-key';
import { screenKey } from './screen-key';
import { screenPlate } from './screen-plate';
import { softenMatte } from './soften-matte';
import { steadyMatte } from './steady-matte';
import { tidyMatte } from './tidy-matte';

export const matteSteps = [
  screenKey,
  rangeKey,
  lumaKey,
  differenceKey,
  screenPlate,
  despill,
  choke,
  softenMatte,
  tidyMatte,
  steadyMatte,
  combineMattes,
  edgeDetail,
  extendColour,
  learn,
];
