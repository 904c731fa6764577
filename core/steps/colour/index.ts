import { clamp } from './clamp';
import { colourSpace } from './colour-space';
import { curves } from './curves';
import { exposure } from './exposure';
import { grade } from './grade';
import { hueSaturation } from './hue-saturation';
import { invert } from './invert';
import { levels } from './levels';
import { lut } from './lut';
import { matchColour } from './match-colour';

export const colourSteps = [grade, exposure, levels, curves, hueSaturation, matchColour, lut, colourSpace, clamp, invert];
