// Grey-scale dilation by a disc, from chords: each row of the disc is a running maximum, had from maxima of power-of-two lengths.

/** out(x) = max(in(x), in(x + shift)) for n floats: one doubling of a running maximum */
export function doubleMaximum(x: usize, out: usize, n: i32, shift: i32): void {
  const s = (<usize>shift) << 2;
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(out + i, f32x4.max(v128.load(x + i), v128.load(x + i + s)));
  }
}

/** out(x, y) = max(out(x, y), m(x, y), m(x + shift, y)) on w×h, rows of m `stride` apart; m may start anywhere in its plane */
export function accumulateChord(m: usize, out: usize, w: i32, h: i32, stride: i32, outStride: i32, shift: i32): void {
  for (let y = 0; y < h; y++) {
    const p = m + ((<usize>(y * stride)) << 2);
    const q = out + ((<usize>(y * outStride)) << 2);
    const s = (<usize>shift) << 2;
    let i: usize = 0;
    const end = (<usize>w) << 2;
    for (; i + 16 <= end; i += 16) {
      v128.store(q + i, f32x4.max(v128.load(q + i), f32x4.max(v128.load(p + i), v128.load(p + i + s))));
    }
    for (; i < end; i += 4) {
      store<f32>(q + i, max<f32>(load<f32>(q + i), max<f32>(load<f32>(p + i), load<f32>(p + i + s))));
    }
  }
}
