import type { Gray } from '../../readings/gray';

/** Smoothed by a Gaussian of sigma px along both axes, edges repeated. */
export function smoothed({ width: w, height: h, data }: Gray, sigma: number): Gray {
  const reach = Math.ceil(3 * sigma);
  const kernel = Float32Array.from({ length: reach + 1 }, (_, i) => Math.exp(-(i * i) / (2 * sigma * sigma)));
  const sum = kernel.reduce((s, v, i) => s + (i === 0 ? v : 2 * v), 0);
  for (let i = 0; i <= reach; i++) kernel[i]! /= sum;
  const across = new Float32Array(w * h);
  const line = new Float32Array(w + 2 * reach);
  for (let y = 0; y < h; y++) {
    for (let x = -reach; x < w + reach; x++) line[x + reach] = data[y * w + Math.min(w - 1, Math.max(0, x))]!;
    for (let x = 0; x < w; x++) {
      let v = kernel[0]! * line[x + reach]!;
      for (let k = 1; k <= reach; k++) v += kernel[k]! * (line[x + reach - k]! + line[x + reach + k]!);
      across[y * w + x] = v;
    }
  }
  const to = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const row = y * w;
    for (let x = 0; x < w; x++) to[row + x] = kernel[0]! * across[row + x]!;
    for (let k = 1; k <= reach; k++) {
      const [up, down] = [Math.max(0, y - k) * w, Math.min(h - 1, y + k) * w];
      const weight = kernel[k]!;
      for (let x = 0; x < w; x++) to[row + x]! += weight * (across[up + x]! + across[down + x]!);
    }
  }
  return { width: w, height: h, data: to };
}
