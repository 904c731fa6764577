import { hexOfId, idOfName } from '../formats/cryptomatte';
import type { Param } from '../document/types';
import { boxPoints, shapeDefaults } from '../shape/edit';
import type { TestStep } from './evaluate';
import { testStroke } from './strokes';

const STROKES = (['paint', 'tint', 'clone', 'heal', 'smear', 'blur', 'dodge'] as const).map((tool, i) =>
  testStroke({ tool, size: 7, points: [6 + 3 * i, 8, 14 + 2 * i, 20], shift: [4, -3.5] }),
);
const OUTLINE = [{ ...shapeDefaults, id: 'o', name: 'o', keys: [{ frame: 1, value: boxPoints(10, 8, 24, 20), ease: 'linear' }] }];

/** Parameters with which steps do what they can do. */
const THINGS = [
  { id: 'a', name: 'a' },
  { id: 'b', name: 'b' },
  { id: 'c', name: 'c' },
  { id: 'd', name: 'd' },
];

export const BUSY: Record<string, TestStep['params']> = {
  blur: { size: 9 },
  choke: { radius: 4 },
  transform: { rotate: 12, scale: [1.3, 0.8], translate: [3, 2] },
  softenMatte: { size: 3 },
  tidyMatte: { specks: 6, holes: 6, pinholes: 3, reach: 5 },
  extendColour: { solid: 0.9 },
  screenPlate: { calm: 4 },
  steadyMatte: { frames: 2 },
  grade: { contrast: 1.4, power: [1.1, 1, 0.9], saturation: 0.8 },
  cornerPin: { topLeft: [4, 3], bottomRight: [-5, -2] },
  defocus: { radius: 5, blades: 5, by: 'map' },
  directionalBlur: { length: 9, angle: 20 },
  radialBlur: { angle: 25 },
  zoomBlur: { amount: 30 },
  displace: { amount: [6, 5], soften: 2 },
  echoFrames: { count: 3, by: 'over' },
  glow: { size: 9, threshold: -2 },
  lightWrap: { soft: 5, width: 6 },
  rays: { threshold: -2 },
  flare: { reach: 20 },
  lensDirt: { size: 8, threshold: -2 },
  heatShimmer: { size: 12 },
  shadow: { left: [-6, 5], right: [6, 5], length: 0.5, growth: 4 },
  hold: { frame: 4 },
  offset: { by: 3 },
  retime: { speed: 0.37, reference: 4, between: 'motion' },
  noise: { size: 7, alpha: 'noise' },
  ramp: { kind: 'radial', to: [20, 20] },
  paint: { strokes: STROKES as unknown as Param },
  patch: { shapes: OUTLINE as unknown as Param, frame: 2, shift: [3, 2], light: 'membrane', ring: 4 },
  fill: { within: 'matte', patch: 3, reach: 12 },
  cleanPlate: { count: 3, home: 2 },
  formula: { R: 'G * 0.5 + other.B', A: 'A * x / width' },
  routeChannels: { R: 'otherLuma', A: 'G' },
  grain: { from: 'even' },
  denoise: { noise: 0.2, search: 2 },
  learn: { lesson: 'matte', output: 'multiply', sureness: true },
  scene: {
    seen: 'keyed',
    eye: [0, 0.2, 3],
    things: THINGS as unknown as Param,
    'a.what': 'ball',
    'a.inside': false,
    'a.lit': true,
    'b.what': 'catcher',
    'b.at': [0, -0.5, 0],
    'b.mirrors': 1,
    'c.what': 'light',
    'c.at': [2, 3, 1],
    'd.what': 'card',
    'd.turn': [10, 30, 0],
    'd.opacity': 0.5,
  },
  crop: { box: [3, 3, 30, 20] },
  rebuildBeauty: { parts: [{ id: 'a', name: 'diffuse' }], 'a.gain': 1, 'a.saturation': 0.5 },
  lightMix: { lamps: [{ id: 'a', name: 'light_key' }], 'a.gain': -1 },
  relight: { lamps: [{ id: 'a', name: 'Lamp' }], 'a.at': [1, 1, -3] },
  haze: { density: 0.3, glow: 1, uneven: 0.5 },
  depthOfField: { by: 'px', focus: 4, infinity: 8 },
  vectorBlur: { shutter: 360, phase: -180 },
  idMatte: { things: [{ id: hexOfId(idOfName('ball')) }] },
};
