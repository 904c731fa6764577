import { flowPair, givePair, seenLuma } from '../../flow/pair';
import { height, intersect, union, width } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { toggle } from '../../param';
import type { Tile } from '../../picture';
import { COLOUR } from '../../picture';
import type { TimeIo } from '../../step';
import { defineStep } from '../../step';
import { boundsOver } from './frames';

const LAYER = 'motion';
const [X, Y] = [`${LAYER}.X`, `${LAYER}.Y`];
const CONFIDENCE = 'confidence';
const MADE = [X, Y, CONFIDENCE];

/** After the shot's last frame nothing is known: the motion from the one before is taken there. */
const otherOf = ({ frame, range }: TimeIo<unknown>): number => (frame >= range.last && frame > range.first ? frame - 1 : frame + 1);

const frameBounds = (io: TimeIo<unknown> & Parameters<typeof boundsOver>[1]): Rect => boundsOver([io.frame, otherOf(io)], io);

/**
 * Optical flow: dense inverse search (Kroeger et al. 2016) with the variational refinement of Brox et al. 2004, there and back. Confidence is 1 where
 * the two agree within 0.35 px and falls to 0 at 0.7 px, a tenth of the way more on long ways.
 */
export const motionVectors = defineStep({
  type: 'motionVectors',
  title: 'Motion vectors',
  family: 'Time',
  summary: 'Measures how each pixel moves to the next frame, for vector blur and others, and how sure that is.',
  params: {
    held: toggle('Only where sure', false, {
      animatable: false,
      help: 'No motion where the way there and back do not agree: what is being covered stands still.',
    }),
  },
  feeds: [],
  frames: (_, io) => ({ main: [io.frame, otherOf(io)] }),
  // The last frame looks back.
  identity: (_, io) => otherOf(io) - io.frame,
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...MADE])],
  passes: (_, io) => [
    ...(io.inputs.main!.passes ?? []).filter((p) => p.role !== 'motion' && p.name !== LAYER),
    { name: LAYER, kind: 'motion', channels: [X, Y], role: 'motion' },
  ],
  writes: (_, channels) => channels.filter((c) => MADE.includes(c)),
  locality: 'whole',
  needs: (_, __, io) => [io.frame, otherOf(io)].map((frame) => ({ input: 'main', frame, region: frameBounds(io), channels: COLOUR })),
  render(ctx, p, out) {
    const other = otherOf(ctx);
    const region = frameBounds(ctx);
    const [w, h] = [width(region), height(region)];
    const [from, to] = [ctx.frame, other].map((f) => {
      const { planes } = ctx.tile('main', f) as Tile;
      return seenLuma(planes.R!, planes.G!, planes.B!);
    }) as [Float32Array, Float32Array];
    const pair = flowPair(ctx.kernels, from, to, w, h, () => ctx.poll());
    const sure = pair.apart.map((a) => Math.max(0, Math.min(1, 2 - 2 * a)));
    // Pixels of the full format, towards the next frame.
    const k = (other > ctx.frame ? 1 : -1) / ctx.scale;
    const ow = width(out.region);
    const both = intersect(region, out.region);
    for (const plane of Object.values(out.planes)) plane.fill(0);
    for (let y = both.y0; y < both.y1; y++) {
      for (let x = both.x0; x < both.x1; x++) {
        const i = (y - region.y0) * w + x - region.x0;
        const o = (y - out.region.y0) * ow + x - out.region.x0;
        const share = p.held ? sure[i]! : 1;
        if (out.planes[X]) out.planes[X][o] = share * k * pair.there.u[i]!;
        if (out.planes[Y]) out.planes[Y][o] = share * k * pair.there.v[i]!;
        if (out.planes[CONFIDENCE]) out.planes[CONFIDENCE][o] = sure[i]!;
      }
    }
    givePair(ctx.kernels, pair);
  },
  bounds: (_, io) => union(io.inputs.main!.bounds, frameBounds(io)),
});
