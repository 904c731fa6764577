import type { Kernels, Plane } from '@/kernels';

/** The shape that a point out of focus becomes. */
export interface Aperture {
  /** Blades of a straight-edged iris; below 3 it is round. */
  readonly blades: number;
  /** Degrees that it is turned. */
  readonly turn: number;
  /** Width over height. */
  readonly squeeze: number;
}
export const ROUND: Aperture = { blades: 0, turn: 0, squeeze: 1 };

export interface Spans {
  /** Left and right ends of each row, from the middle. */
  readonly ends: Float32Array;
  readonly rows: number;
  readonly area: number;
  /** Pixels that it reaches to either side. */
  readonly reach: number;
}

/** Rows that are looked at within a row. */
const FINE = 8;

/** Where a horizontal line at y cuts a unit aperture. */
function chord(a: Aperture, y: number): [number, number] | null {
  if (a.blades < 3) return Math.abs(y) >= 1 ? null : [-Math.sqrt(1 - y * y), Math.sqrt(1 - y * y)];
  let [left, right] = [Infinity, -Infinity];
  const corner = (k: number): [number, number] => {
    const angle = (2 * Math.PI * k) / a.blades + (a.turn * Math.PI) / 180 - Math.PI / 2;
    return [Math.cos(angle), Math.sin(angle)];
  };
  for (let k = 0; k < a.blades; k++) {
    const [p, q] = [corner(k), corner(k + 1)];
    if (p[1] < y === q[1] < y) continue;
    const x = p[0] + ((y - p[1]) / (q[1] - p[1])) * (q[0] - p[0]);
    [left, right] = [Math.min(left, x), Math.max(right, x)];
  }
  return right > left ? [left, right] : null;
}

/** An aperture of a radius in pixels as spans of rows, its area kept to a fraction of a pixel. A polygon has the area of the disc. */
export function spansOf(radius: number, aperture: Aperture = ROUND): Spans {
  const { blades, squeeze } = aperture;
  const polygon = blades >= 3 ? Math.sqrt(Math.PI / ((blades / 2) * Math.sin((2 * Math.PI) / blades))) : 1;
  const r = Math.max(radius, 1e-3) * polygon;
  const half = Math.ceil(r + 0.5);
  const rows = 2 * half + 1;
  const ends = new Float32Array(2 * rows);
  let area = 0;
  for (let k = 0; k < rows; k++) {
    let [length, moment] = [0, 0];
    for (let s = 0; s < FINE; s++) {
      const cut = chord(aperture, (k - half - 0.5 + (s + 0.5) / FINE) / r);
      if (!cut) continue;
      length += ((cut[1] - cut[0]) * r * squeeze) / FINE;
      moment += (((cut[1] ** 2 - cut[0] ** 2) / 2) * (r * squeeze) ** 2) / FINE;
    }
    const middle = length > 0 ? moment / length : 0;
    ends[2 * k] = middle - length / 2;
    ends[2 * k + 1] = middle + length / 2;
    area += length;
  }
  return { ends, rows, area, reach: Math.ceil(r * Math.max(1, squeeze)) + 2 };
}

/**
 * Blurs packed pixels, w by h, by an aperture into a picture that is `reach` pixels larger on each side; what lies outside is nothing. By sums
 * along rows, so that the cost grows with the radius, not with its square.
 */
export function apertureBlur(kernels: Kernels, packed: Plane, w: number, h: number, spans: Spans): { packed: Plane; w: number; h: number } {
  const { reach } = spans;
  const pad = 2 * reach;
  const [ow, oh] = [w + 2 * reach, h + 2 * reach];
  const pw = w + 1 + 2 * pad;
  const prefix = kernels.take(4 * pw * h + 8);
  const out = kernels.take(4 * ow * oh);
  const ends = kernels.copy(spans.ends);
  const gain = 1 / Math.max(1e-9, spans.area);
  kernels.fn.prefixRows(packed.byteOffset, prefix.byteOffset, w, h, pad, pad);
  kernels.fn.spanBlur(prefix.byteOffset, pw, h, out.byteOffset, ow, oh, pad - reach, -reach, ends.byteOffset, spans.rows, gain);
  kernels.give(prefix);
  kernels.give(ends);
  return { packed: out, w: ow, h: oh };
}
