import { depthOfField } from './depth-of-field';
import { depthRange } from './depth-range';
import { edgesFromData } from './edges-from-data';
import { normalsFromDepth, occlusionFromDepth } from './from-depth';
import { haze } from './haze';
import { idMatte } from './id-matte';
import { joinDepth } from './join-depth';
import { lightMix } from './light-mix';
import { positionMatte } from './position-matte';
import { rebuildBeauty } from './rebuild-beauty';
import { relight } from './relight';
import { uvTexture } from './uv-texture';
import { vectorBlur } from './vector-blur';

export const passSteps = [
  rebuildBeauty,
  lightMix,
  relight,
  depthRange,
  haze,
  depthOfField,
  vectorBlur,
  idMatte,
  positionMatte,
  uvTexture,
  joinDepth,
  normalsFromDepth,
  occlusionFromDepth,
  edgesFromData,
];
