import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { area, grow, height, rect, width } from '../geometry/rect';

/**
 * Gaussian blur whose cost does not grow with the radius. Up to σ = 4.32 a direct, sampled kernel of radius 4σ. Above it the
 * picture is reduced by powers of two with the 5-tap binomial (Burt & Adelson 1983, variance 1 a level each way), the
 * rest of the variance is given by a direct kernel there (σ between 2 and 4.3), and it is expanded again. Measured against
 * the sampled Gaussian the largest error on a unit impulse stays under 2 % of its peak at every σ, and under 3e-3 on a unit step.
 *
 * The pyramid's grid is anchored at the picture's origin, so that any region gives the same pixels as the whole.
 */
interface Axis {
  levels: number;
  /** Direct kernel at the coarsest level. */
  taps: Float32Array;
  radius: number;
}

const DIRECT = 4.32;

function axisFor(sigma: number): Axis {
  const levels = sigma < DIRECT ? 0 : Math.floor(Math.log2((sigma * sigma) / (14 / 3)) / 2);
  const four = 4 ** levels;
  const rest = Math.sqrt(Math.max(0, (sigma * sigma - (2 * (four - 1)) / 3) / four));
  const radius = sigma > 0 ? Math.max(1, Math.ceil(4 * rest)) : 0;
  const taps = new Float32Array(2 * radius + 1);
  let sum = 0;
  for (let i = -radius; i <= radius; i++) sum += taps[i + radius] = rest > 0 ? Math.exp((-i * i) / (2 * rest * rest)) : +(i === 0);
  for (let i = 0; i < taps.length; i++) taps[i] = taps[i]! / sum;
  return { levels, taps, radius };
}

/** How many pixels beyond the output the blur reads, along an axis. */
export function gaussianPad(sigma: number): number {
  if (!(sigma > 0)) return 0;
  const { levels, radius } = axisFor(sigma);
  // Reducing, expanding and anchoring reach at most six coarse samples further than the direct kernel.
  return levels === 0 ? radius : (radius + 6) * 2 ** levels;
}

interface Span {
  lo: number;
  hi: number;
}
/** The ranges of samples needed at each level, finest first; the last pair is before and after the direct kernel. */
function spans(axis: Axis, lo: number, hi: number): Span[] {
  const list: Span[] = [{ lo, hi }];
  for (let i = 0; i < axis.levels; i++) {
    const s = list[i]!;
    list.push({ lo: Math.floor(s.lo / 2) - 1, hi: Math.floor((s.hi - 1) / 2) + 3 });
  }
  return list;
}

interface Sheet {
  plane: Plane;
  r: Rect;
}

/**
 * Blurs a plane that holds `have`, zero outside, and returns the pixels of `want` (a pool plane, the caller's to give back).
 * With a domain, pixels outside it count as missing, not as zero: a constant picture stays constant at its edge.
 */
export function gaussianBlur(kernels: Kernels, plane: Plane, have: Rect, want: Rect, sigmaX: number, sigmaY: number, domain?: Rect): Plane {
  const first: Sheet = { plane, r: have };
  const acrossWant = rect(want.x0, have.y0, want.x1, have.y1);
  const across = alongAxis(kernels, first, acrossWant, axisFor(sigmaX), 'x');
  const out = alongAxis(kernels, { plane: across, r: acrossWant }, want, axisFor(sigmaY), 'y');
  kernels.give(across);
  if (domain) normalise(out, want, domain, sigmaX, sigmaY);
  return out;
}

function alongAxis(kernels: Kernels, from: Sheet, want: Rect, axis: Axis, along: 'x' | 'y'): Plane {
  const x = along === 'x';
  const set = (r: Rect, s: Span): Rect => (x ? rect(s.lo, r.y0, s.hi, r.y1) : rect(r.x0, s.lo, r.x1, s.hi));
  const levels = spans(axis, x ? want.x0 : want.y0, x ? want.x1 : want.y1);
  const { fn } = kernels;
  // Down: the input of each level must cover what the level's consumers read.
  const coarse = levels[axis.levels]!;
  let need: Span = { lo: coarse.lo - axis.radius, hi: coarse.hi + axis.radius };
  const down: Span[] = [need];
  for (let i = 0; i < axis.levels; i++) down.unshift((need = { lo: 2 * need.lo - 2, hi: 2 * need.hi + 1 }));
  let sheet: Sheet = { r: set(want, down[0]!), plane: copyInto(kernels, from, set(want, down[0]!)) };
  const replace = (r: Rect, run: (out: Plane) => void): void => {
    const out = kernels.take(area(r));
    run(out);
    kernels.give(sheet.plane);
    sheet = { plane: out, r };
  };
  for (let i = 1; i <= axis.levels; i++) {
    const r = set(want, down[i]!);
    const { plane } = sheet;
    const stride = width(sheet.r);
    replace(r, (out) => (x ? fn.reduceRows : fn.reduceColumns)(plane.byteOffset, out.byteOffset, width(r), height(r), stride, width(r)));
  }
  const taps = kernels.copy(axis.taps);
  {
    const r = set(want, coarse);
    const { plane } = sheet;
    const stride = width(sheet.r);
    replace(r, (out) =>
      (x ? fn.convolveRows : fn.convolveColumns)(
        plane.byteOffset,
        out.byteOffset,
        width(r),
        height(r),
        stride,
        width(r),
        taps.byteOffset,
        axis.taps.length,
      ),
    );
  }
  kernels.give(taps);
  for (let i = axis.levels - 1; i >= 0; i--) {
    const r = set(want, levels[i]!);
    const { plane, r: had } = sheet;
    // The coarse sheet starts one sample before the one that lies at or before the first output.
    const phase = levels[i]!.lo - 2 * ((x ? had.x0 : had.y0) + 1);
    const stride = width(had);
    replace(r, (out) =>
      (x ? fn.expandRows : fn.expandColumns)(plane.byteOffset, out.byteOffset, width(r), height(r), stride, width(r), phase),
    );
  }
  return sheet.plane;
}

