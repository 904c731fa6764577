// Blur by the shape of an aperture, on pixels packed R, G, B, A.

/**
 * Of a plane of levels of depth, rising with distance: how much of each pixel is of a slice, max(0, 1 − |level − slice|), and how much is not
 * hidden from it by nearer ones.
 */
export function sliceWeights(level: usize, member: usize, known: usize, n: i32, slice: f32): void {
  const k = f32x4.splat(slice);
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const d = f32x4.sub(v128.load(level + i), k);
    v128.store(member + i, f32x4.max(zero, f32x4.sub(one, f32x4.abs(d))));
    v128.store(known + i, f32x4.min(one, f32x4.max(zero, f32x4.add(d, one))));
  }
}

/** Sums along each row of w pixels, from its start up to each pixel: rows of left + w + 1 + right, 0 at the left, the whole sum at the right. */
export function prefixRows(packed: usize, out: usize, w: i32, h: i32, left: i32, right: i32): void {
  for (let y = 0; y < h; y++) {
    let sum = f32x4.splat(0);
    for (let x = 0; x <= left; x++, out += 16) v128.store(out, sum);
    for (let x = 0; x < w; x++, packed += 16, out += 16) {
      sum = f32x4.add(sum, v128.load(packed));
      v128.store(out, sum);
    }
    for (let x = 0; x < right; x++, out += 16) v128.store(out, sum);
  }
}

/**
 * Sums over a shape given by spans: of each the row and the offsets left and right from a pixel's middle, and a weight. Pixel x, y of `out` stands at
 * x + x0 of a row of the prefix sums, whose first entry is before its first pixel, and in row y + y0 of them. Rows that are not there hold nothing.
 * Two spans after each other with the same offsets and weight, as a shape has that is its own mirror image, take little more time than one.
 */
export function spanBlur(
  prefix: usize,
  pw: i32,
  ph: i32,
  out: usize,
  stride: i32,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  spans: usize,
  count: i32,
): void {
  const bytes = (<usize>w) << 4;
  for (let y = 0; y < h; y++, out += (<usize>stride) << 4) {
    memory.fill(out, 0, bytes);
    let k = 0;
    while (k < count) {
      const span = spans + ((<usize>k) << 4);
      const row = y + y0 + <i32>load<f32>(span);
      k++;
      if (row < 0 || row >= ph) continue;
      const start = prefix + (<usize>(row * pw + x0) << 4);
      const other = k < count ? y + y0 + <i32>load<f32>(span, 16) : -1;
      if (other >= 0 && other < ph && load<u64>(span, 4) == load<u64>(span, 20) && load<f32>(span, 12) == load<f32>(span, 28)) {
        k++;
        addSpan(start, prefix + (<usize>(other * pw + x0) << 4), true, span, out, bytes);
      } else addSpan(start, start, false, span, out, bytes);
    }
  }
}

/** Adds a span of a row, or the same of two rows. */
// @ts-ignore: decorator
@inline
function addSpan(row: usize, other: usize, two: bool, span: usize, out: usize, bytes: usize): void {
  const l = load<f32>(span, 4) + 0.5, r = load<f32>(span, 8) + 0.5;
  const li = Mathf.floor(l), ri = Mathf.floor(r);
  const lf = f32x4.splat(l - li), rf = f32x4.splat(r - ri);
  const g = v128.load32_splat(span, 12);
  let a = row + ((<isize>(<i32>li)) << 4), b = row + ((<isize>(<i32>ri)) << 4);
  const down = other - row;
  // A pixel's second look is the next one's first.
  let p = v128.load(a), q = v128.load(b);
  if (two) {
    p = f32x4.add(p, v128.load(a + down));
    q = f32x4.add(q, v128.load(b + down));
  }
  for (let to = out, end = out + bytes; to < end; to += 16, a += 16, b += 16) {
    let pn = v128.load(a, 16), qn = v128.load(b, 16);
    if (two) {
      pn = f32x4.add(pn, v128.load(a + down, 16));
      qn = f32x4.add(qn, v128.load(b + down, 16));
    }
    const before = f32x4.add(p, f32x4.mul(f32x4.sub(pn, p), lf));
    const after = f32x4.add(q, f32x4.mul(f32x4.sub(qn, q), rf));
    v128.store(to, f32x4.add(v128.load(to), f32x4.mul(g, f32x4.sub(after, before))));
    p = pn;
    q = qn;
  }
}

/** Lays premultiplied pixels over others, the first at x0, y0 of them; what lies beyond is left out. */
export function overPacked(front: usize, fw: i32, fh: i32, out: usize, ow: i32, oh: i32, x0: i32, y0: i32): void {
  const one = f32x4.splat(1);
  for (let y = 0; y < fh; y++) {
    const v = y + y0;
    if (v < 0 || v >= oh) continue;
    for (let x = 0; x < fw; x++) {
      const u = x + x0;
      if (u < 0 || u >= ow) continue;
      const at = out + (<usize>(v * ow + u) << 4);
      const f = v128.load(front + (<usize>(y * fw + x) << 4));
      const a = f32x4.splat(f32x4.extract_lane(f, 3));
      v128.store(at, f32x4.add(f, f32x4.mul(v128.load(at), f32x4.sub(one, a))));
    }
  }
}

/** Four planes of packed pixels. */
export function unpackFour(packed: usize, a: usize, b: usize, c: usize, d: usize, n: i32): void {
  for (let i = 0; i < n; i++, packed += 16, a += 4, b += 4, c += 4, d += 4) {
    const v = v128.load(packed);
    store<f32>(a, f32x4.extract_lane(v, 0));
    store<f32>(b, f32x4.extract_lane(v, 1));
    store<f32>(c, f32x4.extract_lane(v, 2));
    store<f32>(d, f32x4.extract_lane(v, 3));
  }
}
