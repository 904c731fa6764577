import type { Tile } from '../picture';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';

/** How a texture goes on beyond its edges. */
export type Wrap = 'repeat' | 'mirror' | 'clamp' | 'none';

interface Level {
  readonly planes: readonly Float32Array[];
  readonly w: number;
  readonly h: number;
}

/** Halves of a picture by means of four, down to one pixel. */
function pyramid(planes: readonly Float32Array[], w: number, h: number): Level[] {
  const levels: Level[] = [{ planes, w, h }];
  while (levels[levels.length - 1]!.w > 1 || levels[levels.length - 1]!.h > 1) {
    const at = levels[levels.length - 1]!;
    const [hw, hh] = [Math.max(1, at.w >> 1), Math.max(1, at.h >> 1)];
    levels.push({
      w: hw,
      h: hh,
      planes: at.planes.map((from) => {
        const to = new Float32Array(hw * hh);
        for (let y = 0; y < hh; y++) {
          for (let x = 0; x < hw; x++) {
            const [x1, y1] = [Math.min(at.w - 1, 2 * x + 1), Math.min(at.h - 1, 2 * y + 1)];
            to[y * hw + x] =
              (from[2 * y * at.w + 2 * x]! + from[2 * y * at.w + x1]! + from[y1 * at.w + 2 * x]! + from[y1 * at.w + x1]!) / 4;
          }
        }
        return to;
      }),
    });
  }
  return levels;
}

const MOST_RATIO = 8;

/**
 * Looks a texture up by coordinates of 0..1 with the footprint of a pixel, an ellipse given by how the coordinates change along x and y: elliptical weighted
 * average (Heckbert 1989) on a level of a pyramid on which its short axis is about a pixel.
 */
export class Texture {
  private readonly levels: readonly Level[];
  /** What was found last: R, G, B, A. */
  readonly found = new Float64Array(4);

  constructor(
    { planes, region }: Tile,
    format: Rect,
    private readonly wrap: Wrap,
  ) {
    const [w, h] = [width(format), height(format)];
    const whole = ['R', 'G', 'B', 'A'].map((c) => {
      const to = new Float32Array(w * h);
      const rw = width(region);
      for (let y = Math.max(0, region.y0); y < Math.min(h, region.y1); y++) {
        for (let x = Math.max(0, region.x0); x < Math.min(w, region.x1); x++) {
          to[y * w + x] = planes[c]![(y - region.y0) * rw + x - region.x0]!;
        }
      }
      return to;
    });
    this.levels = pyramid(whole, w, h);
  }

  private index(i: number, n: number): number {
    if (i >= 0 && i < n) return i;
    if (this.wrap === 'none') return -1;
    if (this.wrap === 'clamp') return i < 0 ? 0 : n - 1;
    const turn = this.wrap === 'mirror' ? 2 * n : n;
    const at = ((i % turn) + turn) % turn;
    return at < n ? at : turn - 1 - at;
  }

  look(u: number, v: number, ux: number, vx: number, uy: number, vy: number): void {
    const base = this.levels[0]!;
    let [ax, ay, bx, by] = [ux * base.w, vx * base.h, uy * base.w, vy * base.h];
    const [la, lb] = [Math.hypot(ax, ay), Math.hypot(bx, by)];
    const long = Math.max(la, lb);
    // An ellipse that is too long is made shorter by being made wider.
    const short = Math.max(Math.min(la, lb), long / MOST_RATIO);
    const level = Math.min(this.levels.length - 1, Math.max(0, Math.floor(Math.log2(Math.max(short, 1)))));
    const { planes, w, h } = this.levels[level]!;
    const scale = 1 / 2 ** level;
    [ax, ay, bx, by] = [ax * scale, ay * scale, bx * scale, by * scale];
    const [px, py] = [u * w - 0.5, v * h - 0.5];
    // Heckbert's implicit form, widened by a pixel so that small footprints interpolate.
    let a = ay * ay + by * by + 1;
    let b = -2 * (ax * ay + bx * by);
    let c = ax * ax + bx * bx + 1;
    const f = a * c - (b * b) / 4;
    [a, b, c] = [a / f, b / f, c / f];
    const root = 4 * a * c - b * b;
    const [ru, rv] = [Math.min(24, 2 * Math.sqrt(c / root)), Math.min(24, 2 * Math.sqrt(a / root))];
    let sum = 0;
    const found = this.found.fill(0);
    for (let y = Math.ceil(py - rv); y <= Math.floor(py + rv); y++) {
      const row = this.index(y, h);
      const dv = y - py;
      for (let x = Math.ceil(px - ru); x <= Math.floor(px + ru); x++) {
        const du = x - px;
        const q = a * du * du + b * du * dv + c * dv * dv;
        if (q >= 1) continue;
        const weight = Math.exp(-2 * q);
        sum += weight;
        const column = this.index(x, w);
        if (row < 0 || column < 0) continue;
        const i = row * w + column;
        for (let k = 0; k < 4; k++) found[k]! += weight * planes[k]![i]!;
      }
    }
    for (let k = 0; k < 4; k++) found[k]! /= sum || 1;
  }
}
