/** Matting errors as in the public benchmarks: SAD in thousands, MSE, and the gradient error of Rhemann et al. 2009. */
export interface MatteErrors {
  sad: number;
  mse: number;
  gradient: number;
}

/** Errors of a matte against the truth over the pixels of a mask (all without one). */
export function matteErrors(matte: Float32Array, truth: Float32Array, width: number, height: number, mask?: Uint8Array): MatteErrors {
  const [ga, gt] = [gradientOf(matte, width, height), gradientOf(truth, width, height)];
  let [sad, squares, gradient, n] = [0, 0, 0, 0];
  for (let i = 0; i < truth.length; i++) {
    if (mask && !mask[i]) continue;
    const d = matte[i]! - truth[i]!;
    sad += Math.abs(d);
    squares += d * d;
    gradient += (ga[i]! - gt[i]!) ** 2;
    n++;
  }
  return { sad: sad / 1000, mse: squares / Math.max(1, n), gradient: gradient / 1000 };
}

/** Pixels whose true coverage is partial, grown by some pixels. */
export function partialBand(truth: Float32Array, width: number, height: number, grow: number): Uint8Array {
  let band = Uint8Array.from(truth, (v) => +(v > 0.002 && v < 0.998));
  for (let k = 0; k < grow; k++) {
    const next = band.slice();
    for (let y = 1; y < height - 1; y++) {
      for (let x = 1; x < width - 1; x++) {
        const i = y * width + x;
        if (band[i - 1] || band[i + 1] || band[i - width] || band[i + width]) next[i] = 1;
      }
    }
    band = next;
  }
  return band;
}

/** Magnitude of the gradient by derivatives of a Gaussian of σ = 1.4. */
function gradientOf(a: Float32Array, width: number, height: number): Float32Array {
  const r = 4;
  const g = Array.from({ length: 2 * r + 1 }, (_, i) => Math.exp(-((i - r) ** 2) / (2 * 1.4 * 1.4)));
  const sum = g.reduce((s, v) => s + v, 0);
  const d = g.map((v, i) => ((i - r) * v) / (1.4 * 1.4));
  const norm = d.reduce((s, v, i) => s + v * (i - r), 0);
  const run = (from: Float32Array, k: readonly number[], step: number, length: number, position: (i: number) => number): Float32Array => {
    const out = new Float32Array(from.length);
    for (let i = 0; i < from.length; i++) {
      const p = position(i);
      for (let t = -r; t <= r; t++) out[i]! += k[t + r]! * from[i + (Math.min(length - 1, Math.max(0, p + t)) - p) * step]!;
    }
    return out;
  };
  const smooth = g.map((v) => v / sum);
  const slope = d.map((v) => v / norm);
  const alongX = (from: Float32Array, k: readonly number[]): Float32Array => run(from, k, 1, width, (i) => i % width);
  const alongY = (from: Float32Array, k: readonly number[]): Float32Array => run(from, k, width, height, (i) => Math.floor(i / width));
  const gx = alongY(alongX(a, slope), smooth);
  const gy = alongY(alongX(a, smooth), slope);
  return gx.map((v, i) => Math.sqrt(v * v + gy[i]! ** 2));
}
