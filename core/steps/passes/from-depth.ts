import { grow, width } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { viewParams } from '../../passes/depth';
import { occlusionOf } from '../../passes/occlusion';
import { normalsOf, readSurface, surfaceChannels, surfacePasses } from '../../passes/positions';
import type { Surface, SurfaceParams } from '../../passes/positions';
import { choice, layer, number, integer } from '../../param';
import type { RoledPass } from '../../passes/roles';
import { RGBA } from '../../picture';
import type { RenderContext, StepIo } from '../../step';
import { defineStep } from '../../step';
import { NO_DEPTH, within } from './data';

/** What renders that lack a pass can have of others. */
const surfaceParams = {
  position: layer('Position', { role: 'position', help: 'Without one, positions are made of the depth.' }),
  depth: layer('Depth', { role: 'depth' }),
  ...viewParams,
};

const lacks = (p: SurfaceParams, io: StepIo<never>): boolean => {
  const { position, depth } = surfacePasses(io.inputs.main, p);
  return !position && !depth;
};
const remark = (p: SurfaceParams, io: StepIo<never>): string | null => (lacks(p, io) ? NO_DEPTH : null);

function surfaceOf(
  ctx: RenderContext<never>,
  p: SurfaceParams,
  withNormals: boolean,
): Surface & { normals: NonNullable<Surface['normals']>; region: Rect } {
  const { main } = ctx.inputs;
  const { region, planes } = ctx.tile('main')!;
  const { normal, ...rest } = surfacePasses(main, p);
  const take = (n: number): Float32Array => ctx.scratch(n);
  const s = readSurface(withNormals ? { ...rest, normal } : rest, planes, region, main!.format, p, take);
  return { ...s, region, normals: s.normals ?? normalsOf(s, width(region), take) };
}

const NORMAL = ['N.X', 'N.Y', 'N.Z'];

export const normalsFromDepth = defineStep({
  type: 'normalsFromDepth',
  title: 'Normals from depth',
  family: 'Passes',
  summary: 'Makes a normal pass of depth or positions, for renders that have none.',
  readsData: true,
  params: {
    ...surfaceParams,
    gives: choice('Gives', 'pass', [
      { value: 'pass', title: 'A pass: N', help: 'Goes along with the picture; Relight finds it.' },
      { value: 'picture', title: 'A picture to look at' },
    ]),
  },
  feeds: [],
  remark: remark as never,
  neutral: lacks as never,
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...NORMAL])],
  passes: (_, io): readonly RoledPass[] => [
    ...(io.inputs.main!.passes ?? []).filter((q) => q.role !== 'normal'),
    { name: 'N', kind: 'normal', channels: NORMAL, role: 'normal' },
  ],
  writes: (p, channels) => channels.filter((c) => NORMAL.includes(c) || (p.gives === 'picture' && ['R', 'G', 'B'].includes(c))),
  locality: 'whole',
  needs: (p, { region }, io) => [
    {
      input: 'main',
      region: grow(region, 1),
      channels: ['A', ...surfaceChannels({ ...surfacePasses(io.inputs.main, p), normal: undefined })],
    },
  ],
  render(ctx, p, out) {
    const s = surfaceOf(ctx as never, p, false);
    NORMAL.forEach((c, i) => {
      const plane = out.planes[c];
      const made = within(ctx, s.normals[i]!, s.region, out.region);
      plane?.set(made);
      const seen = out.planes[['R', 'G', 'B'][i]!];
      if (!seen) return;
      // Premultiplied, as colour is.
      const alpha = within(ctx, ctx.tile('main')!.planes.A!, s.region, out.region);
      for (let k = 0; k < seen.length; k++) seen[k] = alpha[k]! * (0.5 + 0.5 * made[k]!);
    });
  },
});

export const occlusionFromDepth = defineStep({
  type: 'occlusionFromDepth',
  title: 'Occlusion from depth',
  family: 'Passes',
  summary: 'Darkens corners and contacts by what the depth shows around each place, for renders without an occlusion pass.',
  readsData: true,
  params: {
    ...surfaceParams,
    normal: layer('Normal', { role: 'normal', help: 'Without one, normals are made of the positions.' }),
    radius: number('Reach', 0.3, [0.02, 3], { min: 1e-4, max: 1e6, help: 'In the units of the scene.' }),
    strength: number('Strength', 1, [0, 3], { min: 0, max: 20 }),
    directions: integer('Directions', 6, [2, 16], { min: 1, max: 32, animatable: false }),
    gives: choice('Gives', 'darkens', [
      { value: 'darkens', title: 'The picture, darkened' },
      { value: 'occlusion', title: 'The occlusion' },
    ]),
  },
  feeds: [],
  remark: remark as never,
  neutral: (p, io) => lacks(p, io as never) || (p.strength === 0 && p.gives === 'darkens'),
  writes: (p, channels) => channels.filter((c) => (p.gives === 'occlusion' ? (RGBA as readonly string[]) : ['R', 'G', 'B']).includes(c)),
  locality: 'whole',
  needs: (p, { region, channels }, io) => [
    {
      input: 'main',
      region: grow(region, 1),
      channels: ['A', ...surfaceChannels(surfacePasses(io.inputs.main, p)), ...(p.gives === 'darkens' ? channels : [])],
    },
  ],
  render(ctx, p, out) {
    const s = surfaceOf(ctx as never, p, true);
    const open = occlusionOf(
      s,
      width(s.region),
      p,
      (n) => ctx.scratch(n),
      () => ctx.poll(),
    );
    const mine = within(ctx, open, s.region, out.region);
    const from = ctx.tile('main')!.planes;
    for (const [c, plane] of Object.entries(out.planes)) {
      plane.set(within(ctx, p.gives === 'darkens' || c === 'A' ? from[c]! : from.A!, s.region, out.region));
      if (c !== 'A') ctx.kernels.fn.multiply(plane.byteOffset, mine.byteOffset, plane.byteOffset, plane.length);
    }
  },
});
