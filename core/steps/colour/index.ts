import { clamp } from './clamp';
import { colourSpace } from './colour-space';
import { exposure } from './exposure';
import { grade } from './grade';
import { invert } from './invert';
import { lut } from './lut';

export const colourSteps = [grade, exposure, lut, colourSpace, clamp, invert];
