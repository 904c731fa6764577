import { flowPair, givePair, seenLuma } from '../../flow/pair';
import { copyShared } from '../../filters/copy';
import { height, union, width } from '../../geometry/rect';
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
    const { fn } = ctx.kernels;
    const sure = pair.apart;
    fn.affineClamped(sure.byteOffset, sure.byteOffset, sure.length, -2, 2, 0, 1);
    // Pixels of the full format, towards the next frame.
    const k = (other > ctx.frame ? 1 : -1) / ctx.scale;
    const { u, v } = pair.there;
    for (const plane of [u, v]) {
      fn.affine(plane.byteOffset, plane.byteOffset, plane.length, k, 0);
      if (p.held) fn.multiply(plane.byteOffset, sure.byteOffset, plane.byteOffset, plane.length);
    }
    for (const [name, plane] of [
      [X, u],
      [Y, v],
      [CONFIDENCE, sure],
    ] as const) {
      const to = out.planes[name];
      if (to) copyShared(ctx.kernels, plane, region, to.fill(0), out.region);
    }
    givePair(ctx.kernels, pair);
  },
  bounds: (_, io) => union(io.inputs.main!.bounds, frameBounds(io)),
});
