import { FILTERS, tapsOf } from '../../filters/resample';
import { Packed, mapRegion, sampleThrough } from '../../filters/sample';
import { isEmpty } from '../../geometry/rect';
import { sameShape } from '../../lens/lens';
import { choice } from '../../param';
import { defineStep, pixelsOf } from '../../step';

export const stMap = defineStep({
  type: 'stMap',
  title: 'ST map',
  family: 'Place & warp',
  summary: 'Looks each pixel up where another picture says, as lens programs write it.',
  params: {
    unit: choice('Positions', 'share', [
      { value: 'share', title: '0 to 1 of the frame', help: 'The middle of pixel i of n is (i + ½)/n.' },
      { value: 'px', title: 'Pixels', help: 'The middle of pixel i is i + ½.' },
    ]),
    y: choice('Vertical axis', 'less', [
      { value: 'less', title: 'y points up' },
      { value: 'more', title: 'y points down' },
    ]),
    filter: choice('Filter', 'lanczos3', FILTERS),
  },
  feeds: [
    {
      name: 'map',
      title: 'Map',
      help: 'x in its red and y in its green channel, 32 bits a channel; nothing is looked up where its alpha is 0.',
      required: true,
      data: true,
    },
  ],
  remark: (_, { inputs: { main, map } }) => {
    const [a, b] = [main!.format, map!.format];
    if (sameShape(a, b)) return null;
    return `its map is of ${b.width}×${b.height} pixels and the picture of ${a.width}×${a.height}: another shape, so it is stretched; was it made for another plate?`;
  },
  format: (_, io) => io.inputs.map!.format,
  bounds: (_, io) => io.inputs.map!.bounds,
  locality: 'region',
  spreads: (p) => p.filter !== 'nearest',
  needs: (_, { region, channels }, io) => [
    { input: 'main', region: io.inputs.main!.bounds, channels },
    { input: 'map', region: mapRegion(region), channels: ['R', 'G', 'A'] },
  ],
  render(ctx, p, out) {
    const main = ctx.tile('main')!;
    const map = ctx.tile('map')!;
    const outs = Object.values(out.planes);
    if (isEmpty(main.region)) return outs.forEach((o) => void o.fill(0));
    const n = pixelsOf(map);
    const [xs, ys] = [ctx.scratch(n), ctx.scratch(n)];
    const { R, G, A } = map.planes as Record<'R' | 'G' | 'A', Float32Array>;
    const { width, height } = ctx.inputs.main!.format;
    const [kx, ky] = p.unit === 'share' ? [width, height] : [ctx.scale, ctx.scale];
    const top = p.y === 'less' ? height : 0;
    const down = p.y === 'less' ? -ky : ky;
    for (let i = 0; i < n; i++) {
      xs[i] = A[i]! > 0 ? kx * R[i]! : NaN;
      ys[i] = top + down * G[i]!;
    }
    const packed = Packed.of(
      ctx.kernels,
      Object.keys(out.planes).map((c) => main.planes[c]!),
      main.region,
    );
    try {
      sampleThrough(ctx.kernels, packed, outs, out.region, { xs, ys }, tapsOf(p.filter), { most: 4, poll: () => ctx.poll() });
    } finally {
      packed.give();
    }
  },
});
