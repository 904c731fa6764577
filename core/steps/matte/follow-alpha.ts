import { toggle } from '../../param';
import { COLOUR } from '../../picture';
import type { RenderContext } from '../../step';
import type { Tile } from '../../picture';

/** Steps that change a matte may carry the premultiplied colour along: c becomes c/A·A′. One toggle, one way. */
export const followAlpha = toggle('Colour follows', true, {
  animatable: false,
  help: 'Premultiplied colour is divided by the old matte and multiplied by the new.',
});

export const matteWrites = (follow: boolean, channels: readonly string[]): readonly string[] =>
  channels.filter((c) => c === 'A' || (follow && (COLOUR as readonly string[]).includes(c)));

/** Writes R, G, B of `out` for the new alpha (a pointer); `before` covers the same region and holds A too. */
export function carryColour<P>(ctx: RenderContext<P>, before: Tile, alpha: number, out: Tile, crop: (c: string) => number): void {
  const { fn } = ctx.kernels;
  const old = crop('A');
  for (const c of COLOUR) {
    const to = out.planes[c];
    if (!to || !before.planes[c]) continue;
    fn.unpremultiply(crop(c), old, to.byteOffset, to.length);
    fn.multiply(to.byteOffset, alpha, to.byteOffset, to.length);
  }
}
