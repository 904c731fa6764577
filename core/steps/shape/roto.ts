import type { Rect } from '../../geometry/rect';
import { intersect, isEmpty, union } from '../../geometry/rect';
import { choice, shapes, toggle } from '../../param';
import { COLOUR, formatRect } from '../../picture';
import { reachOfLooks, shapeMatte } from '../../shape/coverage';
import { looksOf } from '../../shape/looks';
import type { Posed, ShapesValue } from '../../shape/pose';
import type { StepIo } from '../../step';
import { defineStep, pixelsOf } from '../../step';
import { shutterParams, shutterTimes } from '../place/placing';

interface Values {
  shapes: ShapesValue;
  effect: 'replace' | 'add' | 'cut' | 'keep' | 'white';
  invert: boolean;
  shutter: number;
  shutterSamples: number;
}

const looks = (p: Values, io: { samples: readonly unknown[] }): readonly (readonly Posed[])[] =>
  looksOf(
    p.shapes,
    (io.samples as readonly Values[]).map((s) => s.shapes),
  );

/** Where the matte is not 0; null where that may be anywhere. */
const matteReach = (p: Values, io: StepIo<Values>): Rect | null => (p.invert ? null : reachOfLooks(looks(p, io)));

const isColour = (c: string): boolean => (COLOUR as readonly string[]).includes(c);

export const roto = defineStep({
  type: 'roto',
  title: 'Roto',
  family: 'Shape & touch-up',
  summary: 'Makes a matte from outlines that are drawn on the stage, keyed and carried by readings.',
  params: {
    shapes: shapes('Shapes', { help: 'Outlines on the stage, laid together from the first to the last.' }),
    effect: choice('Matte goes to', 'replace', [
      { value: 'replace', title: 'Alpha', help: 'Alpha is the matte.' },
      { value: 'add', title: 'Alpha, added' },
      { value: 'cut', title: 'Alpha, cut out', help: 'What is inside becomes transparent, in alpha alone.' },
      { value: 'keep', title: 'The whole picture', help: 'Colour and alpha are multiplied by the matte: what is outside goes.' },
      { value: 'white', title: 'White on nothing', help: 'A white picture with the matte as its alpha.' },
    ]),
    invert: toggle('Invert', false, { animatable: false, help: 'What is outside of the shapes.' }),
    ...shutterParams,
  },
  feeds: [],
  samples: (p, frame) => (p.shutter > 0 ? shutterTimes(frame, p) : []),
  // Until something is drawn the picture is seen as it is, so that there is something to draw on.
  neutral: (p) => p.shapes.empty || (p.shapes.list.length === 0 && (p.effect === 'add' || p.effect === 'cut')),
  bounds: (p, io) => {
    const { bounds, format } = io.inputs.main!;
    const reach = matteReach(p as unknown as Values, io as never) ?? formatRect(format);
    if (p.effect === 'cut') return bounds;
    if (p.effect === 'keep') return intersect(bounds, reach);
    return p.effect === 'white' ? reach : union(bounds, reach);
  },
  channels: (p, io) => [...new Set([...io.inputs.main!.channels, ...(p.effect === 'white' ? COLOUR : []), 'A'])],
  writes: (p, channels) => {
    if (p.effect === 'keep') return channels;
    return channels.filter((c) => c === 'A' || (p.effect === 'white' && isColour(c)));
  },
  // Its edges are gone through once for the region, not once a tile.
  locality: 'region',
  needs: (p, want) => {
    const reads = p.effect === 'replace' || p.effect === 'white' ? [] : p.effect === 'keep' ? want.channels : ['A'];
    return reads.length > 0 ? [{ input: 'main', region: want.region, channels: reads }] : [];
  },
  render(ctx, p, out) {
    const n = pixelsOf(out);
    if (isEmpty(out.region)) return;
    const matte = ctx.scratch(n);
    shapeMatte(ctx.kernels, looks(p as unknown as Values, ctx), out.region, matte);
    if (p.invert) ctx.kernels.fn.affine(matte.byteOffset, matte.byteOffset, n, -1, 1);
    for (const [c, plane] of Object.entries(out.planes)) {
      const had = ctx.tile('main')?.planes[c];
      if (p.effect === 'replace' || p.effect === 'white') plane.set(matte);
      else if (p.effect === 'keep') ctx.kernels.fn.multiply(had!.byteOffset, matte.byteOffset, plane.byteOffset, n);
      else if (p.effect === 'add') for (let i = 0; i < n; i++) plane[i] = had![i]! + matte[i]! * (1 - had![i]!);
      else for (let i = 0; i < n; i++) plane[i] = had![i]! * (1 - matte[i]!);
    }
  },
});
