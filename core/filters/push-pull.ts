/** Planes that share one size, premultiplied by their weight (0: nothing is known there, 1: known). */
interface Level {
  planes: Float32Array[];
  weight: Float32Array;
  w: number;
  h: number;
}

/** Half the size; a sample is the weighted mean of four, and fully known as soon as what lies under it adds up to one. */
function push({ planes, weight, w, h }: Level): Level {
  const [hw, hh] = [(w + 1) >> 1, (h + 1) >> 1];
  const next: Level = { planes: planes.map(() => new Float32Array(hw * hh)), weight: new Float32Array(hw * hh), w: hw, h: hh };
  for (let y = 0; y < hh; y++) {
    const [a, b] = [2 * y * w, Math.min(2 * y + 1, h - 1) * w];
    const below = 2 * y + 1 < h ? 1 : 0;
    for (let x = 0; x < hw; x++) {
      const [l, r] = [2 * x, Math.min(2 * x + 1, w - 1)];
      const beside = 2 * x + 1 < w ? 1 : 0;
      const i = y * hw + x;
      const sum = weight[a + l]! + beside * weight[a + r]! + below * (weight[b + l]! + beside * weight[b + r]!);
      if (sum <= 0) continue;
      const known = Math.min(1, sum);
      next.weight[i] = known;
      const k = known / sum;
      for (let c = 0; c < planes.length; c++) {
        const p = planes[c]!;
        next.planes[c]![i] = k * (p[a + l]! + beside * p[a + r]! + below * (p[b + l]! + beside * p[b + r]!));
      }
    }
  }
  return next;
}

/** Puts what a coarser level knows under a finer one, bilinearly, where that one does not know everything itself. */
function pull(fine: Level, coarse: Level): void {
  const { w, h } = fine;
  for (let y = 0; y < h; y++) {
    const y0 = y >> 1;
    const y1 = Math.min(coarse.h - 1, Math.max(0, y0 + (y & 1 ? 1 : -1)));
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const open = 1 - fine.weight[i]!;
      if (open <= 0) continue;
      const x0 = x >> 1;
      const x1 = Math.min(coarse.w - 1, Math.max(0, x0 + (x & 1 ? 1 : -1)));
      const [a, b, c, d] = [y0 * coarse.w + x0, y0 * coarse.w + x1, y1 * coarse.w + x0, y1 * coarse.w + x1];
      const mix = (p: Float32Array): number => 0.5625 * p[a]! + 0.1875 * (p[b]! + p[c]!) + 0.0625 * p[d]!;
      fine.weight[i]! += open * mix(coarse.weight);
      for (let k = 0; k < fine.planes.length; k++) fine.planes[k]![i]! += open * mix(coarse.planes[k]!);
    }
  }
}

/**
 * Fills what is not known from what is, smoothly, by a pyramid (the push–pull of Gortler et al. 1996). `planes` are premultiplied
 * by `weight` (0..1) and are changed in place, the weight too: where it becomes 1 the planes hold colour. With `levels` the
 * filling reaches about 2^levels pixels; without, it leaves nothing open wherever anything is known.
 */
export function pushPull(planes: Float32Array[], weight: Float32Array, w: number, h: number, levels = Infinity): void {
  const pyramid: Level[] = [{ planes, weight, w, h }];
  for (let at = pyramid[0]!; (at.w > 1 || at.h > 1) && pyramid.length <= levels;) pyramid.push((at = push(at)));
  for (let i = pyramid.length - 2; i >= 0; i--) pull(pyramid[i]!, pyramid[i + 1]!);
}
