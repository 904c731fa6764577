import { colourFringe, filmResponse, vignette } from './ends';
import { flare } from './flare';
import { glow } from './glow';
import { heatShimmer } from './heat-shimmer';
import { lensDirt } from './lens-dirt';
import { lightWrap } from './light-wrap';
import { rays } from './rays';
import { shadow } from './shadow';

export const lightSteps = [lightWrap, shadow, glow, rays, flare, lensDirt, heatShimmer, vignette, colourFringe, filmResponse];
