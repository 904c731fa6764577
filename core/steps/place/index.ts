import { conform } from './conform';
import { cornerPin } from './corner-pin';
import { crop } from './crop';
import { displace } from './displace';
import { follow } from './follow';
import { lens } from './lens';
import { stMap } from './st-map';
import { stabilise } from './stabilise';
import { transform } from './transform';

export const placeSteps = [transform, cornerPin, follow, stabilise, crop, conform, displace, lens, stMap];
