import { grow, height, union, width } from '../../geometry/rect';
import { focalPixels, takeFromSolid, viewParams } from '../../passes/depth';
import { MERGED, channelsOfPass, mergedOf, passesMerged, toUsual } from '../../passes/merge';
import { passOf } from '../../passes/roles';
import type { PassRole } from '../../passes/roles';
import { choice, number } from '../../param';
import type { PictureInfo } from '../../picture';
import { RGBA } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep, pixelsOf } from '../../step';

/** Coverage from which a pixel is of the front: what is left of it behind would else stay sharp as a ring around what is blurred. */
const COUNTS = 0.1;

const isMerged = (c: string): boolean => MERGED.some((m) => m.channels.includes(c));

export const joinDepth = defineStep({
  type: 'joinDepth',
  title: 'Join by depth',
  family: 'Passes',
  summary: 'Joins another lane by what is nearer, and carries depth, motion, normals and positions of both along for what comes after.',
  readsData: true,
  params: {
    order: choice('Front decided by', 'depth', [
      { value: 'depth', title: 'What is nearer' },
      { value: 'front', title: 'The other lane' },
      { value: 'back', title: 'This lane' },
    ]),
    soft: number('Soft crossing', 0, [0, 1], {
      min: 0,
      max: 1e6,
      when: { order: ['depth'] },
      help: 'Distance over which they change places.',
    }),
    backDepth: number('Depth of this lane', 0, [0, 50], {
      min: 0,
      max: 1e6,
      help: 'Distance, where this lane has no depth of its own; 0 is endlessly far.',
    }),
    frontDepth: number('Depth of the other', 0, [0, 50], { min: 0, max: 1e6, help: 'The same of the other lane.' }),
    ...viewParams,
  },
  feeds: [{ name: 'front', title: 'Other lane', help: 'Joined with this one.', required: true, data: true }],
  bounds: (_, { inputs }) => union(inputs.main!.bounds, inputs.front!.bounds),
  channels: (_, { inputs }) => [
    ...new Set([...inputs.main!.channels, ...RGBA, ...mergedOf(inputs.main, inputs.front).flatMap((m) => m.channels)]),
  ],
  passes: (_, { inputs }) => passesMerged(inputs.main!, inputs.front),
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c) || isMerged(c)),
  locality: 'region',
  needs(_, { region, channels }, { inputs }) {
    const roles = new Set<PassRole>(['depth', ...MERGED.filter((m) => m.channels.some((c) => channels.includes(c))).map((m) => m.role)]);
    const of = (main: PictureInfo): string[] => [...RGBA, ...[...roles].flatMap((role) => dataChannels(main, role))];
    return [
      { input: 'main', region: grow(region, 1), channels: of(inputs.main!) },
      { input: 'front', region: grow(region, 1), channels: of(inputs.front!) },
    ];
  },
  render(ctx, p, out) {
    const wanted = MERGED.filter((m) => m.role === 'depth' || m.channels.some((c) => out.planes[c]));
    const focal = focalPixels(p, ctx.inputs.main!.format);
    const back = layerOf(ctx, 'main', wanted, p.backDepth, focal);
    const front = layerOf(ctx, 'front', wanted, p.frontDepth, focal);
    const { region } = ctx.tile('main')!;
    const [w, ow] = [width(region), width(out.region)];
    const n = pixelsOf(out);
    const pixels: Pixels = { over: ctx.scratch(n), place: new Int32Array(n), ab: back.planes.A!, af: front.planes.A! };
    const left = out.region.x0 - region.x0;
    for (let y = 0, o = 0; y < height(out.region); y++) {
      const row = (y + out.region.y0 - region.y0) * w + left;
      for (let x = 0; x < ow; x++, o++) pixels.place[o] = row + x;
    }
    if (p.order === 'depth') byDistance(pixels, back.data.get('Z')!, front.data.get('Z')!, p.soft);
    else pixels.over.fill(p.order === 'front' ? 1 : 0);
    for (const c of RGBA) {
      const plane = out.planes[c];
      if (plane) layOver(pixels, back.planes[c]!, front.planes[c]!, plane);
    }
    for (const { channels } of wanted) {
      for (const c of channels) {
        const plane = out.planes[c];
        if (plane) takeData(pixels, back.data.get(c)!, front.data.get(c)!, plane);
      }
    }
  },
});

const dataChannels = (picture: PictureInfo, role: PassRole): readonly string[] => {
  const pass = passOf(picture.passes, '', role);
  return pass ? channelsOfPass(pass) : [];
};

interface Layer {
  planes: Readonly<Record<string, Float32Array>>;
  data: Map<string, Float32Array>;
}

/** A picture's data in its usual meaning; where it has no depth, it stands at a distance wherever it covers. */
function layerOf(
  ctx: Pick<RenderContext<never>, 'tile' | 'inputs' | 'scratch' | 'scale'>,
  input: string,
  wanted: typeof MERGED,
  standsAt: number,
  focal: number,
): Layer {
  const { region, planes } = ctx.tile(input)!;
  const info = ctx.inputs[input]!;
  const alpha = planes.A!;
  const data = new Map<string, Float32Array>();
  for (const { role, channels, empty } of wanted) {
    const pass = passOf(info.passes, '', role);
    const from = pass ? channelsOfPass(pass) : [];
    channels.forEach((c, k) => {
      const to = ctx.scratch(alpha.length);
      const plane = from[k] === undefined ? undefined : planes[from[k]];
      if (plane && pass) {
        to.set(plane);
        toUsual(to, pass, k, region, info.format, ctx.scale, focal);
      } else to.fill(role === 'depth' && standsAt > 0 ? standsAt : empty);
      if (role === 'depth') for (let i = 0; i < to.length; i++) if (alpha[i] === 0) to[i] = empty;
      data.set(c, to);
    });
  }
  takeFromSolid([...data.values()], alpha, width(region));
  return { planes, data };
}

/** Of each pixel: how much the other lane lies over this one, where it is in what was read, and the alphas there. */
interface Pixels {
  readonly over: Float32Array;
  readonly place: Int32Array;
  readonly ab: Float32Array;
  readonly af: Float32Array;
}

function byDistance({ over, place }: Pixels, zb: Float32Array, zf: Float32Array, soft: number): void {
  for (let o = 0; o < over.length; o++) {
    const i = place[o]!;
    const b = zb[i]!;
    const f = zf[i]!;
    over[o] = soft > 0 && b < Infinity && f < Infinity ? Math.min(1, Math.max(0, (b - f) / soft + 0.5)) : f <= b ? 1 : 0;
  }
}

function layOver({ over, place, ab, af }: Pixels, b: Float32Array, f: Float32Array, out: Float32Array): void {
  for (let o = 0; o < out.length; o++) {
    const i = place[o]!;
    const k = over[o]!;
    out[o] = k * (f[i]! + b[i]! * (1 - af[i]!)) + (1 - k) * (b[i]! + f[i]! * (1 - ab[i]!));
  }
}

/** Data of what is in front; where that hardly covers, of what is behind it, if anything is. */
function takeData({ over, place, ab, af }: Pixels, b: Float32Array, f: Float32Array, out: Float32Array): void {
  for (let o = 0; o < out.length; o++) {
    const i = place[o]!;
    const inFront = over[o]! >= 0.5;
    const covers = inFront ? af[i]! : ab[i]!;
    const behind = inFront ? ab[i]! : af[i]!;
    out[o] = (covers >= COUNTS || behind <= 0) === inFront ? f[i]! : b[i]!;
  }
}
