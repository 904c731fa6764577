import { copyOver } from '../../filters/copy';
import { toggle } from '../../param';
import type { Tile } from '../../picture';
import { COLOUR } from '../../picture';
import type { RenderContext } from '../../step';

/** Steps that change a matte may carry the premultiplied colour along: c becomes c/A·A′. One toggle, one way. */
export const followAlpha = toggle('Colour follows', true, {
  animatable: false,
  help: 'Premultiplied colour is divided by the old matte and multiplied by the new.',
});

export const matteWrites = (follow: boolean, channels: readonly string[]): readonly string[] =>
  channels.filter((c) => c === 'A' || (follow && (COLOUR as readonly string[]).includes(c)));

/** Writes R, G, B of `out` for the new alpha, which covers the same region; `before` holds A too. */
export function carryColour<P>(ctx: RenderContext<P>, before: Tile, alpha: number, out: Tile): void {
  const over = (c: string): number => copyOver(ctx.kernels, before.planes[c]!, before.region, out.region, ctx.scratch).byteOffset;
  const old = over('A');
  for (const c of COLOUR) {
    const to = out.planes[c];
    if (to && before.planes[c]) ctx.kernels.fn.carryAlpha(over(c), old, alpha, to.byteOffset, to.length);
  }
}
