/**
 * Slope at a point between two others so that a cubic through them neither overshoots nor turns round (Fritsch & Butland 1984). `d0` and
 * `d1` are the slopes of the straight lines before and after it, `h0` and `h1` how far those reach; level at an extreme.
 */
export function monotoneSlope(d0: number, d1: number, h0: number, h1: number): number {
  if (d0 * d1 <= 0) return 0;
  const w = (h0 + 2 * h1) / (3 * (h0 + h1));
  return (d0 * d1) / (w * d1 + (1 - w) * d0);
}
