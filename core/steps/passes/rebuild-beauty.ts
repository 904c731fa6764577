import { adjustLight, factorsOf, isUnity, onlyScaled, partParams } from '../../passes/adjust';
import { MATERIAL_ROLES, passOf } from '../../passes/roles';
import type { RoledPass } from '../../passes/roles';
import { choice, layer, parts } from '../../param';
import { COLOUR } from '../../picture';
import type { PictureInfo } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { colourOfLayer } from '../channels/pick-layer';
import { notThere } from './data';

/** The beauty as it was rendered goes along under this name: the light mix needs it. */
const KEPT = 'beauty';
const KEPT_CHANNELS = COLOUR.map((c) => `${KEPT}.${c}`);
const keeps = (main: PictureInfo): boolean => !main.channels.includes(KEPT_CHANNELS[0]!);

/** The colour channels of the beauty as rendered: that which was kept by an earlier rebuild, else the picture's own. */
export function beautyChannels(main: PictureInfo): readonly string[] {
  const kept = main.passes?.find((p) => p.name === KEPT && p.role === 'beauty');
  return colourOfLayer(main.channels, (kept ?? passOf(main.passes, '', 'beauty'))?.name ?? '');
}

/** Below this sum of light (premultiplied, scene-linear) a ratio has no meaning. */
export const LEAST_LIGHT = 1e-3;

