import type { Kernels, Plane } from '@/kernels';
import { tapsOf } from '../filters/resample';
import { Packed, sampleThrough } from '../filters/sample';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';
import type { FlowPair } from './pair';

/** `apart` from which on a pixel counts as hidden; below half of it as seen. */
const HIDDEN = 1;

/** What a candidate costs whose way back does not agree, in the units of what is seen: any that agrees is better. */
const DISAGREES = 1000;

/** How far a pixel is hidden, 0 to 1. */
const hiddenAt = (apart: number): number => Math.max(0, Math.min(1, 2 * (apart / HIDDEN - 0.5)));

/** Pixels from which on a picture is large. */
const LARGE = 1_200_000;

interface Candidates {
  u: Float32Array;
  v: Float32Array;
  cost: Float32Array;
}

/** Carries the motion of each pixel to where the pixel is at the time t between the pictures; of several the one that fits best stays. */
function carry(
  into: Candidates,
  flow: { u: Plane; v: Plane },
  apart: Plane,
  cost: Float32Array,
  w: number,
  h: number,
  t: number,
  sign: number,
): void {
  // Of a large picture every second pixel carries its motion, twice as far around.
  const step = w * h > LARGE ? 2 : 1;
  // A pixel reaches a little more than half of its step to each side.
  const reach = 0.7 * step;
  for (let y = 0; y < h; y += step) {
    for (let x = 0; x < w; x += step) {
      const i = y * w + x;
      const [px, py] = [x + t * flow.u[i]!, y + t * flow.v[i]!];
      const c = cost[i]! + DISAGREES * hiddenAt(apart[i]!);
      const [k0, k1] = [Math.max(0, Math.ceil(px - reach)), Math.min(w - 1, Math.floor(px + reach))];
      const [j0, j1] = [Math.max(0, Math.ceil(py - reach)), Math.min(h - 1, Math.floor(py + reach))];
      for (let j = j0; j <= j1; j++) {
        for (let k = k0; k <= k1; k++) {
          const o = j * w + k;
          if (c >= into.cost[o]!) continue;
          into.cost[o] = c;
          into.u[o] = sign * flow.u[i]!;
          into.v[o] = sign * flow.v[i]!;
        }
      }
    }
  }
}

/** How unlike each pixel is to where its motion leads. */
function unlike(from: Float32Array, to: Float32Array, { u, v }: { u: Plane; v: Plane }, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0, i = 0; y < h; y++) {
    for (let x = 0; x < w; x++, i++) {
      const px = Math.max(0, Math.min(w - 1, Math.round(x + u[i]!)));
      const py = Math.max(0, Math.min(h - 1, Math.round(y + v[i]!)));
      out[i] = Math.abs(from[i]! - to[py * w + px]!);
    }
  }
  return out;
}

/** Gives places that nothing was carried to the motion of the nearest one along the row or column that has some, the slower of them. */
function fill({ u, v, cost }: Candidates, w: number, h: number): void {
  const open = cost.map((c) => Number(c === Infinity));
  const sweep = (start: number, count: number, step: number): void => {
    let last = -1;
    for (let k = 0, i = start; k < count; k++, i += step) {
      if (!open[i]) last = i;
      else if (last >= 0) {
        const slower = cost[i] === Infinity || Math.hypot(u[last]!, v[last]!) < Math.hypot(u[i]!, v[i]!);
        // What uncovers is what lies behind, and that mostly moves less.
        if (slower) [u[i], v[i]] = [u[last]!, v[last]!];
        cost[i] = DISAGREES;
      }
    }
  };
  for (let y = 0; y < h; y++) {
    sweep(y * w, w, 1);
    sweep(y * w + w - 1, w, -1);
  }
  for (let x = 0; x < w; x++) {
    sweep(x, h, w);
    sweep((h - 1) * w + x, h, -w);
  }
}

/**
 * The picture at a time t in 0..1 between two: motion is carried to that time from both, each pixel taken from both pictures along it, and from one
 * alone where the other does not see it (after Baker, Scharstein, Lewis, Roth, Black & Szeliski 2011). Planes of the two over the region, and of what
 * is made; `seen` is what the motion was found in.
 */
export function between(
  kernels: Kernels,
  from: readonly Plane[],
  to: readonly Plane[],
  seen: readonly [Float32Array, Float32Array],
  outs: readonly Plane[],
  region: Rect,
  pair: FlowPair,
  t: number,
  poll: () => void,
): void {
  const [w, h] = [width(region), height(region)];
  const n = w * h;
  const found: Candidates = { u: new Float32Array(n), v: new Float32Array(n), cost: new Float32Array(n).fill(Infinity) };
  carry(found, pair.there, pair.apart, unlike(...seen, pair.there, w, h), w, h, t, 1);
  poll();
  carry(found, pair.back, pair.apartBack, unlike(seen[1], seen[0], pair.back, w, h), w, h, 1 - t, -1);
  fill(found, w, h);
  poll();
  kernels.guard(() => {
    const share = new Float32Array(n);
    const map = (size: number): Plane => kernels.zeros(size);
    const { x0, y0 } = region;
    const [mw, mh] = [w + 1, h + 1];
    const maps = [0, 1].map(() => ({ xs: map(mw * mh), ys: map(mw * mh) }));
    for (let y = 0; y < mh; y++) {
      for (let x = 0; x < mw; x++) {
        const i = Math.min(h - 1, y) * w + Math.min(w - 1, x);
        const o = y * mw + x;
        const [u, v] = [found.u[i]!, found.v[i]!];
        const clamp = (p: number, side: number): number => Math.max(0.5, Math.min(side - 0.5, p));
        const [ax, ay] = [clamp(x + 0.5 - t * u, w), clamp(y + 0.5 - t * v, h)];
        const [bx, by] = [clamp(x + 0.5 + (1 - t) * u, w), clamp(y + 0.5 + (1 - t) * v, h)];
        maps[0]!.xs[o] = x0 + ax;
        maps[0]!.ys[o] = y0 + ay;
        maps[1]!.xs[o] = x0 + bx;
        maps[1]!.ys[o] = y0 + by;
        if (x === w || y === h) continue;
        const hiddenThen = hiddenAt(pair.apart[(ay | 0) * w + (ax | 0)]!);
        const hiddenBefore = hiddenAt(pair.apartBack[(by | 0) * w + (bx | 0)]!);
        // What is hidden on one picture comes from the other; what neither is sure of, from both by how near they are.
        const first = (1 - t) * (1 - hiddenBefore + 0.01);
        const second = t * (1 - hiddenThen + 0.01);
        share[i] = second / Math.max(1e-6, first + second);
      }
    }
    const other = outs.map(() => kernels.take(n));
    const taps = tapsOf('catmullRom');
    [from, to].forEach((planes, k) => {
      const packed = Packed.of(kernels, planes, region);
      sampleThrough(kernels, packed, k === 0 ? outs : other, region, maps[k]!, taps, { poll });
      packed.give();
    });
    outs.forEach((out, c) => {
      const b = other[c]!;
      for (let i = 0; i < n; i++) out[i] = out[i]! + share[i]! * (b[i]! - out[i]!);
    });
    [...other, ...maps.flatMap((m) => [m.xs, m.ys])].forEach((p) => kernels.give(p));
  });
}
