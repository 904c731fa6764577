import { conform } from './conform';
import { crop } from './crop';
import { transform } from './transform';

export const placeSteps = [transform, crop, conform];
