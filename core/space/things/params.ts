import type { Part } from '../../params/part';
import type { FeedDefinition, ParamValues } from '../../param';
import { choice, colour, integer, model, nameOf, number, toggle, triple } from '../../param';

const SURFACES = ['card', 'ball', 'box'];
const SOLID = [...SURFACES, 'model'];
const TURNED = [...SOLID, 'points', 'catcher', 'holder'];
const PLACED = [...TURNED, 'light'];

/** What each thing in the shot has. Places are y up, z towards the camera, in the units of the camera reading. */
export const thingParams = {
  on: toggle('On', true),
  what: choice('Kind', 'card', [
    { value: 'card', title: 'Card', help: 'A picture on a flat, bent or lifted card.' },
    { value: 'ball', title: 'Ball or dome', help: 'With a latitude–longitude picture on it; seen from inside, a sky.' },
    { value: 'box', title: 'Box' },
    { value: 'model', title: 'Model', help: 'A .glb, .gltf or .obj among the sources.' },
    { value: 'points', title: 'Points', help: 'Dots where a camera’s points stand, or at what a render shows.' },
    { value: 'light', title: 'Light' },
    { value: 'catcher', title: 'Shadow catcher', help: 'A flat piece of the plate that takes shadows and mirrors.' },
    { value: 'holder', title: 'Holder', help: 'Nothing that is seen: others hang on it and move with it.' },
  ]),
  dots: choice(
    'Points of',
    'camera',
    [
      { value: 'camera', title: 'The solved camera' },
      { value: 'render', title: 'A render', help: 'From its position pass; or from its depth, as seen by this scene’s camera.' },
    ],
    { when: { what: ['points'] } },
  ),
  group: nameOf('Group', 'group', { when: { what: ['points'], dots: ['camera'] } }),
  dot: number('Dot size', 3, [1, 20], { unit: 'px', min: 0.5, max: 500, pixels: true, when: { what: ['points'] } }),
  most: integer('Points at most', 16_000, [500, 50_000], {
    min: 1,
    max: 200_000,
    animatable: false,
    when: { what: ['points'], dots: ['render'] },
    help: 'Spread evenly over the picture.',
  }),
  model: model('Model', { when: { what: ['model'] } }),
  stands: nameOf('Stands at', 'anchor', {
    help: 'The origin, or a point, a group’s middle or its plane: its place counts from there.',
    when: { what: PLACED },
  }),
  hangs: nameOf('Hangs on', 'part', { help: 'Moves with another thing.', when: { what: PLACED } }),
  at: triple('Place', 0, [-10, 10]),
  turn: triple('Turn', 0, [-180, 180], { help: 'Degrees about x, then y, then z.', when: { what: TURNED } }),
  size: number('Size', 1, [0, 10], { min: 1e-4, max: 1e5, decimals: 3, when: { what: TURNED } }),
  sides: triple('Sides', 1, [0, 5], { min: 0, max: 1e5, when: { what: ['box'] } }),
  facing: toggle('Faces the camera', false, { when: { what: ['card'] }, help: 'Turned about its upright.' }),
  bend: number('Bend', 0, [-180, 180], { unit: '°', min: -360, max: 360, when: { what: ['card'] } }),
  lift: number('Lift', 0, [-1, 1], {
    min: -1e4,
    max: 1e4,
    when: { what: ['card'] },
    help: 'How far the lift’s picture raises it, in heights of the card.',
  }),
  cells: integer('Cells', 64, [8, 200], {
    min: 1,
    max: 512,
    animatable: false,
    when: { what: ['card'] },
    help: 'Along a bent or lifted card’s longer side.',
  }),
  inside: toggle('Seen from inside', true, { animatable: false, when: { what: ['ball'] } }),
  offset: integer('Picture offset', 0, [-50, 50], { unit: 'frames', min: -100000, max: 100000, when: { what: [...SURFACES, 'points'] } }),
  shows: choice(
    'Picture',
    'laid',
    [
      { value: 'laid', title: 'Lies on it' },
      { value: 'thrown', title: 'Projected on it', help: 'From where the camera stood at a frame, held back by what stands in the way.' },
    ],
    { when: { what: SOLID } },
  ),
  from: integer('From frame', 1, [1, 100], { min: -100000, max: 100000, animatable: false, when: { what: SOLID, shows: ['thrown'] } }),
  moves: toggle('Picture plays', true, {
    animatable: false,
    when: { what: SOLID, shows: ['thrown'] },
    help: 'Else it is that of the frame it is projected from.',
  }),
  plays: toggle('Plays', true, { animatable: false, when: { what: ['model'] }, help: 'Moves as its file has it; else it stands still.' }),
  tint: colour('Colour', [1, 1, 1], { when: { what: [...SOLID, 'points', 'light'] } }),
  opacity: number('Opacity', 1, [0, 1], { min: 0, max: 1, when: { what: [...SOLID, 'points'] } }),
  lit: toggle('Lit', false, { when: { what: SURFACES }, help: 'Lights fall on it; else it shows its picture as it is.' }),
  rough: number('Roughness', 0.6, [0, 1], { min: 0, max: 1, when: { what: SURFACES, lit: [true] } }),
  metal: number('Metal', 0, [0, 1], { min: 0, max: 1, when: { what: SURFACES, lit: [true] } }),
  casts: toggle('Throws shadows', true, {
    when: { what: SOLID },
    help: 'A flat card as its picture covers; a bent one the outline of that, where it covers half or more.',
  }),
  holds: toggle('Hold-out', false, {
    when: { what: SOLID },
    help: 'Hides what is behind it and is not seen itself: a stand-in for what the plate shows.',
  }),
  light: choice(
    'Light',
    'sun',
    [
      { value: 'sun', title: 'Sun', help: 'From its place towards where it points, the same everywhere.' },
      { value: 'point', title: 'Lamp' },
      { value: 'spot', title: 'Spot' },
      { value: 'around', title: 'From all around', help: 'A latitude–longitude picture, or even light without one.' },
    ],
    { when: { what: ['light'] } },
  ),
  strength: number('Strength', 1, [0, 10], {
    min: 0,
    max: 1e6,
    when: { what: ['light'] },
    help: '1 lights a white surface to 1; of a lamp, one unit away.',
  }),
  aim: triple('Points at', 0, [-10, 10], { when: { what: ['light'], light: ['sun', 'spot'] } }),
  cone: number('Cone', 40, [1, 120], { unit: '°', min: 0.1, max: 170, when: { what: ['light'], light: ['spot'] } }),
  blurs: number('Softness', 0.5, [0, 10], {
    min: 0,
    max: 90,
    when: { what: ['light'], light: ['sun', 'spot', 'point'] },
    help: 'Of shadows: a sun’s size in degrees, a lamp’s in units.',
  }),
  shadows: toggle('Shadows', true, { when: { what: ['light'], light: ['sun', 'spot', 'point'] } }),
  round: number('Turn', 0, [-180, 180], { unit: '°', min: -3600, max: 3600, when: { what: ['light'], light: ['around'] } }),
  wide: number('Width', 10, [0, 50], { min: 1e-3, max: 1e5, when: { what: ['catcher'] } }),
  dark: number('Shadow', 0.8, [0, 1], { min: 0, max: 1, when: { what: ['catcher'] } }),
  mirrors: number('Mirror', 0, [0, 4], {
    min: 0,
    max: 25,
    when: { what: ['catcher'] },
    help: '1 is wet stone or water: strong where it is seen along.',
  }),
  blur: number('Mirror blur', 0, [0, 40], {
    unit: 'px',
    min: 0,
    max: 400,
    pixels: true,
    when: { what: ['catcher'] },
    help: 'Of what is far away; what stands on it is sharp at its foot.',
  }),
};

export type ThingValues = ParamValues<typeof thingParams>;
export type Thing = Part & ThingValues;

export const THING_FEEDS: readonly FeedDefinition[] = [
  {
    name: 'picture',
    title: 'Picture',
    help: 'What it shows; of light from all around, the surroundings.',
    when: { what: [...SOLID, 'light'] },
  },
  { name: 'render', title: 'Render', help: 'With a position or depth pass.', when: { what: ['points'], dots: ['render'] } },
  { name: 'lift', title: 'Lift', help: 'Red raises a card along its normal.', when: { what: ['card'] } },
];

/** Things whose picture is looked at. */
export const showsPicture = (t: Pick<ThingValues, 'what' | 'light'>): boolean =>
  SOLID.includes(t.what) || (t.what === 'light' && t.light === 'around');
