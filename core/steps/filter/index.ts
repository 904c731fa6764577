import { directionalBlur, radialBlur, zoomBlur } from './along-a-way';
import { blur } from './blur';
import { defocus } from './defocus';
import { edgeMotionBlur } from './edge-motion-blur';
import { median } from './median';
import { mosaic } from './mosaic';
import { sharpen } from './sharpen';

export const filterSteps = [blur, defocus, directionalBlur, radialBlur, zoomBlur, edgeMotionBlur, sharpen, median, mosaic];
