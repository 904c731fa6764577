import type { LayerKind, Pass } from './passes/pass';
import { layersOf, splitChannel } from './picture';

export type { LayerKind, Pass } from './passes/pass';

export const LAYER_KINDS: Record<
  LayerKind,
  { title: string; /** Numbers, not light: no change of primaries touches them. */ data: boolean }
> = {
  colour: { title: 'Colour', data: false },
  light: { title: 'Light groups', data: false },
  matte: { title: 'Mattes and occlusion', data: true },
  depth: { title: 'Depth', data: true },
  normal: { title: 'Normals', data: true },
  position: { title: 'Position', data: true },
  motion: { title: 'Motion', data: true },
  uv: { title: 'Texture coordinates', data: true },
  id: { title: 'IDs', data: true },
};

const NAMES: readonly [LayerKind, RegExp][] = [
  ['id', /^(crypto\w*\d\d|.*crypto(object|material|asset)\d*|(object|obj|material|mat|instance|part)?_?ids?|(object|material)_?index)$/i],
  ['light', /^(light_?group|lgt?|light)[_. -].+|^(light_?group|lg)\d+$/i],
  ['depth', /^(z|depth|z_?depth|depth_?z)$/i],
  ['normal', /^(n|nn|ns|normals?|world_?normals?|normal_?world)$/i],
  ['position', /^(p|pp|pw|pos|position|world_?(position|point)|point_?(position|world))$/i],
  ['motion', /^(motion|motion_?vectors?|mv|vectors?|velocity|speed|flow|forward|backward)$/i],
  ['uv', /^(uvs?|st|tex_?coords?|uv_?map)$/i],
  ['matte', /^(ao|occlusion|ambient_?occlusion|shadow_?(matte|catcher)|masks?|mattes?|holdout|fresnel|facing)$/i],
];

/** The kind of a layer; a channel of the main layer that stands alone, such as `Z`, is one by itself. */
export function kindOfLayer(name: string): LayerKind {
  const last = name.includes('.') ? name.slice(name.lastIndexOf('.') + 1) : name;
  return NAMES.find(([, pattern]) => pattern.test(name) || pattern.test(last))?.[0] ?? 'colour';
}

const MAIN = ['R', 'G', 'B', 'A'];

/** Channels in the order in which they are spoken of, whatever their order in the file; unknown ones last, as they are. */
const SPOKEN = [...MAIN, 'X', 'Y', 'Z', 'U', 'V', 'x', 'y', 'z', 'u', 'v'];
const rankOf = (channel: string): number => {
  const at = SPOKEN.indexOf(splitChannel(channel).channel);
  return at < 0 ? SPOKEN.length : at;
};

/** The passes of a channel list, the main picture first, then by kind. */
export function passesOf(channels: readonly string[]): Pass[] {
  const passes: Pass[] = [];
  for (const layer of layersOf(channels)) {
    const own = channels.filter((c) => splitChannel(c).layer === layer).sort((a, b) => rankOf(a) - rankOf(b));
    if (layer !== '') {
      passes.push({ name: layer, kind: kindOfLayer(layer), channels: own });
      continue;
    }
    const main = own.filter((c) => MAIN.includes(c));
    if (main.length) passes.push({ name: '', kind: 'colour', channels: main });
    for (const c of own) if (!MAIN.includes(c)) passes.push({ name: c, kind: kindOfLayer(c), channels: [c] });
  }
  const order = Object.keys(LAYER_KINDS);
  return passes.sort((a, b) => Number(b.name === '') - Number(a.name === '') || order.indexOf(a.kind) - order.indexOf(b.kind));
}

/** Measured numbers and ids: what lies between two of them is of neither, so that they are picked, not mixed. */
export const keepsValues = (channel: string): boolean => {
  const { layer, channel: own } = splitChannel(channel);
  if (layer === '' && MAIN.includes(own)) return false;
  const kind = kindOfLayer(layer || channel);
  return kind !== 'matte' && LAYER_KINDS[kind].data;
};

/** Channels that are numbers, not light. */
export function isData(channel: string): boolean {
  const { layer, channel: own } = splitChannel(channel);
  return layer === '' ? !MAIN.includes(own) : LAYER_KINDS[kindOfLayer(layer)].data;
}
