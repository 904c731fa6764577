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
export function correlation(template: Gray, picture: Gray): Gray {
  const [tw, th] = [template.width, template.height];
  const { width: w } = picture;
  const data = new Float64Array(picture.data);
  const [nx, ny] = [picture.width - tw + 1, picture.height - th + 1];
  if (nx < 1 || ny < 1) return { width: 0, height: 0, data: new Float32Array(0) };
  const n = tw * th;
  const t = new Float64Array(n);
  let mean = 0;
  for (let i = 0; i < n; i++) mean += template.data[i]!;
  mean /= n;
  let power = 0;
  for (let i = 0; i < n; i++) {
    t[i] = template.data[i]! - mean;
    power += t[i]! * t[i]!;
  }
  const { sum, squares } = integrals(picture);
  const score = new Float32Array(nx * ny);
  const s = w + 1;
  for (let y = 0, o = 0; y < ny; y++) {
    for (let x = 0; x < nx; x++, o++) {
      const [a, b, c, d] = [y * s + x, y * s + x + tw, (y + th) * s + x, (y + th) * s + x + tw];
      const total = sum[d]! - sum[b]! - sum[c]! + sum[a]!;
      const spread = squares[d]! - squares[b]! - squares[c]! + squares[a]! - (total * total) / n;
      if (!(spread > 1e-9 * n) || !(power > 1e-9 * n)) continue;
      // Four sums at once, which do not wait for each other.
      let [d0, d1, d2, d3] = [0, 0, 0, 0];
      for (let j = 0, k = 0; j < th; j++) {
        let at = (y + j) * w + x;
        const end = k + tw;
        for (; k + 4 <= end; k += 4, at += 4) {
          d0 += t[k]! * data[at]!;
          d1 += t[k + 1]! * data[at + 1]!;
          d2 += t[k + 2]! * data[at + 2]!;
          d3 += t[k + 3]! * data[at + 3]!;
        }
        for (; k < end; k++, at++) d0 += t[k]! * data[at]!;
      }
      score[o] = (d0 + d1 + d2 + d3) / Math.sqrt(power * spread);
    }
  }
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
