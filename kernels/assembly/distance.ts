// Exact Euclidean distance to the points where a plane crosses a level between neighbouring pixels
// (lower envelope of parabolas, Felzenszwalb & Huttenlocher 2012, with vertices at real positions along one axis).

const FAR: f32 = 1e20;

/**
 * For each column: out = squared distance along y to the nearest crossing of `level` on that column's vertical edges.
 */
export function columnCrossings(x: usize, out: usize, w: i32, h: i32, level: f32): void {
  for (let i = 0; i < w; i++) {
    let last: f32 = -1e10;
    for (let y = 0; y < h; y++) {
      const o = (<usize>(y * w + i)) << 2;
      const a = load<f32>(x + o);
      if (y > 0) {
        const b = load<f32>(x + o - ((<usize>w) << 2));
        if ((a >= level) != (b >= level)) last = <f32>y - 1 + (level - b) / (a - b);
      }
      const d = <f32>y - last;
      store<f32>(out + o, min<f32>(d * d, FAR));
    }
    last = 1e10;
    for (let y = h - 1; y >= 0; y--) {
      const o = (<usize>(y * w + i)) << 2;
      const a = load<f32>(x + o);
      if (y < h - 1) {
        const b = load<f32>(x + o + ((<usize>w) << 2));
        if ((a >= level) != (b >= level)) last = <f32>y + (level - a) / (b - a);
      }
      const d = last - <f32>y;
      store<f32>(out + o, min<f32>(load<f32>(out + o), d * d));
    }
  }
}

/** The lower envelope along each row of a plane of squared distances, in place. scratch: 3·w + 2 floats. */
export function rowEnvelope(d: usize, w: i32, h: i32, scratch: usize): void {
  const f = scratch;
  const v = scratch + ((<usize>w) << 2);
  const z = v + ((<usize>w) << 2);
  for (let y = 0; y < h; y++) {
    const row = d + ((<usize>(y * w)) << 2);
    memory.copy(f, row, (<usize>w) << 2);
    let k = -1;
    for (let q = 0; q < w; q++) {
      const fq = load<f32>(f + ((<usize>q) << 2));
      if (fq >= FAR) continue;
      let s: f32 = -FAR;
      while (k >= 0) {
        const p = load<i32>(v + ((<usize>k) << 2));
        const fp = load<f32>(f + ((<usize>p) << 2));
        s = <f32>((<f64>fq + <f64>(q * q) - <f64>fp - <f64>(p * p)) / <f64>(2 * (q - p)));
        if (s > load<f32>(z + ((<usize>k) << 2))) break;
        k--;
      }
      if (k < 0) s = -FAR;
      k++;
      store<i32>(v + ((<usize>k) << 2), q);
      store<f32>(z + ((<usize>k) << 2), s);
    }
    if (k < 0) continue;
    let j = 0;
    for (let q = 0; q < w; q++) {
      while (j < k && load<f32>(z + ((<usize>(j + 1)) << 2)) < <f32>q) j++;
      const p = load<i32>(v + ((<usize>j) << 2));
      const e = <f32>(q - p);
      store<f32>(row + ((<usize>q) << 2), e * e + load<f32>(f + ((<usize>p) << 2)));
    }
  }
}

/** out(y, x) = in(x, y): w×h to h×w, in blocks that stay in the cache */
export function transpose(x: usize, out: usize, w: i32, h: i32): void {
  for (let y0 = 0; y0 < h; y0 += 16) {
    const y1 = min(y0 + 16, h);
    for (let i = 0; i < w; i++) {
      let to = out + ((<usize>(i * h + y0)) << 2);
      for (let y = y0; y < y1; y++, to += 4) store<f32>(to, load<f32>(x + ((<usize>(y * w + i)) << 2)));
    }
  }
}

/**
 * A matte whose .5 level lies `radius` further out (inward when negative): clamp(½ ± √d + radius), d the squared
 * distance to the level, positive where the matte is at or over it.
 */
export function offsetLevel(matte: usize, d: usize, out: usize, n: i32, level: f32, radius: f32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4) {
    const dist = sqrt<f32>(load<f32>(d + i));
    const signed = load<f32>(matte + i) >= level ? dist : -dist;
    store<f32>(out + i, min<f32>(max<f32>(0.5 + signed + radius, 0), 1));
  }
}
