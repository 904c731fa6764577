// The row filters of PNG, undone (PNG specification, third edition, 9.2).

/** Rows of `stride` bytes with a filter byte before each become rows without; false where a filter is none of the five. */
export function unfilterPng(x: usize, out: usize, rows: i32, stride: i32, pixel: i32): bool {
  const past = <usize>pixel;
  for (let y = 0; y < rows; y++) {
    const filter = load<u8>(x++);
    const end = out + <usize>stride;
    const above = out - <usize>stride;
    const first = y == 0;
    // Above the first row and left of the first pixel all is zero.
    let at = out;
    if (filter == 0 || (filter == 2 && first)) memory.copy(out, x, stride);
    else if (filter == 2) {
      for (; at + 16 <= end; at += 16) v128.store(at, i8x16.add(v128.load(x + (at - out)), v128.load(at - <usize>stride)));
      for (; at < end; at++) store<u8>(at, load<u8>(x + (at - out)) + load<u8>(at - <usize>stride));
    } else if (filter == 1 || (filter == 4 && first)) {
      for (; at < out + past; at++) store<u8>(at, load<u8>(x + (at - out)));
      for (; at < end; at++) store<u8>(at, load<u8>(x + (at - out)) + load<u8>(at - past));
    } else if (filter == 3) {
      for (; at < end; at++) {
        const left = at < out + past ? 0 : <u32>load<u8>(at - past);
        const up = first ? 0 : <u32>load<u8>(above + (at - out));
        store<u8>(at, load<u8>(x + (at - out)) + <u8>((left + up) >> 1));
      }
    } else if (filter == 4) {
      for (; at < out + past; at++) store<u8>(at, load<u8>(x + (at - out)) + load<u8>(above + (at - out)));
      for (; at < end; at++) {
        const a = <i32>load<u8>(at - past);
        const b = <i32>load<u8>(above + (at - out));
        const c = <i32>load<u8>(above + (at - out) - past);
        const pa = abs(b - c);
        const pb = abs(a - c);
        const pc = abs(a + b - c - c);
        const near = pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
        store<u8>(at, load<u8>(x + (at - out)) + <u8>near);
      }
    } else return false;
    x += <usize>stride;
    out = end;
  }
  return true;
}
