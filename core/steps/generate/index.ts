import { checker } from './checker';
import { noise } from './noise';
import { ramp } from './ramp';
import { solid } from './solid';

export const generateSteps = [solid, ramp, noise, checker];
