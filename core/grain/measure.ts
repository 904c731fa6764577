import { ShotError } from '../errors';
import { solve } from '../geometry/solve';
import type { ChannelGrain } from './model';
import { QUARTER } from './model';

/** A frame or a part of one, R, G and B, scene-linear, w×h each. */
export interface GrainLook {
  planes: readonly (Float32Array | Float64Array)[];
  w: number;
  h: number;
  /** 1 where it counts; everywhere unless said. */
  inside?: Uint8Array;
}

/** Pixels a side of the squares that are looked at. */
const BLOCK = 16;
/** Tones that are looked at apart. */
const TONES = 10;
/** Squares whose variance is within this of the flattest ones' are flat, too. */
const FLAT = 1.6;
const FEW = 6;
/** Spectrum of so many samples each way. */
const N = 16;

interface Square {
  /** Mean and variance a channel, and what the channels share. */
  mean: number[];
  variance: number[];
  shared: number[];
  /** QUARTER² sums of products at a distance, a channel. */
  lags: Float64Array[];
}

/**
 * Measures the grain of a plate from the flat squares of some frames: each loses its light, a quadratic surface, and the rest is noise. The flattest of each tone
 * are taken and those that are as flat; their variance is fitted by a + b·v + c·v², their correlation with neighbours gives the kernel by its spectrum,
 * and their correlation between channels the mix. Throws ShotError where nothing is flat enough.
 */
export function measureGrain(looks: readonly GrainLook[]): ChannelGrain[] {
  const squares = looks.flatMap(squaresOf);
  if (squares.length < FEW)
    throw new ShotError(`grain is measured on a flat place of at least ${BLOCK * 2}×${BLOCK * 3} px; choose a larger one`);
  const flat = flatOf(squares);
  const correlation = [
    [0, 1],
    [0, 2],
    [1, 2],
  ].map(([a, b], k) => {
    const shared = flat.reduce((s, q) => s + q.shared[k]! / Math.sqrt(Math.max(1e-20, q.variance[a!]! * q.variance[b!]!)), 0) / flat.length;
    return Math.min(0.98, Math.max(-0.98, shared));
  }) as [number, number, number];
  const mix = lowerTriangle(correlation);
  return [0, 1, 2].map((c) => {
    const { lag, sum, texture } = correlationOf(flat, c);
    // Larger grain lost more to the surface than white noise would have.
    const more = ((1 - texture) * FREE) / Math.max(FREE / 2, BLOCK * BLOCK - BASIS.length * sum);
    return { variance: fitVariance(flat, c).map((v) => Number((v * more).toPrecision(6))), kernel: kernelOf(lag), mix: mix[c]! };
  });
}

/** An orthonormal basis of what light does in a square: even, sloped, curved. */
const BASIS: readonly Float64Array[] = (() => {
  const at = (f: (x: number, y: number) => number): Float64Array =>
    Float64Array.from({ length: BLOCK * BLOCK }, (_, i) => f((i % BLOCK) - (BLOCK - 1) / 2, Math.floor(i / BLOCK) - (BLOCK - 1) / 2));
  const made: Float64Array[] = [];
  for (const raw of [at(() => 1), at((x) => x), at((_, y) => y), at((x, y) => x * y), at((x) => x * x), at((_, y) => y * y)]) {
    for (const b of made) {
      const along = raw.reduce((s, v, i) => s + v * b[i]!, 0);
      for (let i = 0; i < raw.length; i++) raw[i]! -= along * b[i]!;
    }
    const length = Math.sqrt(raw.reduce((s, v) => s + v * v, 0));
    made.push(raw.map((v) => v / length));
  }
  return made;
})();
/** What is left of a square's freedom. */
const FREE = BLOCK * BLOCK - BASIS.length;

/** Whether all of a square counts. */
function isWhole(inside: Uint8Array, w: number, x0: number, y0: number): boolean {
  for (let y = y0; y < y0 + BLOCK; y++) for (let i = y * w + x0; i < y * w + x0 + BLOCK; i++) if (!inside[i]) return false;
  return true;
}

