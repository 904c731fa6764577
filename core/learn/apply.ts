import type { Kernels, Plane } from '@/kernels';
import { DIFFERENCE, lightOf, codeOf, setsOf } from './lesson';
import type { Teaches } from './lesson';
import type { Look } from './look';
import { LookPlanes } from './look';
import { CELL, COEFFICIENTS, COEFFICIENT_LAYER, FEATURE_LAYERS, LEAK, LEAST_SIDE, Layers, mapSize } from './net';

/** What was learnt: all that is needed to apply it. */
export interface Learnt {
  readonly teaches: Teaches;
  readonly weights: Float32Array;
  readonly look: Look;
}

/** Rows of a picture that are worked out at full size at a time. */
const BAND = 32;

/**
 * A net over a whole picture: what is worked out at a quarter of the size is so for all of it, the rest a band of rows at a time, so
 * that there are no tiles and no seams.
 */
export class Applied {
  private readonly weights: Plane;
  private readonly look: LookPlanes;
  /** Planes that it gives: one of a matte, four of a change. */
  readonly sets: number;

  constructor(
    private readonly kernels: Kernels,
    private readonly learnt: Learnt,
  ) {
    this.sets = setsOf(learnt.teaches);
    this.weights = kernels.copy(learnt.weights);
    this.look = new LookPlanes(kernels, learnt.look);
  }

  dispose(): void {
    this.kernels.give(this.weights);
    this.look.dispose();
  }

  /**
   * Of a matte its coverage; else R, G, B and where it acts: each of w·h, w and h any. `shift` moves the grid of the quarter size by so
   * many pixels, `mirror` looks at the picture mirrored: other looks at the same thing, which agree where the net is sure.
   */
  run(
    rgb: readonly Float32Array[],
    w: number,
    h: number,
    out: readonly Float32Array[],
    poll: () => void,
    look = { shift: 0, mirror: false },
  ): void {
    const { kernels, sets } = this;
    const { fn } = kernels;
    const { shift, mirror } = look;
    const W = Math.max(LEAST_SIDE, Math.ceil((w + shift) / CELL) * CELL);
    const H = Math.max(LEAST_SIDE, Math.ceil((h + shift) / CELL) * CELL);
    kernels.guard(() => {
      const own: Plane[] = [];
      const zeros = (n: number): Plane => {
        const plane = kernels.zeros(n);
        own.push(plane);
        return plane;
      };
      const rows = [0, 1, 2].map(() => zeros(W));
      /** A row of the picture, its edges extended, as the net sees it. */
      const see = (y: number, to: number): void => {
        const from = Math.min(Math.max(y - shift, 0), h - 1) * w;
        for (let c = 0; c < 3; c++) {
          const row = rows[c]!;
          const plane = rgb[c]!;
          for (let x = 0; x < W; x++) {
            const k = Math.min(Math.max(x - shift, 0), w - 1);
            row[x] = plane[from + (mirror ? w - 1 - k : k)]!;
          }
        }
        this.look.row(rows[0]!.byteOffset, rows[1]!.byteOffset, rows[2]!.byteOffset, to, W);
      };
      const coefficients = this.body(W, H, see, poll);
      own.push(coefficients);
      const tall = BAND + 4;
      const pixels = zeros((tall + 2) * (W + 2) * 4);
      const first = zeros((tall + 2) * (W + 2) * 8);
      const second = zeros((tall + 2) * (W + 2) * 8);
      const sums = zeros(BAND * W * sets);
      const layers = new Layers(kernels, this.weights, sets);
      const line = W + 2;
      for (let y0 = 0; y0 < H; y0 += BAND) {
        poll();
        const band = Math.min(BAND, H - y0);
        // Rows y0 − 2 to y0 + band + 1 as a map with its border; beyond the picture there is nothing, as in training.
        for (let k = 0; k < band + 4; k++) {
          const y = y0 - 2 + k;
          const at = pixels.byteOffset + 16 * (k * line + 1);
          if (y < 0 || y >= H) pixels.fill(0, 4 * k * line, 4 * (k + 1) * line);
          else see(y, at);
        }
        layers.forward(FEATURE_LAYERS[0], pixels, first, W, band + 2, LEAK);
        if (y0 === 0) first.fill(0, 8 * line, 16 * line);
        if (y0 + band >= H) first.fill(0, 8 * (band + 2) * line, 8 * (band + 3) * line);
        layers.forward(FEATURE_LAYERS[1], first.subarray(8 * line), second, W, band, LEAK);
        fn.blendFeatures(
          coefficients.byteOffset,
          second.byteOffset,
          pixels.byteOffset + 16 * line,
          sums.byteOffset,
          W / 4,
          H / 4,
          y0,
          band,
          sets,
        );
        for (let k = 0; k < band; k++) {
          const y = y0 + k - shift;
          if (y >= 0 && y < h) this.finish(sums, k * W + shift, rgb, y * w, w, out, mirror);
        }
      }
      own.forEach((p) => kernels.give(p));
    });
  }

