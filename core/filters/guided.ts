import { product } from './product';

/** Sums over windows of (2r + 1)², divided by the pixels that really lie in them; cost does not grow with the radius. */
function boxMean(from: Float32Array, w: number, h: number, r: number): Float32Array {
  const rows = new Float32Array(from.length);
  for (let y = 0; y < h; y++) {
    let sum = 0;
    const at = y * w;
    for (let x = 0; x < Math.min(w, r); x++) sum += from[at + x]!;
    for (let x = 0; x < w; x++) {
      if (x + r < w) sum += from[at + x + r]!;
      if (x - r - 1 >= 0) sum -= from[at + x - r - 1]!;
      rows[at + x] = sum / (Math.min(w - 1, x + r) - Math.max(0, x - r) + 1);
    }
  }
  const out = new Float32Array(from.length);
  const sums = new Float64Array(w);
  for (let y = 0; y < Math.min(h, r); y++) for (let x = 0; x < w; x++) sums[x]! += rows[y * w + x]!;
  for (let y = 0; y < h; y++) {
    const count = Math.min(h - 1, y + r) - Math.max(0, y - r) + 1;
    for (let x = 0; x < w; x++) {
      if (y + r < h) sums[x]! += rows[(y + r) * w + x]!;
      if (y - r - 1 >= 0) sums[x]! -= rows[(y - r - 1) * w + x]!;
      out[y * w + x] = sums[x]! / count;
    }
  }
  return out;
}

/**
 * The guided filter with a colour guide (He, Sun and Tang 2010): in each window the input is explained as an affine function of
 * the guide's colour, with variances under ε held flat; a pixel takes the mean of the windows that it lies in.
 */
export function guidedFilter(
  guide: readonly [Float32Array, Float32Array, Float32Array],
  input: Float32Array,
  w: number,
  h: number,
  radius: number,
  epsilon: number,
): Float32Array {
  const mean = (p: Float32Array): Float32Array => boxMean(p, w, h, radius);
  const [mr, mg, mb] = guide.map(mean) as [Float32Array, Float32Array, Float32Array];
  const [r, g, b] = guide;
  const [rr, rg, rb, gg, gb, bb] = [product(r, r), product(r, g), product(r, b), product(g, g), product(g, b), product(b, b)].map(mean) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const mp = mean(input);
  const [rp, gp, bp] = guide.map((c) => mean(product(c, input))) as [Float32Array, Float32Array, Float32Array];
  const [ar, ag, ab, base] = [0, 1, 2, 3].map(() => new Float32Array(w * h)) as [Float32Array, Float32Array, Float32Array, Float32Array];
  for (let i = 0; i < base.length; i++) {
    const [x, y, z, m] = [mr[i]!, mg[i]!, mb[i]!, mp[i]!];
    const [a, d, f] = [rr[i]! - x * x + epsilon, gg[i]! - y * y + epsilon, bb[i]! - z * z + epsilon];
    const [p, q, s] = [rg[i]! - x * y, rb[i]! - x * z, gb[i]! - y * z];
    const [cr, cg, cb] = [rp[i]! - x * m, gp[i]! - y * m, bp[i]! - z * m];
    const [c0, c1, c2] = [d * f - s * s, q * s - p * f, p * s - q * d];
    const det = a * c0 + p * c1 + q * c2;
    ar[i] = (c0 * cr + c1 * cg + c2 * cb) / det;
    ag[i] = (c1 * cr + (a * f - q * q) * cg + (p * q - a * s) * cb) / det;
    ab[i] = (c2 * cr + (p * q - a * s) * cg + (a * d - p * p) * cb) / det;
    base[i] = m - ar[i]! * x - ag[i]! * y - ab[i]! * z;
  }
  const [fr, fg, fb, f0] = [ar, ag, ab, base].map(mean) as [Float32Array, Float32Array, Float32Array, Float32Array];
  const out = new Float32Array(w * h);
  for (let i = 0; i < out.length; i++) out[i] = fr[i]! * r[i]! + fg[i]! * g[i]! + fb[i]! * b[i]! + f0[i]!;
  return out;
}
