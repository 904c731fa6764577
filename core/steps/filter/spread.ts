import type { Plane } from '@/kernels';
import { RowSums } from '../../filters/aperture';
import { padTo } from '../../filters/pad';
import { area, grow, height, isEmpty, width } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import type { Tile } from '../../picture';
import { domainOf } from '../../picture';
import type { RenderContext } from '../../step';

/** Channels of `main` over what is made and so many pixels around it, its edge going on. */
export function around(ctx: RenderContext<unknown>, channels: readonly string[], want: Rect): Plane[] {
  const from = ctx.tile('main')!;
  const domain = domainOf(ctx.inputs.main!);
  return channels.map((c) => {
    const to = ctx.scratch(area(want));
    padTo(from.planes[c]!, from.region, to, want, domain);
    return to;
  });
}

/** Pixels packed four by four, and what is made of them put into planes. */
export function bySpans(
  ctx: RenderContext<unknown>,
  planes: readonly Plane[],
  have: Rect,
  outs: readonly Plane[],
  want: Rect,
  reach: number,
  run: (sums: RowSums, to: number, stride: number) => void,
): void {
  const { fn } = ctx.kernels;
  const [w, h] = [width(have), height(have)];
  const n = area(want);
  for (let k = 0; k < planes.length; k += 4) {
    const packed = ctx.scratch(4 * w * h + 16);
    const at = (list: readonly Plane[], i: number): number => list[k + i]?.byteOffset ?? 0;
    fn.packFour(at(planes, 0), at(planes, 1), at(planes, 2), at(planes, 3), packed.byteOffset, w * h);
    const sums = new RowSums(ctx.kernels, packed, w, h, reach);
    const made = ctx.scratch(4 * n + 16);
    run(sums, made.byteOffset, width(want));
    sums.give();
    const spare = ctx.scratch(n);
    const to = [0, 1, 2, 3].map((i) => (outs[k + i] ?? spare).byteOffset) as [number, number, number, number];
    fn.unpackFour(made.byteOffset, ...to, n);
  }
}

/** All of a step's planes blurred by one shape. */
export function blurBySpans(ctx: RenderContext<unknown>, out: Tile, spans: { list: Float32Array; reach: number }): void {
  if (isEmpty(out.region)) return;
  if (isEmpty(ctx.tile('main')!.region)) return void Object.values(out.planes).forEach((p) => p.fill(0));
  const channels = Object.keys(out.planes);
  const have = grow(out.region, spans.reach);
  const planes = around(ctx, channels, have);
  bySpans(ctx, planes, have, Object.values(out.planes), out.region, spans.reach, (sums, to, stride) => {
    sums.blur(spans.list, spans.reach, spans.reach, width(out.region), height(out.region), to, stride, () => ctx.poll());
  });
}
