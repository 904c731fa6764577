/** Taps along the longer axis of a footprint, at most. */
const MOST_TAPS = 16;

interface Level {
  readonly width: number;
  readonly height: number;
  /** R, G, B, A a pixel, rows from the top. */
  readonly data: Float32Array;
}

/**
 * A picture that surfaces show, with its reductions by halves (Williams 1983). A pixel's footprint on it is an ellipse; it is looked at by bilinear taps along the longer axis, on the
 * level where the shorter one is a pixel (McCormack et al. 1999).
 */
export class Texture {
  private readonly levels: Level[];

  constructor(
    readonly width: number,
    readonly height: number,
    data: Float32Array,
    /** What lies beyond its edges: itself again, nothing, or, of a picture all around, itself to the sides and its poles up and down. */
    readonly wraps: boolean | 'around',
    /** Colour is multiplied by alpha already. */
    readonly premultiplied: boolean,
  ) {
    this.levels = [{ width, height, data }];
    let last = this.levels[0]!;
    while (last.width > 1 || last.height > 1) this.levels.push((last = half(last)));
  }

  private box: readonly [number, number, number, number] | null = null;
  /** Whether anything but nothing may lie at a place, or within a share of the picture of it: of one that does not repeat. */
  near(u: number, v: number, share: number): boolean {
    if (this.wraps) return true;
    const [x0, y0, x1, y1] = (this.box ??= filledBox(this.levels[0]!));
    return u > x0 - share && v > y0 - share && u < x1 + share && v < y1 + share;
  }

  /** R, G, B, A of all of it. */
  get mean(): readonly number[] {
    return [...this.levels[this.levels.length - 1]!.data.subarray(0, 4)];
  }

  /**
   * The mean over a footprint around u, v: a pixel to the right moves by `ux`, `vx`, one down by `uy`, `vy`, all in shares of the picture. Into `to`: R, G, B, A.
   */
  sample(u: number, v: number, ux: number, vx: number, uy: number, vy: number, to: Float64Array): void {
    const { width: w, height: h } = this;
    const [ax, ay, bx, by] = [ux * w, vx * h, uy * w, vy * h];
    // The axes of the ellipse that the pixel's circle becomes.
    const [a, b, c] = [ax * ax + bx * bx, ax * ay + bx * by, ay * ay + by * by];
    const middle = (a + c) / 2;
    const apart = Math.sqrt(((a - c) / 2) * ((a - c) / 2) + b * b);
    const long = Math.sqrt(Math.max(0, middle + apart));
    const short = Math.sqrt(Math.max(0, middle - apart));
    const taps = Math.min(MOST_TAPS, Math.max(1, Math.ceil(long / Math.max(short, 1) - 0.01)));
    const size = Math.max(long / taps, short, 1e-9);
    const level = size <= 1 ? 0 : Math.min(this.levels.length - 1, log2(size));
    const lower = Math.floor(level);
    const share = level - lower;
    to[0] = to[1] = to[2] = to[3] = 0;
    if (taps === 1) {
      this.tap(lower, u, v, 1 - share, to);
      if (share > 0) this.tap(lower + 1, u, v, share, to);
      return;
    }
    // Along the longer axis.
    let dx = b;
    let dy = middle + apart - a;
    if (Math.abs(dx) + Math.abs(dy) < 1e-12) [dx, dy] = a >= c ? [1, 0] : [0, 1];
    const k = (long * (1 - 1 / taps)) / Math.sqrt(dx * dx + dy * dy);
    for (let i = 0; i < taps; i++) {
      const t = i / (taps - 1) - 0.5;
      const [x, y] = [u + (dx * k * t) / w, v + (dy * k * t) / h];
      this.tap(lower, x, y, (1 - share) / taps, to);
      if (share > 0) this.tap(lower + 1, x, y, share / taps, to);
    }
  }

  private tap(index: number, u: number, v: number, weight: number, to: Float64Array): void {
    const { width: w, height: h, data } = this.levels[index]!;
    const x = u * w - 0.5;
    const y = v * h - 0.5;
    const x0 = Math.floor(x);
    const y0 = Math.floor(y);
    const fx = x - x0;
    const fy = y - y0;
    for (let j = 0; j < 2; j++) {
      const wy = (j === 0 ? 1 - fy : fy) * weight;
      let row = y0 + j;
      if (this.wraps === 'around') row = Math.min(h - 1, Math.max(0, row));
      else if (this.wraps) row = ((row % h) + h) % h;
      else if (row < 0 || row >= h) continue;
      for (let i = 0; i < 2; i++) {
        const k = (i === 0 ? 1 - fx : fx) * wy;
        let column = x0 + i;
        if (this.wraps) column = ((column % w) + w) % w;
        else if (column < 0 || column >= w) continue;
        const at = 4 * (row * w + column);
        to[0] = to[0]! + k * data[at]!;
        to[1] = to[1]! + k * data[at + 1]!;
        to[2] = to[2]! + k * data[at + 2]!;
        to[3] = to[3]! + k * data[at + 3]!;
      }
    }
  }
}

/** The same on every machine: halvings, then a straight line between powers of two. */
function log2(x: number): number {
  let n = 0;
  while (x >= 2) {
    x /= 2;
    n++;
  }
  return n + x - 1;
}

/** The box of what is not nothing, in shares of the picture. */
function filledBox({ width: w, height: h, data }: Level): readonly [number, number, number, number] {
  let [x0, y0, x1, y1] = [w, h, 0, 0];
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i += 4)
      if (data[i] !== 0 || data[i + 1] !== 0 || data[i + 2] !== 0 || data[i + 3] !== 0) {
        if (x < x0) x0 = x;
        if (x >= x1) x1 = x + 1;
        if (y < y0) y0 = y;
        y1 = y + 1;
      }
  return [x0 / w, y0 / h, x1 / w, y1 / h];
}

/** The mean of each two by two; odd edges count once. */
function half({ width: w, height: h, data }: Level): Level {
  const [tw, th] = [Math.max(1, w >> 1), Math.max(1, h >> 1)];
  const to = new Float32Array(4 * tw * th);
  for (let y = 0; y < th; y++) {
    const [a, b] = h === 1 ? [0, 0] : [2 * y, 2 * y + 1];
    for (let x = 0; x < tw; x++) {
      const [l, r] = w === 1 ? [0, 0] : [2 * x, 2 * x + 1];
      for (let c = 0; c < 4; c++)
        to[4 * (y * tw + x) + c] =
          (data[4 * (a * w + l) + c]! + data[4 * (a * w + r) + c]! + data[4 * (b * w + l) + c]! + data[4 * (b * w + r) + c]!) / 4;
    }
  }
  return { width: tw, height: th, data: to };
}
