/** Planes that share one size, premultiplied by their weight (0: nothing is known there, 1: known). */
interface Level {
  planes: Float32Array[];
  weight: Float32Array;
  w: number;
  h: number;
}

/** Sums of four samples, those beyond the edge left out. */
function sumFour(from: Float32Array, w: number, h: number, to: Float32Array): void {
  const hw = (w + 1) >> 1;
  for (let y = 0, o = 0; 2 * y < h; y++) {
    const a = 2 * y * w;
    const b = 2 * y + 1 < h ? a + w : -1;
    const whole = w >> 1;
    if (b >= 0)
      for (let x = 0, i = 0; x < whole; x++, i += 2) to[o + x] = from[a + i]! + from[a + i + 1]! + from[b + i]! + from[b + i + 1]!;
    else for (let x = 0, i = 0; x < whole; x++, i += 2) to[o + x] = from[a + i]! + from[a + i + 1]!;
    if (w & 1) to[o + whole] = from[a + w - 1]! + (b >= 0 ? from[b + w - 1]! : 0);
    o += hw;
  }
}

/** Half the size; a sample is the weighted mean of four, and fully known as soon as what lies under it adds up to one. */
function push({ planes, weight, w, h }: Level): Level {
  const [hw, hh] = [(w + 1) >> 1, (h + 1) >> 1];
  const half = (from: Float32Array): Float32Array => {
    const to = new Float32Array(hw * hh);
    sumFour(from, w, h, to);
    return to;
  };
  const next: Level = { planes: planes.map(half), weight: half(weight), w: hw, h: hh };
  const known = next.weight;
  for (const p of next.planes) for (let i = 0; i < known.length; i++) if (known[i]! > 1) p[i]! /= known[i]!;
  for (let i = 0; i < known.length; i++) if (known[i]! > 1) known[i] = 1;
  return next;
}

/** Adds what a coarser plane holds, bilinearly, by how much of the finer one is open. */
function addOpen(fine: Float32Array, open: Float32Array, w: number, h: number, coarse: Float32Array, cw: number, ch: number): void {
  for (let y = 0; y < h; y++) {
    const y0 = (y >> 1) * cw;
    const y1 = Math.min(ch - 1, Math.max(0, (y >> 1) + (y & 1 ? 1 : -1))) * cw;
    for (let x = 0, i = y * w; x < w; x++, i++) {
      const share = open[i]!;
      if (share <= 0) continue;
      const x0 = x >> 1;
      const beside = x & 1 ? x0 + 1 : x0 - 1;
      const x1 = beside < 0 ? 0 : beside >= cw ? cw - 1 : beside;
      fine[i]! += share * (0.5625 * coarse[y0 + x0]! + 0.1875 * (coarse[y0 + x1]! + coarse[y1 + x0]!) + 0.0625 * coarse[y1 + x1]!);
    }
  }
}

/** Puts what a coarser level knows under a finer one where that one does not know everything itself. */
function pull({ planes, weight, w, h }: Level, coarse: Level): void {
  const open = new Float32Array(weight.length);
  for (let i = 0; i < open.length; i++) open[i] = 1 - weight[i]!;
  planes.forEach((p, k) => addOpen(p, open, w, h, coarse.planes[k]!, coarse.w, coarse.h));
  addOpen(weight, open, w, h, coarse.weight, coarse.w, coarse.h);
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
