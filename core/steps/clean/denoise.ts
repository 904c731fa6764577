import { padTo } from '../../filters/pad';
import { isEmpty, intersect, grow, width, height, union } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { integer, number } from '../../param';
import { COLOUR, formatRect } from '../../picture';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';

/** Rows that are worked out at once: what they read then stays near. */
const BAND = 24;
/** Light is looked at as √(v + this): noise that goes with the light is then as strong everywhere. */
const LIFT = 0.01;

interface Values {
  search: number;
  patch: number;
  frames: number;
}

const radii = (p: Values, scale: number) => ({ search: Math.max(1, Math.round(p.search * Math.max(0.5, scale))), patch: p.patch });
const framesOf = (p: Values, frame: number): number[] => [
  frame,
  ...Array.from({ length: p.frames }, (_, i) => [frame - i - 1, frame + i + 1]).flat(),
];

export const denoise = defineStep({
  type: 'denoise',
  title: 'Denoise',
  family: 'Filter',
  summary: 'Takes noise away and keeps detail: each pixel is the mean of those whose surroundings look alike.',
  colour: true,
  params: {
    noise: number('Noise', 0.03, [0, 0.15], {
      min: 0,
      max: 2,
      decimals: 3,
      help: 'Its standard deviation as a share of the root of the light: about 2.3 times what Grain measures at 0.18.',
    }),
    strength: number('Strength', 1, [0, 2], { min: 0.01, max: 20, help: 'More smooths more.' }),
    search: integer('Look within', 6, [2, 12], { unit: 'px', min: 1, max: 24, animatable: false, help: 'On each side.' }),
    patch: integer('Patch', 2, [1, 4], { unit: 'px', min: 1, max: 5, animatable: false, help: 'On each side.' }),
    frames: integer('Frames around', 0, [0, 2], {
      min: 0,
      max: 4,
      animatable: false,
      help: 'As many before and after are looked at, too; what moves is found there.',
    }),
  },
  feeds: [],
  frames: (p, io) => ({
    main: framesOf(p as Values, io.frame).filter((f) => f === io.frame || (f >= io.range.first && f <= io.range.last)),
  }),
  neutral: (p) => p.noise === 0,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  needs: (p, want, io) => {
    const { search, patch } = radii(p as Values, io.scale);
    return framesOf(p as Values, io.frame).flatMap((frame) => {
      const bounds = (io.info('main', frame) ?? (frame === io.frame ? io.inputs.main : undefined))?.bounds;
      return bounds ? [{ input: 'main', frame, region: intersect(grow(want.region, search + patch), bounds), channels: COLOUR }] : [];
    });
  },
  render(ctx, p, out) {
    const { search, patch } = radii(p as Values, ctx.scale);
    const { region } = out;
    for (const plane of Object.values(out.planes)) plane.fill(0);
    if (isEmpty(region)) return;
    const pad = search + patch + 4;
    const wide = grow(region, pad);
    const domain = domainOf(ctx);
    const looks = framesOf(p as Values, ctx.frame).flatMap((frame) => {
      const tile = ctx.tile('main', frame);
      if (!tile || isEmpty(tile.region)) return [];
      return [COLOUR.map((c) => rooted(tile.planes[c]!, tile.region, wide, domain, ctx.scratch(width(wide) * height(wide) + 16)))];
    });
    const [own] = looks;
    if (!own) return;
    const stride = width(wide);
    const w = width(region);
    const across = w + 4;
    const sums = [0, 1, 2, 3].map(() => ctx.scratch(across * BAND + 4));
    const size = (BAND + 2 * patch) * (w + 2 * patch + 16);
    const [square, rows] = [ctx.scratch(size), ctx.scratch(size)];
    // Noise of the root of light: half its share. Two patches of nothing else differ by twice its variance.
    const sigma = (p.noise / 2) * shrink(ctx.scale);
    const floor = 2 * sigma * sigma;
    const scale = 1 / Math.max(1e-12, p.strength * p.strength * sigma * sigma);
    const { fn } = ctx.kernels;
    for (let y0 = 0; y0 < height(region); y0 += BAND) {
      const h = Math.min(BAND, height(region) - y0);
      for (const s of sums) s.fill(0);
      const at = 4 * ((y0 + pad) * stride + pad);
      for (const other of looks) {
        for (let dy = -search; dy <= search; dy++) {
          ctx.poll();
          for (let dx = -search; dx <= search; dx++) {
            const to = at + 4 * (dy * stride + dx);
            fn.addAlike(
              own[0]!.byteOffset + at,
              own[1]!.byteOffset + at,
              own[2]!.byteOffset + at,
              other[0]!.byteOffset + to,
              other[1]!.byteOffset + to,
              other[2]!.byteOffset + to,
              stride,
              w,
              h,
              patch,
              floor,
              scale,
              sums[0]!.byteOffset,
              sums[1]!.byteOffset,
              sums[2]!.byteOffset,
              sums[3]!.byteOffset,
              across,
              square.byteOffset,
              rows.byteOffset,
            );
          }
        }
      }
      COLOUR.forEach((c, k) => {
        const plane = out.planes[c];
        if (!plane) return;
        for (let y = 0; y < h; y++) {
          for (let x = 0; x < w; x++) {
            const i = y * across + x;
            plane[(y0 + y) * w + x] = sums[k]![i]! / sums[3]![i]! - LIFT;
          }
        }
      });
    }
  },
});

/** A proxy has averaged noise away before. */
const shrink = (scale: number): number => Math.max(0.2, scale);

const domainOf = (io: StepIo<unknown>): Rect => union(formatRect(io.inputs.main!.format), io.inputs.main!.bounds);

/** √(v + LIFT) over a wider rectangle; beyond the picture's domain its edge is repeated. */
function rooted(from: Float32Array, have: Rect, want: Rect, domain: Rect, to: Float32Array): Float32Array {
  const n = width(want) * height(want);
  padTo(from, have, to, want, domain);
  for (let i = 0; i < n; i++) {
    const v = to[i]! + LIFT;
    to[i] = v >= 0 ? Math.sqrt(v) : -Math.sqrt(-v);
  }
  return to.fill(0, n);
}
