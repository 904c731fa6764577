import type { Kernels, Plane } from '@/kernels';

/** The shape that a point out of focus becomes. */
export interface Aperture {
  /** Blades of a straight-edged iris; below 3 it is round. */
  readonly blades: number;
  /** Degrees that it is turned. */
  readonly turn: number;
  /** Width over height. */
  readonly squeeze: number;
  /** How round the sides of blades are: 0 straight, 1 a circle; 0 unless said. */
  readonly roundness?: number;
  /** How much brighter its rim is than its middle: 0 alike, 1 twice; 0 unless said. */
  readonly rim?: number;
  /** Another disc of its size that cuts it, its middle there, where 1 is the radius: what the barrel leaves of it towards the corners. */
  readonly cut?: readonly [number, number];
}
export const ROUND: Aperture = { blades: 0, turn: 0, squeeze: 1 };

/** Of its radius what lies within the rim. */
const WITHIN = 0.85;

/** A shape as spans of rows, whose weights add up to 1 over all their pixels. */
export interface Spans {
  /** Of each its row, its left and right end from the middle, and its weight. */
  readonly list: Float32Array;
  /** Pixels that it reaches to either side. */
  readonly reach: number;
}

/** Rows that are looked at within a row; of large shapes fewer, since their edges are long. */
const FINE = { small: 8, large: 2, from: 80 };

/** Where a horizontal line at y cuts a unit aperture. */
function chord(a: Aperture, y: number): [number, number] | null {
  const whole = a.blades < 3 ? circle(y) : bladed(a, y);
  if (!whole || !a.cut) return whole;
  const other = circle(y - a.cut[1]);
  if (!other) return null;
  const [l, r] = [Math.max(whole[0], other[0] + a.cut[0]), Math.min(whole[1], other[1] + a.cut[0])];
  return r > l ? [l, r] : null;
}

const circle = (y: number): [number, number] | null => (Math.abs(y) >= 1 ? null : [-Math.sqrt(1 - y * y), Math.sqrt(1 - y * y)]);

/** Corners of an aperture with blades of radius 1, x and y in turns, the first again at the end; those of the last one are kept. */
let corners: { of: Aperture; points: Float64Array } | null = null;
function cornersOf(a: Aperture): Float64Array {
  if (corners?.of === a) return corners.points;
  // Sides that are bent outwards, in short straight pieces.
  const pieces = a.roundness ? 8 : 1;
  const apothem = Math.cos(Math.PI / a.blades);
  const points = new Float64Array(2 * (a.blades * pieces + 1));
  for (let k = 0; k <= a.blades * pieces; k++) {
    const within = ((k % pieces) / pieces - 0.5) * ((2 * Math.PI) / a.blades);
    const straight = apothem / Math.cos(within);
    const r = straight + (a.roundness ?? 0) * (1 - straight);
    const angle = (2 * Math.PI * k) / (a.blades * pieces) + (a.turn * Math.PI) / 180 - Math.PI / 2;
    points[2 * k] = r * Math.cos(angle);
    points[2 * k + 1] = r * Math.sin(angle);
  }
  corners = { of: a, points };
  return points;
}

function bladed(a: Aperture, y: number): [number, number] | null {
  const points = cornersOf(a);
  let [left, right] = [Infinity, -Infinity];
  for (let k = 0; k + 3 < points.length; k += 2) {
    const [py, qy] = [points[k + 1]!, points[k + 3]!];
    if (py < y === qy < y) continue;
    const x = points[k]! + ((y - py) / (qy - py)) * (points[k + 2]! - points[k]!);
    if (x < left) left = x;
    if (x > right) right = x;
  }
  return right > left ? [left, right] : null;
}

/** By how much a polygon has to grow to have the area of the disc. */
function growth({ blades, roundness = 0 }: Aperture): number {
  if (blades < 3) return 1;
  const polygon = Math.sqrt(Math.PI / ((blades / 2) * Math.sin((2 * Math.PI) / blades)));
  return polygon + roundness * (1 - polygon);
}

