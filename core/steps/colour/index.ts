import { clamp } from './clamp';
import { colourSpace } from './colour-space';
import { exposure } from './exposure';
import { grade } from './grade';
import { invert } from './invert';
import { levels } from './levels';
import { lut } from './lut';

export const colourSteps = [grade, exposure, levels, lut, colourSpace, clamp, invert];
