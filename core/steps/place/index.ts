import { conform } from './conform';
import { cornerPin } from './corner-pin';
import { crop } from './crop';
import { transform } from './transform';

export const placeSteps = [transform, cornerPin, crop, conform];
