// Medians of square neighbourhoods, four pixels at once.

/**
 * out(x, y) = the median of the (2r + 1)² samples of x around (x + r, y + r), for w×h pixels; x has rows of `stride` floats that may be overrun
 * by three. `window` is scratch for (2r + 1)² + 1 vectors. Forgetful selection: half of the samples and two are taken, the least and the greatest
 * thrown away, one more taken, until one is left (Paeth 1990).
 */
export function medianRows(x: usize, stride: i32, out: usize, w: i32, h: i32, r: i32, window: usize): void {
  const side = 2 * r + 1;
  const all = side * side;
  for (let j = 0; j < h; j++) {
    for (let i = 0; i < w; i += 4) {
      const corner = x + ((<usize>(j * stride + i)) << 2);
      let n = (all >> 1) + 2;
      let u = 0;
      let v = 0;
      for (let k = 0; k < n; k++) {
        v128.store(window + ((<usize>k) << 4), v128.load(corner + ((<usize>(v * stride + u)) << 2)));
        if (++u == side) {
          u = 0;
          v++;
        }
      }
      while (n > 1) {
        // The least to the front, the greatest to the end.
        for (let k = n - 1; k > 0; k--) order(window + ((<usize>(k - 1)) << 4), window + ((<usize>k) << 4));
        for (let k = 1; k < n - 1; k++) order(window + ((<usize>k) << 4), window + ((<usize>(k + 1)) << 4));
        if (n == 3) {
          v128.store(window, v128.load(window, 16));
          n = 1;
          break;
        }
        // One goes from each end, a further one comes.
        n--;
        v128.store(window, v128.load(corner + ((<usize>(v * stride + u)) << 2)));
        if (++u == side) {
          u = 0;
          v++;
        }
      }
      const m = v128.load(window);
      const q = out + ((<usize>(j * w + i)) << 2);
      if (i + 4 <= w) v128.store(q, m);
      else {
        store<f32>(q, f32x4.extract_lane(m, 0));
        if (i + 1 < w) store<f32>(q, f32x4.extract_lane(m, 1), 4);
        if (i + 2 < w) store<f32>(q, f32x4.extract_lane(m, 2), 8);
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function order(a: usize, b: usize): void {
  const p = v128.load(a);
  const q = v128.load(b);
  v128.store(a, f32x4.min(p, q));
  v128.store(b, f32x4.max(p, q));
}
