import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../../geometry/rect';
import { area, height, width } from '../../geometry/rect';
import type { Attribute } from './attributes';
import { samplesIn } from './blocks';
import type { ExrChannel } from './header';

/** Luma and its chroma channels as OpenEXR names them. */
export const LUMA_CHROMA: readonly string[] = ['Y', 'RY', 'BY'];

/** Brings a sub-sampled channel to one sample a pixel, linearly between its samples. Returns a pool plane. */
export function upsample(kernels: Kernels, plane: Plane, c: ExrChannel, dw: Rect): Plane {
  const out = kernels.take(area(dw));
  const [w, h] = [width(dw), height(dw)];
  const [sw, sh] = [samplesIn(dw.x0, dw.x1, c.xSampling), samplesIn(dw.y0, dw.y1, c.ySampling)];
  if (sw === 0 || sh === 0) return out.fill(0);
  const firstX = Math.ceil(dw.x0 / c.xSampling);
  const firstY = Math.ceil(dw.y0 / c.ySampling);
  const place = (at: number, sampling: number, first: number, n: number): [number, number, number] => {
    const t = Math.min(n - 1, Math.max(0, at / sampling - first));
    const i = Math.min(n - 1, Math.floor(t));
    return [i, Math.min(n - 1, i + 1), t - i];
  };
  for (let y = 0; y < h; y++) {
    const [y0, y1, ty] = place(dw.y0 + y, c.ySampling, firstY, sh);
    for (let x = 0; x < w; x++) {
      const [x0, x1, tx] = place(dw.x0 + x, c.xSampling, firstX, sw);
      const top = plane[y0 * sw + x0]! * (1 - tx) + plane[y0 * sw + x1]! * tx;
      const bottom = plane[y1 * sw + x0]! * (1 - tx) + plane[y1 * sw + x1]! * tx;
      out[y * w + x] = top * (1 - ty) + bottom * ty;
    }
  }
  return out;
}

/** Weights of red and blue in luma for primaries given as x, y of red, green, blue and white; Rec.709's without. */
function lumaWeights(chromaticities: Attribute | undefined): readonly [number, number] {
  if (!Array.isArray(chromaticities) || chromaticities.length !== 8) return [0.2126, 0.0722];
  const [rx, ry, gx, gy, bx, by, wx, wy] = chromaticities as number[] as [number, number, number, number, number, number, number, number];
  // Cramer's rule for the amounts of the primaries that make white; each one's luma is its amount times its Y, which is 1 in xyY.
  const column = (x: number, y: number): [number, number, number] => [x / y, 1, (1 - x - y) / y];
  const det = (a: number[], b: number[], c: number[]): number =>
    a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) - b[0]! * (a[1]! * c[2]! - a[2]! * c[1]!) + c[0]! * (a[1]! * b[2]! - a[2]! * b[1]!);
  const [r, g, b, w] = [column(rx, ry), column(gx, gy), column(bx, by), column(wx, wy)];
  const all = det(r, g, b);
  if (!Number.isFinite(all) || Math.abs(all) < 1e-9) return [0.2126, 0.0722];
  return [det(w, g, b) / all, det(r, g, w) / all];
}

/** Replaces Y, RY = (R − Y)/Y and BY = (B − Y)/Y by R, G and B. */
export function toColour(planes: Map<string, Plane>, chromaticities: Attribute | undefined, kernels: Kernels): void {
  const [y, ry, by] = LUMA_CHROMA.map((n) => planes.get(n)!) as [Plane, Plane, Plane];
  const [wr, wb] = lumaWeights(chromaticities);
  const green = kernels.take(y.length);
  for (let i = 0; i < y.length; i++) {
    const luma = y[i]!;
    const red = (ry[i]! + 1) * luma;
    const blue = (by[i]! + 1) * luma;
    ry[i] = red;
    by[i] = blue;
    green[i] = (luma - wr * red - wb * blue) / (1 - wr - wb);
  }
  for (const [name, plane] of [
    ['R', ry],
    ['G', green],
    ['B', by],
  ] as const) {
    planes.set(name, plane);
  }
  planes.delete('RY');
  planes.delete('BY');
}
