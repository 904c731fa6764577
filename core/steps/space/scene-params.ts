import { FILTERS } from '../../filters/resample';
import { MERGED } from '../../passes/merge';
import { camera, choice, integer, number, parts, toggle, triple } from '../../param';
import type { ParamValues } from '../../param';
import { RGBA } from '../../picture';
import type { Thing } from '../../space/things/params';
import { THING_FEEDS, thingParams } from '../../space/things/params';
import { shutterParams, shutterTimes } from '../place/placing';

export const sceneParams = {
  seen: choice('Camera', 'reading', [
    { value: 'reading', title: 'A solved camera' },
    { value: 'keyed', title: 'Set here' },
    { value: 'passes', title: 'Of this render', help: 'Found from its position pass.' },
  ]),
  camera: camera('Solved camera', { when: { seen: ['reading'] } }),
  eye: triple('Camera at', 0, [-10, 10], { when: { seen: ['keyed'] } }),
  look: triple('Camera turn', 0, [-180, 180], {
    when: { seen: ['keyed'] },
    help: 'Degrees about x, then y, then z; unturned it looks along −z.',
  }),
  focal: number('Focal length', 35, [12, 200], { unit: 'mm', min: 1, max: 10_000, when: { seen: ['keyed'] } }),
  filmWidth: number('Film width', 36, [8, 70], { unit: 'mm', min: 0.5, max: 1000, when: { seen: ['keyed'] } }),
  things: parts('Things', 'thing', thingParams, { feeds: THING_FEEDS }),
  behind: toggle('Cut by depth', false, {
    animatable: false,
    help: 'This lane’s depth or position pass hides what lies behind it, softly at its edges.',
  }),
  soft: number('Soft crossing', 0, [0, 1], {
    min: 0,
    max: 1e4,
    help: 'Distance before a hold-out, or before what cuts it, over which things fade away: fog that meets a wall.',
  }),
  over: toggle('Over this lane', true, { animatable: false, help: 'Else the scene is given alone.' }),
  give: choice('Gives', 'picture', [
    { value: 'picture', title: 'The picture' },
    { value: 'layers', title: 'Picture and layers', help: 'Depth, normals, positions, motion, object ID, shadow and mirror.' },
  ]),
  ...shutterParams,
  aperture: number('Aperture', 0, [0, 0.2], {
    min: 0,
    max: 100,
    decimals: 3,
    group: 'Depth of field',
    help: 'Across, in units; 0 is sharp all through.',
  }),
  focus: number('Focus at', 5, [0, 50], { min: 1e-3, max: 1e5, group: 'Depth of field', help: 'Distance along the view.' }),
  lensSamples: integer('Lens samples', 16, [4, 64], { min: 2, max: 256, group: 'Depth of field', animatable: false }),
  overscan: number('Overscan', 0, [0, 200], {
    unit: 'px',
    min: 0,
    max: 2000,
    pixels: true,
    animatable: false,
    group: 'Quality',
    help: 'Drawn beyond the frame on each side: for a lens that bends it inward, or a shake.',
  }),
  filter: choice('Filter of flat cards', 'catmullRom', FILTERS, { group: 'Quality' }),
  shadowSize: choice(
    'Shadow detail',
    '1024',
    ['512', '1024', '2048', '4096'].map((value) => ({ value, title: `${value} px` })),
    { group: 'Quality' },
  ),
};
export type SceneParams = ParamValues<typeof sceneParams>;

const EXTRA = ['objectId.Y', 'shadow.A', 'reflection.R', 'reflection.G', 'reflection.B', 'reflection.A'];
const LAYERS = [...MERGED.flatMap((m) => m.channels), ...EXTRA];
export const given = (p: SceneParams): readonly string[] => (p.give === 'layers' ? [...RGBA, ...LAYERS] : RGBA);

/** Whether the lane's own passes are read. */
export const reads = (p: SceneParams): boolean => p.behind || p.seen === 'passes';

export const data = { focal: 35, filmWidth: 36 };

/** Times besides the frame at which parameters are wanted: of the shutter, the frame after it for motion, and those that a keyed camera projects from. */
export function timesOf(p: SceneParams, frame: number): number[] {
  const shutter = shutterTimes(frame, p);
  const from = p.seen === 'keyed' ? p.things.flatMap((t) => (t.shows === 'thrown' ? [t.from] : [])) : [];
  return [...(shutter.length > 1 ? shutter : []), ...(p.give === 'layers' ? [frame + 1] : []), ...from];
}

/** Frames of a thing's picture. */
export const pictureFrame = (t: Thing, frame: number): number => (t.shows === 'thrown' && !t.moves ? t.from : frame) + t.offset;
