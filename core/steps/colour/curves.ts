import { SRGB } from '../../colour/transfer';
import { choice, curves as curvesParam } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep } from '../../step';

/** Light that the table covers, and its entries: evenly in the light's square root, so that the dark end is fine enough. */
const MOST = 4;
const ENTRIES = 8192;

/** A table of a function of light for light from 0 to MOST. */
function tabled(f: (x: number) => number): Float64Array {
  return Float64Array.from({ length: ENTRIES + 1 }, (_, i) => f(MOST * (i / ENTRIES) ** 2));
}

export const curves = defineStep({
  type: 'curves',
  title: 'Curves',
  family: 'Colour',
  summary: 'Draws brightness and colour by curves, of all channels and of each.',
  colour: true,
  params: {
    curves: curvesParam('Curves'),
    space: choice('Drawn in', 'display', [
      { value: 'display', title: 'Display codes', help: 'Dark parts have as much room as bright ones (sRGB).' },
      { value: 'light', title: 'Scene light' },
    ]),
  },
  feeds: [],
  neutral: (p) => p.curves.straight,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const coded = p.space === 'display';
    for (const c of COLOUR) {
      const plane = out.planes[c];
      const curve = p.curves.forChannel(c);
      if (!plane) continue;
      const source = from.planes[c]!;
      if (!curve) {
        plane.set(source);
        continue;
      }
      const exact = coded ? (x: number): number => SRGB.decode(curve(SRGB.encode(x))) : curve;
      const table = tabled(exact);
      for (let i = 0; i < plane.length; i++) {
        const x = source[i]!;
        // NaN goes the exact way, too, and stays what it is.
        if (!(x >= 0 && x < MOST)) {
          plane[i] = exact(x);
          continue;
        }
        const at = ENTRIES * Math.sqrt(x / MOST);
        const k = at | 0;
        plane[i] = table[k]! + (at - k) * (table[k + 1]! - table[k]!);
      }
    }
  },
});
