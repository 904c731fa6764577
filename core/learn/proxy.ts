/** Twice as large, bilinearly, the edges extended. */
export function enlarge(from: Float32Array, w: number, h: number, to: Float32Array): void {
  for (let y = 0; y < 2 * h; y++) {
    const v = Math.min(Math.max((y + 0.5) / 2 - 0.5, 0), h - 1);
    const top = Math.floor(v) * w;
    const low = Math.min(h - 1, Math.floor(v) + 1) * w;
    const fy = v - Math.floor(v);
    for (let x = 0; x < 2 * w; x++) {
      const u = Math.min(Math.max((x + 0.5) / 2 - 0.5, 0), w - 1);
      const [l, r] = [Math.floor(u), Math.min(w - 1, Math.floor(u) + 1)];
      const fx = u - l;
      const a = from[top + l]! + fx * (from[top + r]! - from[top + l]!);
      const b = from[low + l]! + fx * (from[low + r]! - from[low + l]!);
      to[y * 2 * w + x] = a + fy * (b - a);
    }
  }
}

/** Half as large, w·h, by means of 2×2. */
export function halve(from: Float32Array, w: number, h: number, to: Float32Array): void {
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const p = 4 * y * w + 2 * x;
      to[y * w + x] = (from[p]! + from[p + 1]! + from[p + 2 * w]! + from[p + 2 * w + 1]!) / 4;
    }
}
