import { padTo } from '../../filters/pad';
import { grow, height, intersect, isEmpty, rect, union, width } from '../../geometry/rect';
import { choice, integer } from '../../param';
import { formatRect } from '../../picture';
import { defineStep } from '../../step';
import { channelSet } from '../channel-set';

/** Pixels on each side at a scale: never none, so that a proxy shows that it acts. */
const reachOf = (radius: number, scale: number): number => Math.max(1, Math.round(radius * scale));

/** Rows between two looks at whether the work is still wanted. */
const BAND = 32;

export const median = defineStep({
  type: 'median',
  title: 'Median',
  family: 'Filter',
  summary: 'Takes specks and single bad pixels out: each pixel becomes the middle one of those around it.',
  params: {
    radius: integer('Radius', 1, [0, 4], { unit: 'px', min: 0, max: 4, help: 'A square of twice that and one.' }),
    channels: choice('Channels', 'all', channelSet.options),
  },
  feeds: [],
  neutral: (p) => p.radius === 0,
  writes: (p, channels) => channelSet.pick(p.channels, channels),
  needs: (p, want, io) => {
    const r = reachOf(p.radius, io.scale);
    return [{ input: 'main', region: intersect(grow(want.region, r), io.inputs.main!.bounds), channels: want.channels }];
  },
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const { format, bounds } = ctx.inputs.main!;
    const r = reachOf(p.radius, ctx.scale);
    const domain = union(formatRect(format), bounds);
    const w = width(out.region);
    const padded = ctx.scratch((w + 2 * r + 4) * (BAND + 2 * r));
    const window = ctx.scratch(4 * 82);
    for (const [c, plane] of Object.entries(out.planes)) {
      if (isEmpty(from.region)) {
        plane.fill(0);
        continue;
      }
      for (let y = 0; y < height(out.region); y += BAND) {
        ctx.poll();
        const rows = Math.min(BAND, height(out.region) - y);
        const wide = grow(rect(out.region.x0, out.region.y0 + y, out.region.x1, out.region.y0 + y + rows), r);
        padTo(from.planes[c]!, from.region, padded, wide, domain, w + 2 * r + 4);
        ctx.kernels.fn.medianRows(padded.byteOffset, w + 2 * r + 4, plane.byteOffset + 4 * y * w, w, rows, r, window.byteOffset);
      }
    }
  },
});
