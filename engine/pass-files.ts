import type { Kernels } from '@/kernels';
import type { Source } from '@/core/document';
import { copyShared } from '@/core/filters';
import { LAYER_KINDS, kindOfLayer } from '@/core/layers';
import type { Picture } from '@/core/picture';
import { area, sameRect, union } from '@/core/geometry';

/** Words that name a colour pass at the end of a file's name; data passes are known by `kindOfLayer`. */
const COLOUR_WORDS =
  /^(beauty|rgba?|main|diffuse|spec(ular)?|refl(ection)?|refr(action)?|emission|emissive|coat|sss|subsurface|transmission|volume|albedo|direct|indirect|gi|key|rim|fill|glow|background)(_?(direct|indirect|filter|raw))?$/i;
const MAIN_WORDS = /^(beauty|rgba?|main)$/i;

/** The render that a file belongs to and the pass that it holds, by its name: `diver_specular`, `diver.N`. Null for a plain name. */
export function passName(name: string): { render: string; layer: string } | null {
  // The longest end that is known counts: `diffuse_indirect` before `indirect`.
  for (const at of name.matchAll(/[._-](?=[A-Za-z])/g)) {
    const [render, word] = [name.slice(0, at.index), name.slice(at.index + 1)];
    if (render === '') continue;
    if (MAIN_WORDS.test(word)) return { render, layer: '' };
    if (COLOUR_WORDS.test(word) || kindOfLayer(word) !== 'colour') return { render, layer: word };
  }
  return null;
}

/** What a channel of a pass's own file is called in the set. */
export const channelInSet = (layer: string, own: string): string => (layer === '' || own.includes('.') ? own : `${layer}.${own}`);

/**
 * Sources that are passes of the same render become one: the same name but for the pass, OpenEXR, the same frames, the same size.
 * The pass that is named main (else the first) gives the main layer, the others their own.
 */
export function joinPasses(sources: readonly Source[]): Source[] {
  const groups = new Map<string, { source: Source; layer: string }[]>();
  const out: Source[] = [];
  for (const source of sources) {
    const pass = source.container === 'OpenEXR' ? passName(source.name) : null;
    if (!pass) {
      out.push(source);
      continue;
    }
    const { width, height } = source.format;
    const key = `${pass.render} ${width}×${height} ${source.frames?.map((f) => f.frame).join(',')}`;
    groups.set(key, [...(groups.get(key) ?? []), { source, layer: pass.layer }]);
  }
  for (const group of groups.values()) {
    if (group.length === 1) out.push(group[0]!.source);
    else out.push(joined(group));
  }
  return out;
}

function joined(group: readonly { source: Source; layer: string }[]): Source {
  const order = [...group].sort((a, b) => Number(b.layer === '') - Number(a.layer === '') || kindOrder(a.layer) - kindOrder(b.layer));
  const [main, ...others] = order as [(typeof order)[number], ...typeof order];
  const inSet = (layer: string, s: Source): string[] => s.channels.map((c) => channelInSet(layer, c));
  const types = Object.assign(
    {},
    main.source.types,
    ...others.map(({ source, layer }) =>
      Object.fromEntries(Object.entries(source.types ?? {}).map(([c, t]) => [channelInSet(layer, c), t])),
    ),
  ) as Record<string, 'float' | 'uint'>;
  return {
    ...main.source,
    name: passName(main.source.name)!.render,
    channels: [...new Set([...main.source.channels, ...others.flatMap((o) => inSet(o.layer, o.source))])],
    ...(Object.keys(types).length > 0 && { types }),
    attributes: order.flatMap((o) => o.source.attributes ?? []),
    frames: main.source.frames!.map((f, i) => ({
      ...f,
      parts: others.map(({ source, layer }) => {
        const { hash, name, bounds } = source.frames![i]!;
        return { layer, hash, name, ...(bounds && { bounds }) };
      }),
    })),
  };
}

const kindOrder = (layer: string): number => Object.keys(LAYER_KINDS).indexOf(kindOfLayer(layer));

/**
 * Lays pictures of the same frame together; planes of a picture with other bounds are moved into the bounds of all. Of the further
 * layers only the channels of `all` are taken.
 */
export function layTogether(pictures: readonly { picture: Picture; layer: string }[], all: readonly string[], kernels: Kernels): Picture {
  const bounds = pictures.map((p) => p.picture.bounds).reduce(union);
  const planes: Picture['planes'] = {};
  for (const { picture, layer } of pictures) {
    for (const [own, plane] of Object.entries(picture.planes)) {
      const name = channelInSet(layer, own);
      if (planes[name] || (layer !== '' && !all.includes(name))) kernels.give(plane);
      else if (sameRect(picture.bounds, bounds)) planes[name] = plane;
      else {
        planes[name] = kernels.zeros(area(bounds));
        copyShared(kernels, plane, picture.bounds, planes[name], bounds);
        kernels.give(plane);
      }
    }
  }
  return { format: pictures[0]!.picture.format, bounds, channels: Object.keys(planes), planes };
}