  /** A row of results from the sums of features. */
  private finish(
    sums: Float32Array,
    from: number,
    rgb: readonly Float32Array[],
    at: number,
    w: number,
    out: readonly Float32Array[],
    mirror: boolean,
  ): void {
    for (let x = 0; x < w; x++) {
      const i = at + (mirror ? w - 1 - x : x);
      if (this.sets === 1) {
        out[0]![i] = 1 / (1 + Math.exp(-sums[from + x]!));
        continue;
      }
      const k = 4 * (from + x);
      const act = this.learnt.teaches === 'carry' ? 1 : 1 / (1 + Math.exp(-sums[k + 3]!));
      for (let c = 0; c < 3; c++) {
        const light = rgb[c]![i]!;
        // Where it hardly acts the picture is passed on to the bit.
        out[c]![i] = act < 0.004 ? light : lightOf(codeOf(light) + act * DIFFERENCE * sums[k + c]!);
      }
      out[3]![i] = act;
    }
  }

  /** Coefficients of a whole picture, a map of a quarter of its size. The caller gives it back. */
  private body(W: number, H: number, see: (y: number, to: number) => void, poll: () => void): Plane {
    const { kernels, sets } = this;
    const { fn } = kernels;
    const [w, h] = [W / 4, H / 4];
    const layers = new Layers(kernels, this.weights, sets);
    const map = (width: number, height: number, c: number): Plane => kernels.zeros(mapSize(width, height, c));
    const run = (layer: number, x: Plane, width: number, height: number, c: number, leak = LEAK): Plane => {
      poll();
      const out = map(width, height, c);
      layers.forward(layer, x, out, width, height, leak);
      kernels.give(x);
      return out;
    };
    const pool = (x: Plane, width: number, height: number, c: number): Plane => {
      const out = map(width / 2, height / 2, c);
      fn.poolMap(x.byteOffset, out.byteOffset, width, height, c);
      return out;
    };
    const join = (low: Plane, skip: Plane, width: number, height: number, c: number, s: number): Plane => {
      const out = map(width, height, c + s);
      fn.layMap(low.byteOffset, out.byteOffset, width, height, c, c + s, 0, 1);
      fn.layMap(skip.byteOffset, out.byteOffset, width, height, s, c + s, c, 0);
      kernels.give(low);
      kernels.give(skip);
      return out;
    };
    const input = map(w, h, 64);
    const four = kernels.zeros(6 * (W + 2) * 4);
    for (let y = 0; y < h; y++) {
      for (let k = 0; k < 4; k++) see(4 * y + k, four.byteOffset + 16 * ((k + 1) * (W + 2) + 1));
      fn.unshuffle(four.byteOffset, input.byteOffset + 256 * y * (w + 2), w, 1);
    }
    kernels.give(four);
    const quarter = run(1, run(0, input, w, h, 24), w, h, 24);
    const eighth = run(3, run(2, pool(quarter, w, h, 24), w / 2, h / 2, 32), w / 2, h / 2, 32);
    const sixteenth = run(5, run(4, pool(eighth, w / 2, h / 2, 32), w / 4, h / 4, 48), w / 4, h / 4, 48);
    const up = run(7, run(6, join(sixteenth, eighth, w / 2, h / 2, 48, 32), w / 2, h / 2, 32), w / 2, h / 2, 32);
    const last = run(8, join(up, quarter, w, h, 32, 24), w, h, 24);
    return run(COEFFICIENT_LAYER, last, w, h, COEFFICIENTS * sets, 1);
  }
}

/** Raises `spread` to how far one look at a picture lies from another, plane by plane. */
export function raiseSpread(spread: Float32Array, one: readonly Float32Array[], other: readonly Float32Array[]): void {
  for (const [k, plane] of one.entries())
    for (let i = 0; i < spread.length; i++) spread[i] = Math.max(spread[i]!, Math.abs(plane[i]! - other[k]![i]!));
}

/** Mean over a picture, R, G, B one after the other, of how far three looks at it differ: of a matte, or of a change's colours. */
export function meanSpread(applied: Applied, input: Float32Array, w: number, h: number): number {
  const n = w * h;
  const rgb = [0, 1, 2].map((c) => input.subarray(c * n, (c + 1) * n));
  const [first, ...others] = LOOKS.map((look) => {
    const out = Array.from({ length: applied.sets }, () => new Float32Array(n));
    applied.run(rgb, w, h, out, () => undefined, look);
    return out.slice(0, Math.min(3, applied.sets));
  });
  const spread = new Float32Array(n);
  others.forEach((other) => raiseSpread(spread, first!, other));
  return spread.reduce((s, v) => s + v, 0) / n;
}

/** The looks whose spread tells how sure a net is, the first as it is. */
export const LOOKS = [
  { shift: 0, mirror: false },
  { shift: 6, mirror: true },
  { shift: 11, mirror: false },
] as const;
