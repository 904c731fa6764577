// Inner loops over float32 planes. Every pointer is a byte offset into the module's memory and every plane is padded to
// a multiple of 16 bytes by the pool that owns it, so that loops may run four floats at a time past the last one.
export * from './arith';
export * from './colour';
export * from './join';
export * from './key';
export * from './convolve';
export * from './resample';
export * from './morphology';
export * from './distance';
export * from './convert';
export * from './statistics';
export * from './exr';
export * from './inflate';
export * from './png';
export * from './lut';
export * from './matting';
export * from './fill';
export * from './track';
export * from './noise';
export * from './shape';
export * from './median';
export * from './sample';
export * from './grain';
export * from './lattice';
export * from './passes';
export * from './bokeh';
export { flowPatches, flowEnlarge, flowSlopes, flowSpread } from './flow';
export * from './refine';
export * from './motion';
export * from './shade';
export * from './raster';
export {
  adamStep,
  conv3,
  convBiasGradient,
  convWeightGradient,
  layGradient,
  layMap,
  leakGradient,
  poolGradient,
  poolMap,
  sumSquares,
  turnWeights,
  unshuffle,
  whitenRow,
} from './learn';
export * from './learn-blend';