export const rebuildBeauty = defineStep({
  type: 'rebuildBeauty',
  title: 'Rebuild beauty',
  family: 'Passes',
  summary:
    'Adds the passes of a render up again, each with gain, tint, saturation, levels and a mask; what they leave out is carried along.',
  params: {
    parts: parts(
      'Parts',
      'pass',
      { ...partParams, filter: layer('Multiply by', { none: 'Nothing', help: 'Of raw light, its filter.' }) },
      {
        roles: MATERIAL_ROLES,
        feeds: [{ name: 'mask', title: 'Mask', help: 'Where the part is changed.', matte: true }],
      },
    ),
    residual: choice('Residual', 'carry', [
      { value: 'carry', title: 'Carried along', help: 'The beauty less the sum of the parts is added as it is.' },
      { value: 'share', title: 'Shared by the parts', help: 'It changes with the parts, by their share of the light.' },
      { value: 'drop', title: 'Left out' },
    ]),
    show: choice('Shows', 'beauty', [
      { value: 'beauty', title: 'The beauty' },
      { value: 'residual', title: 'The residual', help: 'What the passes leave out of the beauty.' },
    ]),
  },
  feeds: [],
  neutral: (p) =>
    p.show === 'beauty' &&
    (p.parts.length === 0 || (p.residual !== 'drop' && p.parts.every((q) => isUnity(factorsOf(q)) && onlyScaled(q)))),
  remark: (p, io) => {
    if (p.parts.length === 0) return 'no parts are listed: add the passes that make the beauty';
    return notThere(p.parts, io.inputs.main!, 'pass');
  },
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...COLOUR, ...KEPT_CHANNELS])],
  passes(_, io): readonly RoledPass[] {
    const { main } = io.inputs;
    const own = main!.passes ?? [];
    return keeps(main!) ? [...own, { name: KEPT, kind: 'colour', channels: KEPT_CHANNELS, role: 'beauty' }] : own;
  },
  writes: (_, channels, io) =>
    channels.filter((c) => (COLOUR as readonly string[]).includes(c) || (keeps(io.inputs.main!) && KEPT_CHANNELS.includes(c))),
  locality: 'pixel',
  needs(p, { region }, io) {
    const { main } = io.inputs;
    const layers = p.parts.flatMap((q) => [q.name, ...(q.filter ? [q.filter] : [])]);
    return [
      { input: 'main', region, channels: [...beautyChannels(main!), ...layers.flatMap((l) => colourOfLayer(main!.channels, l)), 'A'] },
      ...p.parts.flatMap((q) => (io.inputs[`${q.id}.mask`] ? [{ input: `${q.id}.mask`, region, channels: ['A'] }] : [])),
    ];
  },
  render(ctx, p, out) {
    const { kernels } = ctx;
    const { fn } = kernels;
    const n = pixelsOf(out);
    const { main } = ctx.inputs;
    const from = ctx.tile('main')!.planes;
    const beauty = beautyChannels(main!).map((c) => from[c]!);
    KEPT_CHANNELS.forEach((c, i) => out.planes[c]?.set(beauty[i]!));
    const to = COLOUR.map((c) => out.planes[c] ?? ctx.scratch(n));
    const whole = p.residual === 'carry' && p.show === 'beauty';
    const read = p.parts.flatMap((part) => {
      let own = colourOfLayer(main!.channels, part.name).map((c) => from[c]);
      if (own.length < 3 || own.some((plane) => !plane)) return [];
      if (part.filter) {
        const filter = colourOfLayer(main!.channels, part.filter).map((c) => from[c]);
        own = own.map((plane, i) => {
          const product = ctx.scratch(n);
          if (filter[i]) fn.multiply(plane!.byteOffset, filter[i].byteOffset, product.byteOffset, n);
          else product.set(plane!);
          return product;
        });
      }
      return [{ part, own: own as Float32Array[], mask: ctx.tile(`${part.id}.mask`)?.planes.A }];
    });
    /** Sums of planes, each read once. */
    const add = (
      i: number,
      base: Float32Array | null,
      out: Float32Array,
      list: typeof read,
      gainOf: (r: (typeof read)[number]) => number,
    ): void => {
      const used = list.map((r) => [r.own[i]!.byteOffset, gainOf(r)] as const).filter(([, gain]) => gain !== 0);
      const gains = ctx.scratch(used.length + 4);
      gains.set(used.map(([, gain]) => gain));
      const pointers = ctx.scratch(used.length + 4);
      new Uint32Array(pointers.buffer, pointers.byteOffset, used.length).set(used.map(([at]) => at));
      fn.weightedSum(base?.byteOffset ?? 0, out.byteOffset, n, pointers.byteOffset, gains.byteOffset, used.length);
    };
    const before = p.residual === 'share' ? COLOUR.map(() => ctx.scratch(n)) : null;
    before?.forEach((sum, i) => add(i, null, sum, read, () => 1));
    const plain = p.show === 'residual' ? read : read.filter((r) => onlyScaled(r.part) && !r.mask);
    to.forEach((plane, i) =>
      add(i, whole ? beauty[i]! : null, plane, plain, ({ part }) => (p.show === 'residual' ? 1 : factorsOf(part)[i]! - (whole ? 1 : 0))),
    );
    for (const { part, own, mask } of p.show === 'residual' ? [] : read.filter((r) => !plain.includes(r))) {
      const now = own.map((plane) => {
        const copy = ctx.scratch(n);
        copy.set(plane);
        return copy;
      });
      adjustLight(kernels, now, from.A!, part);
      now.forEach((plane, i) => {
        const at = plane.byteOffset;
        const sum = to[i]!.byteOffset;
        if (mask) fn.mixMasked(own[i]!.byteOffset, at, mask.byteOffset, at, n, 1);
        // What became of it less what it was: nothing, to the bit, where the mask is empty.
        if (whole) fn.addScaled(at, own[i]!.byteOffset, at, n, -1);
        fn.addScaled(sum, at, sum, n, 1);
      });
    }
    if (p.show === 'residual') {
      to.forEach((plane, i) => {
        fn.affine(plane.byteOffset, plane.byteOffset, n, -1, 0);
        fn.addScaled(plane.byteOffset, beauty[i]!.byteOffset, plane.byteOffset, n, 1);
      });
    } else if (before) {
      to.forEach((plane, i) => {
        const at = plane.byteOffset;
        fn.ratioMix(beauty[i]!.byteOffset, before[i]!.byteOffset, at, at, n, LEAST_LIGHT);
      });
    }
  },
});
