import { join } from './join';

export const joinSteps = [join];