function squaresOf({ planes, w, h, inside }: GrainLook): Square[] {
  const out: Square[] = [];
  const n = BLOCK * BLOCK;
  const rest = [0, 1, 2].map(() => new Float64Array(n));
  for (let y0 = 0; y0 + BLOCK <= h; y0 += BLOCK) {
    for (let x0 = 0; x0 + BLOCK <= w; x0 += BLOCK) {
      if (inside && !isWhole(inside, w, x0, y0)) continue;
      const mean: number[] = [];
      const variance: number[] = [];
      const lags: Float64Array[] = [];
      for (let c = 0; c < 3; c++) {
        const own = rest[c]!;
        let sum = 0;
        for (let y = 0, i = 0; y < BLOCK; y++) for (let x = 0; x < BLOCK; x++, i++) sum += own[i] = planes[c]![(y0 + y) * w + x0 + x]!;
        for (const b of BASIS) {
          let along = 0;
          for (let i = 0; i < n; i++) along += own[i]! * b[i]!;
          for (let i = 0; i < n; i++) own[i]! -= along * b[i]!;
        }
        let squares = 0;
        for (let i = 0; i < n; i++) squares += own[i]! * own[i]!;
        mean.push(sum / n);
        variance.push(squares / FREE);
        lags.push(lagsOf(own));
      }
      if (variance.some((v) => !(v > 0 && Number.isFinite(v)))) continue;
      const share = (a: number, b: number): number => rest[a]!.reduce((s, v, i) => s + v * rest[b]![i]!, 0) / FREE;
      out.push({ mean, variance, shared: [share(0, 1), share(0, 2), share(1, 2)], lags });
    }
  }
  return out;
}

/** Mean products of pixels at distances of 0 to QUARTER − 1 each way, to both sides. */
function lagsOf(rest: Float64Array): Float64Array {
  const out = new Float64Array(QUARTER * QUARTER);
  for (let dy = 0; dy < QUARTER; dy++) {
    for (let dx = 0; dx < QUARTER; dx++) {
      let sum = 0;
      for (let y = 0; y < BLOCK - dy; y++) {
        for (let x = 0; x < BLOCK - dx; x++) {
          const i = y * BLOCK + x;
          sum += rest[i]! * rest[i + dy * BLOCK + dx]!;
          if (dx > 0 && dy > 0) sum += rest[i + dx]! * rest[i + dy * BLOCK]!;
        }
      }
      out[dy * QUARTER + dx] = sum / ((BLOCK - dx) * (BLOCK - dy) * (dx > 0 && dy > 0 ? 2 : 1));
    }
  }
  return out;
}

/** Of each tone the squares that hold nothing but noise. */
function flatOf(squares: readonly Square[]): Square[] {
  const light = (s: Square): number => s.mean[0]! + s.mean[1]! + s.mean[2]!;
  const rough = (s: Square): number => s.variance[0]! + s.variance[1]! + s.variance[2]!;
  const byTone = [...squares].sort((a, b) => light(a) - light(b));
  const per = Math.max(FEW, Math.ceil(byTone.length / TONES));
  const groups: Square[][] = [];
  for (let from = 0; from < byTone.length; from += per) {
    const group = byTone.slice(from, from + per).sort((a, b) => rough(a) - rough(b));
    let kept = group.slice(0, Math.max(3, Math.ceil(group.length * 0.08)));
    for (let round = 0; round < 6; round++) {
      const middle = rough(kept[kept.length >> 1]!);
      const next = group.filter((s) => rough(s) <= middle * FLAT);
      if (next.length === kept.length) break;
      kept = next;
    }
    groups.push(kept);
  }
  // A tone of which nothing is flat says more than there is: tones whose flattest are far rougher than those of the next ones say nothing.
  const typical = groups.map((g) => rough(g[g.length >> 1]!) / (0.01 + light(g[g.length >> 1]!)));
  const least = Math.min(...typical);
  return groups.filter((_, i) => typical[i]! <= 2.5 * least || groups.length === 1).flat();
}

/** a, b, c of the variance by the light, none of them less than 0: the parts that would be are left out in turn. */
function fitVariance(flat: readonly Square[], c: number): number[] {
  let best: { parts: number[]; error: number } | null = null;
  // The variance of a variance goes with its square: that of the whole, so that squares that came out low do not weigh more.
  const sorted = flat.map((s) => s.variance[c]!).sort((a, b) => a - b);
  const usual = sorted[sorted.length >> 1]!;
  for (const use of [[0], [1], [2], [0, 1], [0, 2], [1, 2], [0, 1, 2]]) {
    const rows = use.map(() => new Float64Array(use.length));
    const right = new Float64Array(use.length);
    for (const s of flat) {
      const v = Math.max(0, s.mean[c]!);
      const terms = use.map((k) => v ** k);
      const weight = 1 / Math.max(s.variance[c]!, usual) ** 2;
      terms.forEach((t, i) => {
        right[i]! += weight * t * s.variance[c]!;
        terms.forEach((o, j) => (rows[i]![j]! += weight * t * o));
      });
    }
    const found = solve(rows, right);
    if (!found.every((x) => Number.isFinite(x) && x >= 0)) continue;
    const parts = [0, 0, 0];
    use.forEach((k, i) => (parts[k] = found[i]!));
    const error = flat.reduce((sum, s) => {
      const v = Math.max(0, s.mean[c]!);
      return sum + ((parts[0]! + parts[1]! * v + parts[2]! * v * v) / s.variance[c]! - 1) ** 2;
    }, 0);
    if (!best || error < best.error * (use.length > 1 ? 0.98 : 1)) best = { parts, error };
  }
  return best?.parts ?? [flat.reduce((s, q) => s + q.variance[c]!, 0) / flat.length, 0, 0];
}

