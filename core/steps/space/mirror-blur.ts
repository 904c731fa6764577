import type { Plane } from '@/kernels';
import { gaussianBlur } from '../../filters/gaussian';
import type { Rect } from '../../geometry/rect';
import { width } from '../../geometry/rect';
import type { View } from '../../render/screen';
import type { RenderContext } from '../../step';

/** Parts of the whole blur that are made; between them is mixed. */
const PARTS = [0.25, 0.5, 1] as const;

/** Which part of the way to what is mirrored lies behind the mirror, 0..1: from the distance of what is seen in it, and the plane n·X = d that mirrors. */
export function partBehind(
  depth: Plane,
  { matrix: m, focal, centre }: View,
  [a, b, c, d]: readonly [number, number, number, number],
  region: Rect,
): void {
  const along = [0, 1, 2].map((k) => m[4 * k]! * a + m[4 * k + 1]! * b + m[4 * k + 2]! * c);
  const away = d + along[0]! * m[3]! + along[1]! * m[7]! + along[2]! * m[11]!;
  const w = width(region);
  for (let i = 0; i < depth.length; i++) {
    const [x, y] = [region.x0 + (i % w) + 0.5, region.y0 + Math.floor(i / w) + 0.5];
    const mirror = away / ((along[0]! * (x - centre[0])) / focal + (along[1]! * (y - centre[1])) / focal + along[2]!);
    depth[i] = depth[i] === Infinity ? 0 : Math.min(1, Math.max(0, 1 - mirror / depth[i]!));
  }
}

/**
 * Blurs what a rough mirror shows. It spreads directions by the same angle everywhere, of which as much is seen as is the part of the way that lies behind
 * it: nothing is blurred where it stands on the mirror, and what is endlessly far by all of `sigma`, px. `planes` are R, G, B, A premultiplied and are
 * changed; `behind` is the part of the way, where there is something.
 */
export function blurMirror(ctx: RenderContext<unknown>, planes: readonly Plane[], behind: Plane, region: Rect, sigma: number): void {
  const { kernels } = ctx;
  const n = behind.length;
  const blurred = (from: Plane, by: number): Plane => {
    const to = ctx.scratch(n);
    gaussianBlur(kernels, from, region, to, region, by, by);
    return to;
  };
  const alpha = planes[3]!;
  // Around what is seen, where it spreads to, it is as far as that.
  const weighed = ctx.scratch(n);
  kernels.fn.multiply(behind.byteOffset, alpha.byteOffset, weighed.byteOffset, n);
  const [sum, weight] = [blurred(weighed, sigma / 2), blurred(alpha, sigma / 2)];
  for (let i = 0; i < n; i++) behind[i] = weight[i]! > 1e-6 ? sum[i]! / weight[i]! : 0;
  for (const plane of planes) {
    ctx.poll();
    const made = PARTS.map((p) => blurred(plane, p * sigma));
    for (let i = 0; i < n; i++) {
      const t = behind[i]!;
      const k = t <= PARTS[0] ? 0 : t <= PARTS[1] ? 1 : 2;
      const [low, high] = [k === 0 ? 0 : PARTS[k - 1]!, PARTS[k]!];
      // By the square: variances of blurs add up.
      const share = (t * t - low * low) / (high * high - low * low);
      const from = k === 0 ? plane[i]! : made[k - 1]![i]!;
      plane[i] = from + share * (made[k]![i]! - from);
    }
  }
}