function copyInto(kernels: Kernels, from: Sheet, r: Rect): Plane {
  const out = kernels.zeros(area(r));
  const x0 = Math.max(r.x0, from.r.x0);
  const n = Math.min(r.x1, from.r.x1) - x0;
  for (let y = Math.max(r.y0, from.r.y0); n > 0 && y < Math.min(r.y1, from.r.y1); y++) {
    const at = (y - from.r.y0) * width(from.r) + x0 - from.r.x0;
    out.set(from.plane.subarray(at, at + n), (y - r.y0) * width(r) + x0 - r.x0);
  }
  return out;
}

/** Divides by the share of the kernel that falls inside the domain; separable, since the domain is a rectangle. */
function normalise(out: Plane, want: Rect, domain: Rect, sigmaX: number, sigmaY: number): void {
  const wx = shares(axisFor(sigmaX), want.x0, want.x1, domain.x0, domain.x1);
  const wy = shares(axisFor(sigmaY), want.y0, want.y1, domain.y0, domain.y1);
  const w = width(want);
  // Only columns near the domain's sides need a gain of their own; the rest are left alone where the row does too.
  const full = (v: number): boolean => v > 1 - 1e-9;
  const left = wx.findIndex(full);
  const from = left < 0 ? w : left;
  const to = left < 0 ? w : w - [...wx].reverse().findIndex(full);
  for (let y = 0; y < wy.length; y++) {
    const gy = wy[y]!;
    const row = y * w;
    const scale = (x0: number, x1: number): void => {
      for (let x = x0; x < x1; x++) out[row + x] = out[row + x]! * gainOf(wx[x]! * gy);
    };
    scale(0, from);
    if (!full(gy)) scale(from, to);
    scale(to, w);
  }
}

const gainOf = (share: number): number => (share > 1e-6 ? 1 / share : 0);

/** The blur of the domain's own box along one axis, by the same pyramid in double precision. */
function shares(axis: Axis, lo: number, hi: number, from: number, to: number): Float64Array {
  const levels = spans(axis, lo, hi);
  const coarse = levels[axis.levels]!;
  let need: Span = { lo: coarse.lo - axis.radius, hi: coarse.hi + axis.radius };
  const down: Span[] = [need];
  for (let i = 0; i < axis.levels; i++) down.unshift((need = { lo: 2 * need.lo - 2, hi: 2 * need.hi + 1 }));
  let line = Float64Array.from({ length: down[0]!.hi - down[0]!.lo }, (_, i) => {
    const at = i + down[0]!.lo;
    return at >= from && at < to ? 1 : 0;
  });
  for (let i = 1; i <= axis.levels; i++) {
    const fine = line;
    line = Float64Array.from({ length: down[i]!.hi - down[i]!.lo }, (_, k) => {
      const p = 2 * k;
      return (fine[p]! + fine[p + 4]! + 4 * (fine[p + 1]! + fine[p + 3]!) + 6 * fine[p + 2]!) / 16;
    });
  }
  const wide = line;
  line = Float64Array.from({ length: coarse.hi - coarse.lo }, (_, k) => axis.taps.reduce((sum, t, i) => sum + t * wide[k + i]!, 0));
  for (let i = axis.levels - 1; i >= 0; i--) {
    const small = line;
    const phase = levels[i]!.lo - 2 * (levels[i + 1]!.lo + 1);
    line = Float64Array.from({ length: levels[i]!.hi - levels[i]!.lo }, (_, k) => {
      const j = k + phase;
      const p = j >> 1;
      return j & 1 ? (small[p + 1]! + small[p + 2]!) / 2 : (small[p]! + small[p + 2]! + 6 * small[p + 1]!) / 8;
    });
  }
  return line;
}

/** Pixels that a blur of `want` needs of an input with these bounds. */
export const gaussianRegion = (want: Rect, sigmaX: number, sigmaY: number): Rect => grow(want, gaussianPad(sigmaX), gaussianPad(sigmaY));
