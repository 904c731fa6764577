import type { Plane } from '@/kernels';
import { LUMA } from '../colour/transfer';
import { padTo } from '../filters/pad';
import { stretchOver } from '../filters/push';
import { area } from '../geometry/rect';
import type { Rect } from '../geometry/rect';
import type { Format, Tile } from '../picture';
import { COLOUR, formatRect } from '../picture';
import type { RenderContext } from '../step';

/** Channels of a picture that drives something. */
export const DRIVER_CHANNELS = [
  { value: 'R', title: 'Red' },
  { value: 'G', title: 'Green' },
  { value: 'B', title: 'Blue' },
  { value: 'A', title: 'Alpha' },
  { value: 'luma', title: 'Luma' },
] as const;
export type DriverChannel = (typeof DRIVER_CHANNELS)[number]['value'];

type Context = Pick<RenderContext<unknown>, 'tile' | 'inputs' | 'scratch' | 'kernels' | 'poll'>;

export const sameSize = (a: Pick<Format, 'width' | 'height'>, b: Pick<Format, 'width' | 'height'>): boolean =>
  a.width === b.width && a.height === b.height;

/** A channel of a feed over a region of the frame; one of another size is stretched over it. */
export function overFrame(ctx: Context, input: string, channel: DriverChannel, region: Rect): Plane | null {
  const tile = ctx.tile(input);
  if (!tile) return null;
  const [to, from] = [ctx.inputs.main!.format, ctx.inputs[input]!.format];
  const list: readonly string[] = channel === 'luma' ? COLOUR : [channel];
  const out = ctx.scratch(area(region)).fill(0);
  const part = sameSize(to, from) ? tile : stretched(ctx, tile, list, from, to, region);
  const plane = ctx.scratch(area(region));
  list.forEach((c, k) => {
    padTo(part.planes[c]!, part.region, plane, region, formatRect(to));
    ctx.kernels.fn.addScaled(out.byteOffset, plane.byteOffset, out.byteOffset, out.length, channel === 'luma' ? LUMA[k]! : 1);
  });
  for (let i = 0; i < out.length; i++) if (!Number.isFinite(out[i]!)) out[i] = 0;
  return out;
}

function stretched(ctx: Context, tile: Tile, list: readonly string[], from: Format, to: Format, region: Rect): Tile {
  const planes = Object.fromEntries(list.map((c) => [c, ctx.scratch(area(region))]));
  const [given, outs] = [list.map((c) => tile.planes[c]!), list.map((c) => planes[c]!)];
  stretchOver(ctx.kernels, given, tile.region, from, outs, region, to, { edge: 'hold', poll: () => ctx.poll() });
  return { region, planes };
}
