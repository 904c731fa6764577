import { intersect, rect } from '../../geometry/rect';
import { number } from '../../param';
import type { Format } from '../../picture';
import { defineStep } from '../../step';

interface Margins {
  left: number;
  top: number;
  right: number;
  bottom: number;
  softness: number;
}

const kept = (p: Margins, f: Format) => ({ x0: p.left, y0: p.top, x1: f.width - p.right, y1: f.height - p.bottom });

const margin = (title: string) => number(title, 0, [0, 1000], { unit: 'px', min: -8192, max: 32768, pixels: true, group: 'Cut away' });

/** Coverage of the pixel whose low edge is at x by [a, b], eased over `soft` pixels inward. */
function coverage(x: number, a: number, b: number, soft: number): number {
  const hard = Math.max(0, Math.min(x + 1, b) - Math.max(x, a));
  if (soft <= 0 || hard === 0) return Math.min(1, hard);
  const t = Math.min(1, Math.max(0, Math.min(x + 0.5 - a, b - x - 0.5) / soft));
  return Math.min(hard, t * t * (3 - 2 * t));
}

export const crop = defineStep({
  type: 'crop',
  title: 'Crop',
  family: 'Place & warp',
  summary: 'Throws away what lies outside a rectangle, with a soft edge if asked.',
  params: {
    left: margin('Left'),
    top: margin('Top'),
    right: margin('Right'),
    bottom: margin('Bottom'),
    softness: number('Softness', 0, [0, 200], { unit: 'px', min: 0, max: 8192, pixels: true }),
  },
  feeds: [],
  bounds: (p, io) => {
    const k = kept(p, io.inputs.main!.format);
    const box = rect(Math.floor(k.x0), Math.floor(k.y0), Math.ceil(k.x1), Math.ceil(k.y1));
    return intersect(io.inputs.main!.bounds, box);
  },
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const k = kept(p, ctx.inputs.main!.format);
    const { region } = out;
    const w = region.x1 - region.x0;
    const gains = Float32Array.from({ length: w }, (_, x) => coverage(region.x0 + x, k.x0, k.x1, p.softness));
    const { fn } = ctx.kernels;
    const row = ctx.scratch(w);
    const share = ctx.scratch(w).fill(0);
    share.set(gains);
    const names = Object.keys(out.planes);
    for (let y = region.y0; y < region.y1; y++) {
      fn.affine(share.byteOffset, row.byteOffset, w, coverage(y, k.y0, k.y1, p.softness), 0);
      // A row may run over into the next one, which is written after it.
      const at = 4 * (y - region.y0) * w;
      for (const c of names) fn.multiply(from.planes[c]!.byteOffset + at, row.byteOffset, out.planes[c]!.byteOffset + at, w);
    }
  },
});
