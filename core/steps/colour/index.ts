import { clamp } from './clamp';
import { exposure } from './exposure';
import { grade } from './grade';
import { invert } from './invert';

export const colourSteps = [grade, exposure, clamp, invert];
