import type { Plane } from '@/kernels';
import { copyOver } from '../../filters/copy';
import type { Rect } from '../../geometry/rect';
import { focalPixels, onlyChannel, toDistance } from '../../passes/depth';
import type { RoledPass } from '../../passes/roles';
import { passOf } from '../../passes/roles';
import type { PictureInfo } from '../../picture';
import type { RenderContext } from '../../step';

/** What steps on data share: which pass they mean, and how it is read. */
type Context = Pick<RenderContext<never>, 'tile' | 'inputs' | 'scratch' | 'kernels'>;

export const NO_DEPTH = 'the picture has no depth: choose a layer, or say in the layer grid which one it is';

export const depthIn = (main: PictureInfo | undefined, name: string): RoledPass | undefined => passOf(main?.passes, name, 'depth');
export const positionIn = (main: PictureInfo | undefined, name: string): RoledPass | undefined => passOf(main?.passes, name, 'position');

/** A copy of a channel of `main`, over all that was read. */
export function copyOf(ctx: Context, channel: string): Plane {
  const from = ctx.tile('main')!.planes[channel]!;
  const to = ctx.scratch(from.length);
  to.set(from);
  return to;
}

/** Distance along the view of what `main` shows, Infinity where nothing is, over all that was read. */
export function distanceOf(ctx: Context, depth: RoledPass, lens: { focal: number; filmWidth: number }): Plane {
  const { format } = ctx.inputs.main!;
  const distance = copyOf(ctx, onlyChannel(depth));
  toDistance(distance, ctx.tile('main')!.region, depth.facts, focalPixels(lens, format), format);
  return distance;
}

/** Of planes over a region what lies in a part of it; the planes themselves where that is all, to be read only. */
export const within = (ctx: Context, from: Plane, region: Rect, part: Rect): Plane =>
  copyOver(ctx.kernels, from, region, part, (n) => ctx.scratch(n));

/** What is told of layers that a list names and the picture does not have; null where all are there. */
export function notThere(list: readonly { name: string }[], main: PictureInfo, what: string): string | null {
  const gone = list.filter(({ name }) => !main.channels.some((c) => c === name || c.startsWith(`${name}.`)));
  return gone.length ? `${gone.map((p) => p.name).join(', ')}: no such ${what} is in this picture` : null;
}
