import type { Plane } from '@/kernels';
import { spansOf } from '../../filters/aperture';
import { gaussianBlur, gaussianPad } from '../../filters/gaussian';
import { copyOver } from '../../filters/copy';
import { padTo } from '../../filters/pad';
import { LUMA } from '../../colour/transfer';
import { area, grow, height, intersect, union, width } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { choice, number } from '../../param';
import { COLOUR, RGBA, formatRect } from '../../picture';
import type { Format } from '../../picture';
import { stops } from '../../light/bright';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';
import { bySpans } from '../filter/spread';
import { copyMain } from './halo';

interface Reach {
  soft: number;
  width: number;
  shape: 'gaussian' | 'disc';
}

/** None reaches farther than the picture. */
function limited<P extends Reach>(p: P, { width: w, height: h }: Format): P {
  const most = Math.max(w, h);
  return { ...p, soft: Math.min(p.soft, most), width: Math.min(p.width, most) };
}

const padOf = (p: Reach): number => Math.max(p.shape === 'disc' ? Math.ceil(p.soft) + 4 : gaussianPad(p.soft), gaussianPad(p.width / 2));

/**
 * Light of what lies behind an element is scattered over its edge by lens and air: wrap = blur(background · (1 − A), σ) · A, only as far in as the width. Of
 * the background only what is seen around the element counts, so that it fades inwards by itself.
 */
export const lightWrap = defineStep({
  type: 'lightWrap',
  title: 'Light wrap',
  family: 'Light & air',
  summary: 'Lets the light of what is really behind an element creep over its edge.',
  params: {
    amount: number('Amount', 0.6, [0, 2], { min: 0, max: 100 }),
    soft: number('Softness', 12, [1, 60], {
      unit: 'px',
      min: 0.3,
      max: 500,
      pixels: true,
      help: 'How far light of the background spreads.',
    }),
    width: number('Width', 16, [1, 80], { unit: 'px', min: 0.5, max: 500, pixels: true, help: 'How far over the edge it creeps.' }),
    threshold: number('Above', -6, [-8, 4], { unit: 'stops', min: -20, max: 12, help: 'Only what is brighter than this beside white.' }),
    saturation: number('Saturation', 1, [0, 2], { min: 0, max: 4, help: 'Of the light that creeps.' }),
    operator: choice('Laid by', 'plus', [
      { value: 'plus', title: 'Plus', help: 'As light adds up.' },
      { value: 'screen', title: 'Screen', help: 'Weaker where the element is bright.' },
      { value: 'over', title: 'Over', help: 'The edge takes on the background.' },
    ]),
    shape: choice('Spread by', 'gaussian', [
      { value: 'gaussian', title: 'A Gaussian' },
      { value: 'disc', title: 'A disc', help: 'Lights out of focus creep as discs.' },
    ]),
  },
  feeds: [
    {
      name: 'behind',
      title: 'Background',
      help: 'Found by itself: the picture right before the join that brings this lane in. Connect another one where that is not meant.',
      behind: true,
    },
  ],
  remark: (_, io) => (io.inputs.behind ? null : 'no join brings this lane in over a background, and none is connected'),
  neutral: (p, io) => p.amount === 0 || !io.inputs.behind,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'region',
  needs: (p, { region }, io) => {
    const wide = grow(region, padOf(limited(p, io.inputs.main!.format)));
    return [
      { input: 'main', region: intersect(wide, io.inputs.main!.bounds), channels: RGBA },
      { input: 'behind', region: intersect(wide, io.inputs.behind!.bounds), channels: COLOUR },
    ];
  },
  render(ctx, given, out) {
    const p = limited(given, ctx.inputs.main!.format);
    const { kernels } = ctx;
    const main = ctx.tile('main')!;
    const back = ctx.tile('behind')!;
    const wide = grow(out.region, padOf(p));
    const [n, m] = [area(wide), area(out.region)];
    // Beyond the frame the element and what is behind it go on as they are at its edge.
    const domain = formatRect(ctx.inputs.main!.format);
    const seen = (from: Plane, have: Rect): Plane => {
      const to = ctx.scratch(n).fill(0);
      padTo(from, have, to, wide, union(have, domain));
      return to;
    };
    const alpha = seen(main.planes.A!, main.region);
    const open = ctx.scratch(n);
    kernels.fn.affineClamped(alpha.byteOffset, open.byteOffset, n, -1, 1, 0, 1);
    const light = COLOUR.map((c) => seen(back.planes[c]!, back.region)) as [Plane, Plane, Plane];
    const least = stops(p.threshold);
    for (let i = 0; i < n; i++) {
      const luma = LUMA[0]! * light[0][i]! + LUMA[1]! * light[1][i]! + LUMA[2]! * light[2][i]!;
      // It sets in softly: at the threshold half of it counts.
      const k = luma > 0 ? (open[i]! * luma) / (luma + least) : 0;
      for (const plane of light) plane[i] = Math.max(0, k * (luma + p.saturation * (plane[i]! - luma)));
    }
    ctx.poll();
    const wrap = spread(ctx, p, [...light, open], wide, out.region);
    // 1 at the edge, 0 a width further in.
    const edge = ctx.scratch(m);
    gaussianBlur(kernels, open, wide, edge, out.region, p.width / 2, p.width / 2);
    const take = (k: number): Plane => ctx.scratch(k);
    const own = copyOver(kernels, main.planes.A!, main.region, out.region, take);
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      copyMain(ctx, c, plane, out.region);
      for (let i = 0; i < m; i++) {
        const a = own[i]!;
        if (!(a > 0)) continue;
        const e = Math.min(1, 2 * edge[i]!);
        const w = wrap[k]![i]! * a * e * p.amount;
        const v = plane[i]!;
        if (p.operator === 'plus') plane[i] = v + w;
        else if (p.operator === 'screen') plane[i] = v + w * Math.max(0, 1 - v / a);
        else {
          // The colour that creeps, without how much of it there is.
          const share = Math.min(1, 2 * wrap[3]![i]! * e * p.amount);
          const colour = wrap[3]![i]! > 1e-5 ? wrap[k]![i]! / wrap[3]![i]! : 0;
          plane[i] = v + share * (a * colour - v);
        }
      }
    });
  },
});

/** Planes spread by a Gaussian or a disc. */
function spread(
  ctx: RenderContext<unknown>,
  { soft, shape }: { soft: number; shape: 'gaussian' | 'disc' },
  planes: readonly Plane[],
  have: Rect,
  want: Rect,
): Plane[] {
  const { kernels } = ctx;
  const outs = planes.map(() => ctx.scratch(area(want)));
  if (shape === 'gaussian') {
    planes.forEach((plane, k) => gaussianBlur(kernels, plane, have, outs[k]!, want, soft, soft));
    return outs;
  }
  const spans = spansOf(soft);
  const [x, y] = [want.x0 - have.x0, want.y0 - have.y0];
  bySpans(ctx, planes, have, outs, want, spans.reach, (sums, to, stride) =>
    sums.blur(spans.list, x, y, width(want), height(want), to, stride, () => ctx.poll()),
  );
  return outs;
}
