import { blur } from './blur';
import { median } from './median';
import { mosaic } from './mosaic';
import { sharpen } from './sharpen';

export const filterSteps = [blur, sharpen, median, mosaic];
