import type { Rect } from '../../geometry/rect';
import { intersect, isEmpty, rect, union, width } from '../../geometry/rect';
import { choice, number, point } from '../../param';
import { formatRect } from '../../picture';
import { defineStep } from '../../step';
import { channelSet } from '../channel-set';

interface Tiles {
  size: number;
  corner: readonly [number, number];
}

/** Number of the tile that a pixel's middle lies in, along an axis. */
const tileOf = (pixel: number, size: number, corner: number): number => Math.floor((pixel + 0.5 - corner) / size);
/** The pixel at which a tile begins. */
const startOf = (tile: number, size: number, corner: number): number => Math.ceil(tile * size + corner - 0.5);

/** Whole tiles that a region touches, no farther than the picture is known. */
function wholeTiles({ size, corner: [cx, cy] }: Tiles, r: Rect, domain: Rect): Rect {
  if (isEmpty(r)) return r;
  const grown = rect(
    startOf(tileOf(r.x0, size, cx), size, cx),
    startOf(tileOf(r.y0, size, cy), size, cy),
    startOf(tileOf(r.x1 - 1, size, cx) + 1, size, cx),
    startOf(tileOf(r.y1 - 1, size, cy) + 1, size, cy),
  );
  return intersect(grown, domain);
}

export const mosaic = defineStep({
  type: 'mosaic',
  title: 'Mosaic',
  family: 'Filter',
  summary: 'Gives every tile of the picture its mean.',
  params: {
    size: number('Tile', 16, [1, 100], { unit: 'px', min: 1, max: 4096, pixels: true }),
    corner: point('Corner', [0, 0], {
      unit: 'px',
      pixels: true,
      help: 'Where a corner of the tiles lies: keyed, the tiles go along with something.',
    }),
    channels: choice('Channels', 'all', channelSet.options),
  },
  feeds: [],
  neutral: (p) => p.size <= 1,
  bounds: (p, io) => {
    const { bounds, format } = io.inputs.main!;
    return wholeTiles(p, bounds, union(bounds, formatRect(format)));
  },
  writes: (p, channels) => channelSet.pick(p.channels, channels),
  needs: (p, want, io) => {
    const { bounds, format } = io.inputs.main!;
    const region = wholeTiles(p, want.region, union(bounds, formatRect(format)));
    return [{ input: 'main', region: intersect(region, bounds), channels: want.channels }];
  },
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const { bounds, format } = ctx.inputs.main!;
    const domain = union(bounds, formatRect(format));
    const { size, corner } = p;
    const [w, fw] = [width(out.region), width(from.region)];
    for (let y = out.region.y0; y < out.region.y1;) {
      ctx.poll();
      const row = tileOf(y, size, corner[1]);
      const bottom = Math.min(out.region.y1, startOf(row + 1, size, corner[1]));
      for (let x = out.region.x0; x < out.region.x1;) {
        const column = tileOf(x, size, corner[0]);
        const right = Math.min(out.region.x1, startOf(column + 1, size, corner[0]));
        const tile = intersect(
          rect(
            startOf(column, size, corner[0]),
            startOf(row, size, corner[1]),
            startOf(column + 1, size, corner[0]),
            startOf(row + 1, size, corner[1]),
          ),
          domain,
        );
        const held = intersect(tile, from.region);
        const count = Math.max(1, (tile.x1 - tile.x0) * (tile.y1 - tile.y0));
        for (const [c, plane] of Object.entries(out.planes)) {
          const source = from.planes[c];
          let sum = 0;
          for (let v = held.y0; source && v < held.y1; v++) {
            const o = (v - from.region.y0) * fw - from.region.x0;
            for (let u = held.x0; u < held.x1; u++) sum += source[o + u]!;
          }
          const mean = sum / count;
          for (let v = y; v < bottom; v++) {
            const o = (v - out.region.y0) * w - out.region.x0;
            plane.fill(mean, o + x, o + right);
          }
        }
        x = right;
      }
      y = bottom;
    }
  },
});
