import { formula } from './formula';
import { pickLayer } from './pick-layer';
import { premultiply, unpremultiply } from './premultiply';
import { routeChannels } from './route-channels';

export const channelSteps = [pickLayer, routeChannels, premultiply, unpremultiply, formula];