/** Rows of an aperture of a radius: row, left end, right end; and its area. */
function rowsOf(radius: number, aperture: Aperture): { rows: [number, number, number][]; area: number } {
  const r = radius * growth(aperture);
  const half = Math.ceil(r + 0.5);
  const fine = radius > FINE.from ? FINE.large : FINE.small;
  const rows: [number, number, number][] = [];
  let area = 0;
  for (let k = -half; k <= half; k++) {
    let [length, moment] = [0, 0];
    for (let s = 0; s < fine; s++) {
      const cut = chord(aperture, (k - 0.5 + (s + 0.5) / fine) / r);
      if (!cut) continue;
      length += ((cut[1] - cut[0]) * r * aperture.squeeze) / fine;
      moment += (((cut[1] ** 2 - cut[0] ** 2) / 2) * (r * aperture.squeeze) ** 2) / fine;
    }
    if (!(length > 0)) continue;
    const middle = moment / length;
    rows.push([k, middle - length / 2, middle + length / 2]);
    area += length;
  }
  return { rows, area };
}

/** Rows as spans; those that are each other's mirror image, but for rounding, are made the same and put together: the kernel takes two such at once. */
function spansOfRows(rows: readonly [number, number, number][], weight: number): number[] {
  const byRow = new Map(rows.map((r) => [r[0], r]));
  return rows.flatMap(([k, a, b]) => {
    const other = k === 0 ? undefined : byRow.get(-k);
    const alike = other && Math.abs(other[1] - a) < 1e-5 && Math.abs(other[2] - b) < 1e-5;
    if (!alike) return [k, a, b, weight];
    return k < 0 ? [k, a, b, weight, -k, a, b, weight] : [];
  });
}

/** An aperture of a radius in pixels as spans of rows, its area kept to a fraction of a pixel. A polygon has the area of the disc. */
export function spansOf(radius: number, aperture: Aperture = ROUND): Spans {
  const r = Math.max(radius, 1e-3);
  const whole = rowsOf(r, aperture);
  const rim = aperture.rim ?? 0;
  const middle = rim === 0 ? null : rowsOf(r * WITHIN, aperture);
  // Brightness of the rim, and what is taken from it in the middle, so that all adds up to 1.
  const edge = 1 / Math.max(1e-9, whole.area + (middle ? middle.area * (1 / (1 + rim) - 1) : 0));
  const inner = edge * (1 / (1 + rim) - 1);
  const list = [...spansOfRows(whole.rows, edge), ...(middle ? spansOfRows(middle.rows, inner) : [])];
  return { list: Float32Array.from(list), reach: Math.ceil(r * growth(aperture) * Math.max(1, aperture.squeeze)) + 2 };
}

/** A line of a length in pixels and an angle in radians, a pixel thick, from one end of it to the other or from its middle to both sides. */
export function spansOfLine(length: number, angle: number, ahead: boolean): Spans {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const [from, to] = ahead ? [-length, 0] : [-length / 2, length / 2];
  const list: number[] = [];
  let sum = 0;
  const add = (row: number, l: number, r: number, weight: number): void => {
    if (!(r > l) || !(weight > 0)) return;
    list.push(row, l, r, weight);
    sum += (r - l) * weight;
  };
  const [y0, y1] = [Math.min(from * s, to * s), Math.max(from * s, to * s)];
  for (let k = Math.floor(y0 - 0.5); k <= Math.ceil(y1 + 0.5); k++) {
    if (Math.abs(c) >= Math.abs(s)) {
      // Flat: in each row what of the line lies less than a pixel from it, in short pieces by how near.
      const steps = Math.max(1, Math.ceil(Math.min(length, 2 / Math.max(1e-3, Math.abs(s / c)))));
      const [x0, x1] = [Math.min(from * c, to * c), Math.max(from * c, to * c)];
      const slope = s / c;
      const left = Math.abs(slope) < 1e-6 ? x0 : Math.max(x0, Math.min((k - 1) / slope, (k + 1) / slope));
      const right = Math.abs(slope) < 1e-6 ? x1 : Math.min(x1, Math.max((k - 1) / slope, (k + 1) / slope));
      for (let i = 0; i < steps; i++) {
        const [a, b] = [left + ((right - left) * i) / steps, left + ((right - left) * (i + 1)) / steps];
        add(k, a, b, 1 - Math.abs(((a + b) / 2) * slope - k));
      }
    } else {
      // Steep: a pixel of each row, where the line is in its middle, as far as the line goes through it.
      const part = Math.min(y1, k + 0.5) - Math.max(y0, k - 0.5);
      const x = ((Math.min(y1, k + 0.5) + Math.max(y0, k - 0.5)) / 2) * (c / s);
      add(k, x - 0.5, x + 0.5, part);
    }
  }
  if (!(sum > 0)) return spansOf(0.3);
  for (let i = 3; i < list.length; i += 4) list[i]! /= sum;
  return { list: Float32Array.from(list), reach: Math.ceil(length) + 2 };
}

