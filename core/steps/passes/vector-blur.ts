import { grow, height, width } from '../../geometry/rect';
import { onlyChannel, takeFromSolid, viewParams } from '../../passes/depth';
import { toPixels } from '../../passes/merge';
import { passOf } from '../../passes/roles';
import { integer, layer, number } from '../../param';
import type { PictureInfo } from '../../picture';
import { RGBA } from '../../picture';
import { defineStep } from '../../step';
import { shutterParams } from '../filter/shutter';
import { copyOf, depthIn, distanceOf } from './data';

const motionIn = (main: PictureInfo | undefined, name: string) => passOf(main?.passes, name, 'motion');

/** Pixels of a tile's side. */
const LEAST_TILE = 8;
const MOST_TILE = 64;

export const vectorBlur = defineStep({
  type: 'vectorBlur',
  title: 'Vector blur',
  family: 'Passes',
  summary: 'Blurs what moves along its own motion while the shutter is open, over what stands still and behind what is nearer.',
  readsData: true,
  params: {
    motion: layer('Motion', { role: 'motion' }),
    depth: layer('Depth', { role: 'depth', help: 'Says what moves in front of what. Without one all lies at one distance.' }),
    ...shutterParams,
    most: number('At most', 64, [4, 128], { unit: 'px', min: 1, max: 400, pixels: true, help: 'Motion that is longer is cut to this.' }),
    samples: integer('Samples', 33, [5, 65], { min: 3, max: 129, animatable: false }),
    ...viewParams,
  },
  feeds: [],
  remark: (p, io) =>
    motionIn(io.inputs.main, p.motion) ? null : 'the picture has no motion: choose a layer, or say in the layer grid which one it is',
  neutral: (p, io) => p.shutter === 0 || !motionIn(io.inputs.main, p.motion),
  bounds: (p, io) => grow(io.inputs.main!.bounds, Math.ceil(p.most)),
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c)),
  locality: 'region',
  needs(p, { region }, io) {
    const { main } = io.inputs;
    const depth = depthIn(main, p.depth);
    const channels = [...RGBA, ...motionIn(main, p.motion)!.channels.slice(0, 2), ...(depth ? [onlyChannel(depth)] : [])];
    return [{ input: 'main', region: grow(region, Math.ceil(p.most) + 1), channels }];
  },
  render(ctx, p, out) {
    const { kernels } = ctx;
    const { fn } = kernels;
    const main = ctx.inputs.main!;
    const { region, planes } = ctx.tile('main')!;
    const [w, h] = [width(region), height(region)];
    const n = w * h;
    const alpha = planes.A!;
    const motion = motionIn(main, p.motion)!;
    const [vx, vy] = ([0, 1] as const).map((axis) => {
      const plane = copyOf(ctx, motion.channels[axis]!);
      toPixels(plane, axis, motion.facts, main.format, ctx.scale);
      fn.affine(plane.byteOffset, plane.byteOffset, n, ctx.scale, 0);
      return plane;
    }) as [Float32Array, Float32Array];
    const pass = depthIn(main, p.depth);
    const depth = pass ? distanceOf(ctx, pass, p) : ctx.scratch(n).fill(1);
    takeFromSolid([vx, vy, depth], alpha, w);
    // A longer way than `most` would be looked for beyond what was asked for.
    const [from, to] = [p.phase / 360, (p.phase + p.shutter) / 360];
    const side = Math.max(Math.abs(from), Math.abs(to), 1e-6);
    let longest = 0;
    for (let i = 0; i < n; i++) {
      if (alpha[i]! <= 0) {
        vx[i] = vy[i] = 0;
        depth[i] = Infinity;
        continue;
      }
      const length = Math.sqrt(vx[i]! * vx[i]! + vy[i]! * vy[i]!) * side;
      if (length > p.most) {
        vx[i]! *= p.most / length;
        vy[i]! *= p.most / length;
      }
      if (length > longest) longest = Math.min(length, p.most);
    }
    const tile = Math.min(MOST_TILE, Math.max(LEAST_TILE, Math.ceil(longest)));
    const tiles = neighbourMax(vx, vy, w, h, tile, (k) => ctx.scratch(k));
    ctx.poll();
    const packed = ctx.scratch(4 * n + 16);
    const [r, g, b, a] = RGBA.map((c) => planes[c]!.byteOffset) as [number, number, number, number];
    fn.packFour(r, g, b, a, packed.byteOffset, n);
    const [ow, oh] = [width(out.region), height(out.region)];
    const [x0, y0] = [out.region.x0 - region.x0, out.region.y0 - region.y0];
    const made = ctx.scratch(4 * ow * oh + 16);
    const wide = Math.ceil(w / tile);
    // A band at a time, so that newer work is not kept waiting.
    for (let y = 0; y < oh; y += 32) {
      ctx.poll();
      fn.motionBlur(
        packed.byteOffset,
        vx.byteOffset,
        vy.byteOffset,
        depth.byteOffset,
        w,
        h,
        tiles.byteOffset,
        wide,
        tile,
        made.byteOffset + 16 * y * ow,
        x0,
        y0 + y,
        ow,
        Math.min(32, oh - y),
        from,
        to,
        p.samples,
        0.01,
      );
    }
    const to4 = RGBA.map((c) => (out.planes[c] ?? ctx.scratch(ow * oh)).byteOffset) as [number, number, number, number];
    fn.unpackFour(made.byteOffset, ...to4, ow * oh);
  },
});

/** For each tile the longest vector of itself and the eight around it: pairs of x and y. */
function neighbourMax(
  vx: Float32Array,
  vy: Float32Array,
  w: number,
  h: number,
  side: number,
  take: (n: number) => Float32Array,
): Float32Array {
  const [tw, th] = [Math.ceil(w / side), Math.ceil(h / side)];
  const own = new Float32Array(2 * tw * th);
  const lengths = new Float32Array(tw * th);
  for (let y = 0, i = 0; y < h; y++) {
    for (let x = 0; x < w; x++, i++) {
      const length = vx[i]! * vx[i]! + vy[i]! * vy[i]!;
      const t = ((y / side) | 0) * tw + ((x / side) | 0);
      if (length <= lengths[t]!) continue;
      lengths[t] = length;
      own[2 * t] = vx[i]!;
      own[2 * t + 1] = vy[i]!;
    }
  }
  const out = take(2 * tw * th).fill(0);
  for (let y = 0; y < th; y++) {
    for (let x = 0; x < tw; x++) {
      let best = -1;
      for (let v = Math.max(0, y - 1); v <= Math.min(th - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(tw - 1, x + 1); u++) {
          if (best < 0 || lengths[v * tw + u]! > lengths[best]!) best = v * tw + u;
        }
      }
      out[2 * (y * tw + x)] = own[2 * best]!;
      out[2 * (y * tw + x) + 1] = own[2 * best + 1]!;
    }
  }
  return out;
}
