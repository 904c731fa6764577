import { blur } from './blur';

export const filterSteps = [blur];
