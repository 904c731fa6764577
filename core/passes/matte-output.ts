import type { Plane } from '@/kernels';
import { copyOver } from '../filters/copy';
import { choice } from '../param';
import type { Tile } from '../picture';
import { RGBA } from '../picture';
import type { RenderContext } from '../step';

/** What becomes of a matte that a step makes out of data. */
export const matteOutput = choice('Gives', 'matte', [
  { value: 'matte', title: 'The matte', help: 'In every channel: for a mask, or to look at.' },
  { value: 'cut', title: 'The picture cut out', help: 'Colour and alpha are multiplied by it.' },
  { value: 'hole', title: 'The picture without it', help: 'Colour and alpha are multiplied by what is left.' },
]);
export type MatteOutput = 'matte' | 'cut' | 'hole';

export const matteChannels = (channels: readonly string[]): string[] => channels.filter((c) => (RGBA as readonly string[]).includes(c));

/** Channels of the picture that are read beside the data. */
export const matteNeeds = (output: MatteOutput, channels: readonly string[]): readonly string[] => (output === 'matte' ? [] : channels);

/** Fills R, G, B, A as the choice says; the matte, over what is written, is used up. */
export function giveMatte(
  ctx: Pick<RenderContext<never>, 'kernels' | 'tile' | 'scratch'>,
  output: MatteOutput,
  matte: Plane,
  out: Tile,
): void {
  const { kernels } = ctx;
  const { fn } = kernels;
  const { region, planes } = ctx.tile('main')!;
  if (output === 'hole') fn.affine(matte.byteOffset, matte.byteOffset, matte.length, -1, 1);
  for (const [c, plane] of Object.entries(out.planes)) {
    if (output === 'matte') plane.set(matte);
    else {
      const from = copyOver(kernels, planes[c]!, region, out.region, (n) => ctx.scratch(n));
      fn.multiply(from.byteOffset, matte.byteOffset, plane.byteOffset, plane.length);
    }
  }
}
