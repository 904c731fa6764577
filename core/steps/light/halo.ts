import type { Plane } from '@/kernels';
import { gaussianBlur, gaussianPad } from '../../filters/gaussian';
import { copyOver, copyShared } from '../../filters/copy';
import { addTo, brightParts, stops } from '../../light/bright';
import { area, grow, intersect } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { COLOUR, domainOf } from '../../picture';
import type { PictureInfo } from '../../picture';
import type { FeedDefinition } from '../../param';
import type { Need, RenderContext, StepIo } from '../../step';

/** How light spreads: Gaussians, each half as wide as the next, the widest last; `fall` is how strong each is beside the one before. */
export interface Spread {
  size: number;
  octaves: number;
  fall: number;
}

const sigmasOf = ({ size, octaves }: Spread): number[] => Array.from({ length: octaves }, (_, k) => size / 2 ** (octaves - 1 - k));

const weightsOf = ({ octaves, fall }: Spread): number[] => {
  const all = Array.from({ length: octaves }, (_, k) => fall ** k);
  const sum = all.reduce((a, b) => a + b, 0);
  return all.map((w) => w / sum);
};

/** A feed whose alpha says which light is spread. */
export const onlyFeed = (does: string): FeedDefinition => ({
  name: 'only',
  title: 'Only',
  help: `Only what its alpha covers ${does}.`,
  matte: true,
});

/** What a step that spreads light needs of its picture, and of what limits it. */
export function haloNeeds(region: Rect, size: number, { inputs: { main, only } }: Pick<StepIo<unknown>, 'inputs'>): Need[] {
  const wide = intersect(grow(region, gaussianPad(size)), main!.bounds);
  const needs: Need[] = [{ input: 'main', region: wide, channels: COLOUR }];
  if (only) needs.push({ input: 'only', region: intersect(wide, only.bounds), channels: ['A'] });
  return needs;
}

/** Where a step that spreads light can have pixels. */
export const haloBounds = ({ bounds, format }: PictureInfo, size: number): Rect =>
  intersect(grow(bounds, Math.ceil(3 * size)), domainOf({ bounds, format }));

/**
 * The light of bright parts, spread, over a region: three planes of scratch; and the bright parts themselves, over all that was read. Lit only where the
 * feed `only` is, if connected. `byChannel` says how wide red, green and blue spread beside that.
 */
export function haloOf(
  ctx: RenderContext<unknown>,
  region: Rect,
  threshold: number,
  spread: Spread,
  byChannel: readonly [number, number, number] = [1, 1, 1],
): { halo: [Plane, Plane, Plane]; bright: [Plane, Plane, Plane] } {
  const { kernels } = ctx;
  const main = ctx.tile('main')!;
  const wide = main.region;
  const take = (n: number): [Plane, Plane, Plane] => [ctx.scratch(n), ctx.scratch(n), ctx.scratch(n)];
  const bright = take(area(wide));
  brightParts(COLOUR.map((c) => main.planes[c]!) as unknown as [Plane, Plane, Plane], bright, stops(threshold));
  const matte = matteOver(ctx, 'only', wide);
  if (matte) for (const plane of bright) kernels.fn.multiply(plane.byteOffset, matte.byteOffset, plane.byteOffset, plane.length);
  const halo = take(area(region));
  const one = ctx.scratch(area(region));
  const weights = weightsOf(spread);
  halo.forEach((to, c) => {
    to.fill(0);
    sigmasOf({ ...spread, size: spread.size * byChannel[c]! }).forEach((sigma, k) => {
      ctx.poll();
      gaussianBlur(kernels, bright[c]!, wide, one, region, sigma, sigma);
      addTo(kernels, to, one, weights[k]!);
    });
  });
  return { halo, bright };
}

/** A channel of `main` over a region, nothing where it holds nothing. */
export function copyMain(ctx: Pick<RenderContext<unknown>, 'tile' | 'kernels'>, channel: string, to: Plane, region: Rect): void {
  const main = ctx.tile('main')!;
  copyShared(ctx.kernels, main.planes[channel]!, main.region, to.fill(0), region);
}

/** The alpha of a feed over a region, nothing where it holds nothing; to be read only. */
export function matteOver(ctx: RenderContext<unknown>, input: string, region: Rect): Plane | null {
  const tile = ctx.tile(input);
  return tile ? copyOver(ctx.kernels, tile.planes.A!, tile.region, region, (n) => ctx.scratch(n)) : null;
}