/** Levels that a picture of an aperture is cut into. */
const LEVELS = 6;

/** A picture of an aperture, w by h, as spans at a radius: its brightness in a few levels, turned over as a lens does. */
export function spansOfPicture(picture: Float32Array, w: number, h: number, radius: number, squeeze: number): Spans {
  const most = picture.reduce((a, b) => Math.max(a, b), 0);
  const half = Math.max(1, Math.ceil(radius));
  const scale = Math.max(w, h) / (2 * half + 1);
  const list: number[] = [];
  let sum = 0;
  for (let k = -half; k <= half; k++) {
    const y = Math.round(h / 2 - k * scale - 0.5);
    if (y < 0 || y >= h) continue;
    for (let level = 0; level < LEVELS; level++) {
      const above = (most * (level + 0.5)) / LEVELS;
      for (let x = 0; x < w; x++) {
        if (!(picture[y * w + x]! > above) || (picture[y * w + x - 1]! > above && x > 0)) continue;
        let end = x;
        while (end < w && picture[y * w + end]! > above) end++;
        const [l, r] = [((w / 2 - end) / scale) * squeeze, ((w / 2 - x) / scale) * squeeze];
        list.push(k, l, r, 1);
        sum += r - l;
      }
    }
  }
  if (!(sum > 0)) return spansOf(radius);
  for (let i = 3; i < list.length; i += 4) list[i] = 1 / sum;
  return { list: Float32Array.from(list), reach: Math.ceil(half * Math.max(1, squeeze)) + 2 };
}

/** Rows between two looks at whether the work is still wanted. */
const BAND = 64;
const ACROSS = 256;

/** Sums along rows of packed pixels, from which blurs by any aperture of at most a reach are made. Give it back. */
export class RowSums {
  private readonly prefix: Plane;
  private readonly pad: number;
  private readonly pw: number;

  constructor(
    private readonly kernels: Kernels,
    packed: Plane,
    w: number,
    private readonly h: number,
    reach: number,
  ) {
    this.pad = 2 * reach;
    this.pw = w + 1 + 2 * this.pad;
    this.prefix = kernels.take(4 * this.pw * h + 8);
    kernels.fn.prefixRows(packed.byteOffset, this.prefix.byteOffset, w, h, this.pad, this.pad);
  }

  /** Blurs what lies at x0, y0, w by h, of the picture into packed pixels, rows of `stride` of them. */
  blur(list: Float32Array, x0: number, y0: number, w: number, h: number, to: number, stride: number, poll?: () => void): void {
    const { kernels, prefix, pw, pad } = this;
    const spans = kernels.copy(list);
    try {
      for (let y = 0; y < h; y += BAND) {
        poll?.();
        const rows = Math.min(BAND, h - y);
        // Narrow enough that the rows of a shape stay in the cache from one row to the next.
        for (let x = 0; x < w; x += ACROSS) {
          const at = to + 16 * (y * stride + x);
          const wide = Math.min(ACROSS, w - x);
          kernels.fn.spanBlur(
            prefix.byteOffset,
            pw,
            this.h,
            at,
            stride,
            wide,
            rows,
            x + x0 + pad,
            y0 + y,
            spans.byteOffset,
            list.length / 4,
          );
        }
      }
    } finally {
      kernels.give(spans);
    }
  }

  give(): void {
    this.kernels.give(this.prefix);
  }
}

/**
 * Blurs packed pixels, w by h, by an aperture into a picture that is `reach` pixels larger on each side; what lies outside is nothing. By sums
 * along rows, so that the cost grows with the radius, not with its square.
 */
export function apertureBlur(kernels: Kernels, packed: Plane, w: number, h: number, spans: Spans): { packed: Plane; w: number; h: number } {
  const { reach } = spans;
  const [ow, oh] = [w + 2 * reach, h + 2 * reach];
  const sums = new RowSums(kernels, packed, w, h, reach);
  const out = kernels.take(4 * ow * oh);
  sums.blur(spans.list, -reach, -reach, ow, oh, out.byteOffset, ow);
  sums.give();
  return { packed: out, w: ow, h: oh };
}
