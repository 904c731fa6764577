// Planes filled between values that are known at every eighth pixel.

/** Pixels between two nodes. */
const CELL: i32 = 8;

/**
 * Fills one row of cells, `low` pixels high, of a plane w wide: `grid` holds nodes row by row, `columns` in each, from one before the row's first
 * node to two after its last; `from` is the first of four rows of them. `weights` holds, for each of four nodes, eight floats: one a pixel of a cell.
 * `scratch` has room for the columns, up to the next four.
 */
export function spreadNodes(grid: usize, columns: i32, from: i32, out: usize, w: i32, low: i32, weights: usize, scratch: usize): void {
  const a0 = v128.load(weights), a1 = v128.load(weights, 16), b0 = v128.load(weights, 32), b1 = v128.load(weights, 48);
  const c0 = v128.load(weights, 64), c1 = v128.load(weights, 80), d0 = v128.load(weights, 96), d1 = v128.load(weights, 112);
  const stride = (<usize>columns) << 2;
  const top = grid + <usize>from * stride;
  for (let y = 0; y < low; y++) {
    const at = weights + ((<usize>y) << 2);
    const wa = v128.load32_splat(at), wb = v128.load32_splat(at, 32), wc = v128.load32_splat(at, 64), wd = v128.load32_splat(at, 96);
    for (let c: usize = 0; c < stride; c += 16) {
      const p = top + c;
      v128.store(
        scratch + c,
        f32x4.add(
          f32x4.add(f32x4.mul(wa, v128.load(p)), f32x4.mul(wb, v128.load(p + stride))),
          f32x4.add(f32x4.mul(wc, v128.load(p + 2 * stride)), f32x4.mul(wd, v128.load(p + 3 * stride))),
        ),
      );
    }
    let to = out + ((<usize>(y * w)) << 2);
    for (let x = 0, n = scratch; x < w; x += CELL, n += 4, to += 32) {
      const p = v128.load32_splat(n), q = v128.load32_splat(n, 4), r = v128.load32_splat(n, 8), s = v128.load32_splat(n, 12);
      const first = f32x4.add(f32x4.add(f32x4.mul(a0, p), f32x4.mul(b0, q)), f32x4.add(f32x4.mul(c0, r), f32x4.mul(d0, s)));
      const second = f32x4.add(f32x4.add(f32x4.mul(a1, p), f32x4.mul(b1, q)), f32x4.add(f32x4.mul(c1, r), f32x4.mul(d1, s)));
      if (x + CELL <= w) {
        v128.store(to, first);
        v128.store(to, second, 16);
      } else {
        store<f32>(to, f32x4.extract_lane(first, 0));
        if (x + 1 < w) store<f32>(to, f32x4.extract_lane(first, 1), 4);
        if (x + 2 < w) store<f32>(to, f32x4.extract_lane(first, 2), 8);
        if (x + 3 < w) store<f32>(to, f32x4.extract_lane(first, 3), 12);
        if (x + 4 < w) store<f32>(to, f32x4.extract_lane(second, 0), 16);
        if (x + 5 < w) store<f32>(to, f32x4.extract_lane(second, 1), 20);
        if (x + 6 < w) store<f32>(to, f32x4.extract_lane(second, 2), 24);
      }
    }
  }
}
