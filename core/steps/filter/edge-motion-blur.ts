import { copyOver } from '../../filters/copy';
import { gaussianBlur, gaussianRegion } from '../../filters/gaussian';
import { meanThrough } from '../../filters/mean-through';
import { IDENTITY_H, invert, multiply } from '../../geometry/fit';
import type { Homography } from '../../geometry/homography';
import { mapPoint } from '../../geometry/homography';
import { area, grow, intersect, union } from '../../geometry/rect';
import { number, reading, toggle } from '../../param';
import { RGBA, domainOf } from '../../picture';
import { ALL_PARTS, followMap } from '../../readings/track-data';
import type { ReadingData } from '../../readings/track-data';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';
import { shutterParams } from './shutter';

interface Values {
  reading: ReadingData | null;
  shutter: number;
  phase: number;
}

/** From places now to where the same was at a time of the shutter, 0 to 1. */
function wayTo({ reading: data, shutter, phase }: Values, frame: number, time: number): Homography {
  if (!data) return IDENTITY_H;
  const now = invert(followMap(data, null, frame, ALL_PARTS));
  const then = followMap(data, null, frame + (phase + time * shutter) / 360, ALL_PARTS);
  return now ? multiply(then, now) : IDENTITY_H;
}

/** The longest way that a corner of the picture goes while the shutter is open, in pixels. */
function longest(p: Values, io: StepIo<unknown>): number {
  const { x0, y0, x1, y1 } = io.inputs.main!.bounds;
  const ways = [0, 1].map((t) => wayTo(p, io.frame, t));
  return Math.min(
    1000,
    Math.max(
      ...[
        [x0, y0],
        [x1, y0],
        [x0, y1],
        [x1, y1],
      ].flatMap(([x, y]) => {
        const [a, b] = ways.map((m) => mapPoint(m, x!, y!)) as [[number, number], [number, number]];
        const far = [Math.hypot(a[0] - x!, a[1] - y!), Math.hypot(b[0] - x!, b[1] - y!), Math.hypot(a[0] - b[0], a[1] - b[1])];
        return far.map((d) => (Number.isFinite(d) ? d : 0));
      }),
    ),
  );
}

const LEAST = 0.05;
const MOST_SAMPLES = 48;

export const edgeMotionBlur = defineStep({
  type: 'edgeMotionBlur',
  title: 'Edge motion blur',
  family: 'Filter',
  summary: 'Blurs the edge of what is cut out along the motion of a reading, as the shutter would have; the inside stays as it was filmed.',
  params: {
    reading: reading('Motion of', 'any'),
    ...shutterParams,
    edges: toggle('Edges only', true, { animatable: false }),
    width: number('Edge width', 4, [1, 30], { unit: 'px', min: 0.5, max: 200, pixels: true, when: { edges: [true] } }),
  },
  feeds: [],
  neutral: (p, io) => p.shutter === 0 || longest(p as Values, io as StepIo<unknown>) < LEAST,
  bounds: (p, io) => {
    const { bounds, format } = io.inputs.main!;
    return intersect(grow(bounds, Math.ceil(longest(p as Values, io as StepIo<unknown>)) + 1), domainOf({ bounds, format }));
  },
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c)),
  locality: 'region',
  needs(p, { region, channels }, io) {
    const { bounds } = io.inputs.main!;
    const way = grow(region, Math.ceil(longest(p as Values, io as StepIo<unknown>)) + 2);
    const edge = gaussianRegion(region, p.width, p.width);
    return [{ input: 'main', region: intersect(union(way, edge), bounds), channels: [...new Set([...channels, 'A'])] }];
  },
  render(ctx, p, out) {
    const { kernels } = ctx;
    const from = ctx.tile('main')!;
    const { bounds, format } = ctx.inputs.main!;
    const domain = domainOf({ bounds, format });
    const channels = Object.keys(out.planes);
    const io = ctx as StepIo<unknown>;
    const count = Math.max(3, Math.min(MOST_SAMPLES, Math.ceil(longest(p as Values, io)) + 1));
    const maps = Array.from({ length: count }, (_, k) => wayTo(p as Values, ctx.frame, (k + 0.5) / count));
    const outs = channels.map((c) => out.planes[c]!);
    meanThrough(
      kernels,
      channels.map((c) => from.planes[c]!),
      from.region,
      outs,
      out.region,
      maps,
      domain,
      () => ctx.poll(),
    );
    if (!p.edges) return;
    const n = area(out.region);
    const soft = ctx.scratch(n);
    gaussianBlur(kernels, from.planes.A!, from.region, soft, out.region, p.width, p.width, domain);
    // 1 where coverage is half, within about a width of the edge; 0 well inside and outside.
    for (let i = 0; i < n; i++) soft[i] = Math.max(0, Math.min(1, 12 * soft[i]! * (1 - soft[i]!) - 0.5));
    channels.forEach((c, k) => {
      const own = copyOver(kernels, from.planes[c]!, from.region, out.region, (count) => ctx.scratch(count));
      const plane = outs[k]!;
      for (let i = 0; i < n; i++) plane[i] = own[i]! + soft[i]! * (plane[i]! - own[i]!);
    });
  },
});
