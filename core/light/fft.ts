/** Fast Fourier transform of a complex line of 2ⁿ numbers, in place (Cooley & Tukey 1965). */
export function fft(re: Float64Array, im: Float64Array): void {
  const n = re.length;
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j ^= bit;
    if (i < j) {
      [re[i], re[j]] = [re[j]!, re[i]!];
      [im[i], im[j]] = [im[j]!, im[i]!];
    }
  }
  for (let size = 2; size <= n; size *= 2) {
    const half = size / 2;
    for (let k = 0; k < half; k++) {
      const angle = (-2 * Math.PI * k) / size;
      const [c, s] = [Math.cos(angle), Math.sin(angle)];
      for (let i = k; i < n; i += size) {
        const o = i + half;
        const [a, b] = [re[o]! * c - im[o]! * s, re[o]! * s + im[o]! * c];
        [re[o], im[o]] = [re[i]! - a, im[i]! - b];
        [re[i], im[i]] = [re[i]! + a, im[i]! + b];
      }
    }
  }
}

/** Of a square of n by n real numbers the squared magnitude of its transform, frequency 0 in the middle. */
export function powerSpectrum(square: Float64Array, n: number): Float64Array {
  const re = Float64Array.from(square);
  const im = new Float64Array(n * n);
  for (let y = 0; y < n; y++) fft(re.subarray(y * n, (y + 1) * n), im.subarray(y * n, (y + 1) * n));
  const [cr, ci] = [new Float64Array(n), new Float64Array(n)];
  const out = new Float64Array(n * n);
  for (let x = 0; x < n; x++) {
    for (let y = 0; y < n; y++) [cr[y], ci[y]] = [re[y * n + x]!, im[y * n + x]!];
    fft(cr, ci);
    for (let y = 0; y < n; y++) out[((y + n / 2) % n) * n + ((x + n / 2) % n)] = cr[y]! ** 2 + ci[y]! ** 2;
  }
  return out;
}