/** Rows of L with L·Lᵀ the correlation of R, G and B. */
function lowerTriangle([rg, rb, gb]: readonly [number, number, number]): number[][] {
  const g = Math.sqrt(1 - rg * rg);
  const second = (gb - rg * rb) / g;
  const third = Math.sqrt(Math.max(0, 1 - rb * rb - second * second));
  const length = Math.hypot(rb, second, third);
  const round = (v: number): number => Number(v.toPrecision(6));
  return [
    [1, 0, 0],
    [round(rg), round(g), 0],
    [round(rb / length), round(second / length), round(third / length)],
  ];
}

/** What the basis takes from the correlation of white noise of variance 1 at each distance. */
const TAKEN: Float64Array = (() => {
  const sum = new Float64Array(QUARTER * QUARTER);
  for (const b of BASIS) lagsOf(b).forEach((v, i) => (sum[i]! += v));
  return sum;
})();

/** How often a distance of a quarter comes in the whole. */
const times = (i: number): number => (i % QUARTER ? 2 : 1) * (i >= QUARTER ? 2 : 1);

/**
 * The correlation with neighbours, 1 at distance 0, and the sum of all of it: what the surface took is given back, which is the more the larger the
 * grain is.
 */
function correlationOf(flat: readonly Square[], c: number): { lag: Float64Array; sum: number; texture: number } {
  const seen = new Float64Array(QUARTER * QUARTER);
  for (const s of flat) for (let i = 0; i < seen.length; i++) seen[i]! += s.lags[c]![i]! / s.lags[c]![0]! / flat.length;
  let sum = 1;
  let lag = seen;
  for (let round = 0; round < 8; round++) {
    lag = seen.map((v, i) => v * (1 - sum * TAKEN[0]!) + sum * TAKEN[i]!);
    sum = Math.min(
      40,
      Math.max(
        0.02,
        lag.reduce((s, v, i) => s + (v / lag[0]!) * times(i), 0),
      ),
    );
  }
  // Grain is at an end after three pixels: what still hangs together there is texture, and is taken off.
  const texture = Math.min(0.9, Math.max(0, (lag[QUARTER - 1]! + lag[QUARTER * (QUARTER - 1)]!) / (2 * lag[0]!)));
  // Nearer it hangs together more: what comes out below nothing is no grain either.
  const own = lag.map((v) => (texture > 0.03 ? Math.max(0, v / lag[0]! - texture) : v / lag[0]!));
  return { lag: own.map((v) => v / own[0]!), sum, texture };
}

/** The kernel that gives white noise the measured correlation: the inverse transform of the root of its spectrum. */
function kernelOf(lag: Float64Array): number[] {
  const at = (x: number, y: number): number => {
    const [u, v] = [Math.min(x, N - x), Math.min(y, N - y)];
    return u < QUARTER && v < QUARTER ? lag[v * QUARTER + u]! : 0;
  };
  const cosine = Array.from({ length: N }, (_, i) => Math.cos((2 * Math.PI * i) / N));
  const transform = (f: (x: number, y: number) => number): Float64Array => {
    const out = new Float64Array(N * N);
    for (let v = 0; v < N; v++) {
      for (let u = 0; u < N; u++) {
        let sum = 0;
        // Even in both directions: nothing but cosines is left.
        for (let y = 0; y < N; y++) for (let x = 0; x < N; x++) sum += f(x, y) * cosine[(u * x) % N]! * cosine[(v * y) % N]!;
        out[v * N + u] = sum;
      }
    }
    return out;
  };
  const spectrum = transform(at);
  const kernel = transform((x, y) => Math.sqrt(Math.max(0, spectrum[y * N + x]!)) / (N * N));
  const quarter = Array.from({ length: QUARTER * QUARTER }, (_, i) => kernel[Math.floor(i / QUARTER) * N + (i % QUARTER)]!);
  let energy = 0;
  quarter.forEach((v, i) => (energy += v * v * times(i)));
  const k = 1 / Math.sqrt(energy);
  return quarter.map((v) => Number((v * k).toPrecision(5)));
}
