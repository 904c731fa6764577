import type { Kernels } from '@/kernels';
import type { Gray } from './gray';

/** A place where a template fits: its top left corner in the picture, and the correlation there. */
export interface Peak {
  x: number;
  y: number;
  score: number;
}

/**
 * Zero-mean normalised cross-correlation of a template with every place of a picture (Lewis 1995): −1..1, row by row, for the
 * template's corner at x in 0..width − template width and so on. Places without contrast score 0.
 */
export function correlation(kernels: Kernels, template: Gray, picture: Gray): Gray {
  const [tw, th] = [template.width, template.height];
  const { width: w } = picture;
  const [nx, ny] = [picture.width - tw + 1, picture.height - th + 1];
  if (nx < 1 || ny < 1) return { width: 0, height: 0, data: new Float32Array(0) };
  const n = tw * th;
  const t = kernels.copy(template.data);
  const mean = t.reduce((sum, v) => sum + v, 0) / n;
  let power = 0;
  for (let i = 0; i < n; i++) {
    t[i]! -= mean;
    power += t[i]! * t[i]!;
  }
  const wide = Math.ceil(nx / 16) * 16;
  const p = kernels.take(picture.data.length + 32);
  p.set(picture.data);
  const sums = kernels.take(wide * ny);
  kernels.fn.correlate(t.byteOffset, tw, th, p.byteOffset, w, sums.byteOffset, nx, ny);
  const { sum, squares } = integrals(picture);
  const score = new Float32Array(nx * ny);
  const s = w + 1;
  for (let y = 0, o = 0; y < ny; y++) {
    for (let x = 0; x < nx; x++, o++) {
      const a = y * s + x;
      const b = a + th * s;
      const total = sum[b + tw]! - sum[a + tw]! - sum[b]! + sum[a]!;
      const spread = squares[b + tw]! - squares[a + tw]! - squares[b]! + squares[a]! - (total * total) / n;
      if (!(spread > 1e-9 * n) || !(power > 1e-9 * n)) continue;
      score[o] = sums[y * wide + x]! / Math.sqrt(power * spread);
    }
  }
  [t, p, sums].forEach((plane) => kernels.give(plane));
  return { width: nx, height: ny, data: score };
}

function integrals({ width: w, height: h, data }: Gray): { sum: Float64Array; squares: Float64Array } {
  const s = w + 1;
  const sum = new Float64Array(s * (h + 1));
  const squares = new Float64Array(s * (h + 1));
  for (let y = 0; y < h; y++) {
    let [a, b] = [0, 0];
    for (let x = 0; x < w; x++) {
      const v = data[y * w + x]!;
      a += v;
      b += v * v;
      sum[(y + 1) * s + x + 1] = sum[y * s + x + 1]! + a;
      squares[(y + 1) * s + x + 1] = squares[y * s + x + 1]! + b;
    }
  }
  return { sum, squares };
}

/** The highest places of a map of scores, each at least `apart` from the higher ones. */
export function peaks(scores: Gray, count: number, apart: number): Peak[] {
  const { width: w, height: h, data } = scores;
  const found: Peak[] = [];
  while (found.length < count) {
    let best: Peak | null = null;
    for (let y = 0; y < h; y++) {
      for (let x = 0; x < w; x++) {
        const score = data[y * w + x]!;
        if (best && score <= best.score) continue;
        if (found.some((f) => Math.abs(f.x - x) < apart && Math.abs(f.y - y) < apart)) continue;
        best = { x, y, score };
      }
    }
    if (!best) break;
    found.push(best);
  }
  return found;
}
