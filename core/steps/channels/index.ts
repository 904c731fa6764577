import { pickLayer } from './pick-layer';
import { premultiply, unpremultiply } from './premultiply';

export const channelSteps = [pickLayer, premultiply, unpremultiply];
