import { random } from '../random';
import type { Example, Shown, Teaches, Variation } from './lesson';
import { changedOf, codeOf, lightOf } from './lesson';

/** Sides of a crop, and how much of its rim is not scored: what lies beyond is not seen there. */
export const CROP = 128;
export const RIM = 8;

/** A varied piece of an example: R, G, B, the target, and of a change where it acts, one after the other, each CROP². */
export interface Crop {
  readonly input: Float32Array;
  readonly target: Float32Array;
  readonly acts: Float32Array;
  /** Of which frame. */
  readonly frame: number;
}

/** Mean and deviation of the code values of each channel. */
interface Light {
  readonly mean: readonly number[];
  readonly deviation: readonly number[];
}

/** Something that may pass in front: a picture premultiplied by its own coverage. */
export interface Occluder extends Shown {
  readonly alpha: Float32Array;
}

function lightIn({ width, height, input }: Shown): Light {
  const n = width * height;
  const step = Math.max(1, Math.floor(n / 40_000));
  const sums = [0, 1, 2].map((c) => {
    let [s, q, count] = [0, 0, 0];
    for (let i = 0; i < n; i += step) {
      const v = codeOf(input[c * n + i]!);
      s += v;
      q += v * v;
      count++;
    }
    return [s / count, Math.sqrt(Math.max(1e-8, q / count - (s / count) ** 2))] as const;
  });
  return { mean: sums.map(([m]) => m), deviation: sums.map(([, d]) => d) };
}

const lightsOf = new WeakMap<Float32Array, Light>();
const lightOnce = (shown: Shown): Light => {
  let known = lightsOf.get(shown.input);
  if (!known) lightsOf.set(shown.input, (known = lightIn(shown)));
  return known;
};

/** Places near soft edges, or in what changes: half of the crops stand there. */
function placesOf(e: Example, edges: Float32Array, teaches: Teaches): Uint32Array {
  const { width: w, height: h } = e;
  const found: number[] = [];
  for (let y = 2; y < h - 2; y += 2)
    for (let x = 2; x < w - 2; x += 2) {
      const i = y * w + x;
      const v = edges[i]!;
      const soft = (v > 0.02 && v < 0.98) || Math.abs(v - edges[i + 2]!) > 0.3 || Math.abs(v - edges[i + 2 * w]!) > 0.3;
      if (soft || (teaches === 'change' && v > 0.5)) found.push(i);
    }
  return Uint32Array.from(found);
}

/** Draws crops of examples, each different, the same for the same seed and number. */
export class Varied {
  private readonly taught: readonly Example[];
  private readonly edges: readonly Float32Array[];
  private readonly places: readonly Uint32Array[];

  constructor(
    readonly teaches: Teaches,
    examples: readonly Example[],
    readonly variation: Variation,
    /** Other frames, for their light. */
    private readonly others: readonly Shown[] = [],
    private readonly occluders: readonly Occluder[] = [],
  ) {
    this.taught = examples.filter((e) => !e.held);
    this.edges = this.taught.map((e) => (teaches === 'matte' ? e.target : changedOf(e)));
    this.places = this.taught.map((e, i) => placesOf(e, this.edges[i]!, teaches));
  }

  crop(seed: number, number: number): Crop {
    const next = random(Math.imul(seed + 1, 0x9e3779b1) ^ Math.imul(number + 1, 0x85ebca6b));
    const index = Math.floor(next() * this.taught.length);
    const e = this.taught[index]!;
    const v = this.variation;
    const { width: w, height: h } = e;
    const places = this.places[index]!;
    let [cx, cy] = [next() * w, next() * h];
    if (places.length > 0 && next() < 0.5) {
      const at = places[Math.floor(next() * places.length)]!;
      [cx, cy] = [(at % w) + (next() - 0.5) * 64, Math.floor(at / w) + (next() - 0.5) * 64];
    }
    const half = CROP / 2;
    [cx, cy] = [Math.min(Math.max(cx, half), Math.max(half, w - half)), Math.min(Math.max(cy, half), Math.max(half, h - half))];
    const turn = next() < v.turn * 2 ? ((2 * next() - 1) * v.turn * 20 * Math.PI) / 180 : 0;
    const size = 2 ** ((2 * next() - 1) * v.size);
    const mirror = next() < v.mirror ? -1 : 1;
    const [a, b] = [Math.cos(turn) / size, Math.sin(turn) / size];
    const moving = next() < v.motion;
    const angle = next() * Math.PI;
    const reach = moving ? 2 + next() * 22 * v.motion * 2 : 0;
    const taps = moving ? Math.min(5, 2 * Math.ceil(reach / 6) + 1) : 1;
    const n = CROP * CROP;
    const matte = this.teaches === 'matte';
    const input = new Float32Array(3 * n);
    const target = new Float32Array(matte ? n : 3 * n);
    const acts = new Float32Array(n);
    const from: Sampled[] = [];
    const all = w * h;
    for (let c = 0; c < 3; c++) from.push({ from: e.input, start: c * all, to: input, first: c * n });
    if (matte) from.push({ from: e.target, start: 0, to: target, first: 0 });
    else {
      for (let c = 0; c < 3; c++) from.push({ from: e.target, start: c * all, to: target, first: c * n });
      from.push({ from: this.edges[index]!, start: 0, to: acts, first: 0 });
    }
    for (let t = 0; t < taps; t++) {
      const off = taps > 1 ? reach * (t / (taps - 1) - 0.5) : 0;
      const [ox, oy] = [cx + off * Math.cos(angle), cy + off * Math.sin(angle)];
      sample(from, w, h, ox, oy, mirror * a, -b, mirror * b, a, 1 / taps);
    }
    if (next() < v.blur) for (const { to, first } of from) soften(to.subarray(first, first + n));
    if (next() < v.occluders) this.occlude(next, input, target, acts);
    this.relight(next, e, input, matte ? null : target);
    return { input, target, acts, frame: e.frame };
  }

  /** Lays something over picture and target alike. */
  private occlude(next: () => number, input: Float32Array, target: Float32Array, acts: Float32Array): void {
    const n = CROP * CROP;
    const cover = new Float32Array(n);
    const colour = new Float32Array(3 * n);
    const own = this.occluders.length > 0 && next() < 0.6 ? this.occluders[Math.floor(next() * this.occluders.length)] : undefined;
    if (own) {
      const [cx, cy] = [next() * own.width, next() * own.height];
      const all = own.width * own.height;
      const mirror = next() < 0.5 ? -1 : 1;
      const k = 2 ** (2 * next() - 1);
      const from = [0, 1, 2].map((c): Sampled => ({ from: own.input, start: c * all, to: colour, first: c * n }));
      sample([...from, { from: own.alpha, start: 0, to: cover, first: 0 }], own.width, own.height, cx, cy, mirror * k, 0, 0, k, 1);
    } else {
      const kind = Math.floor(next() * 3);
      const [x, y, r] = [next() * CROP, next() * CROP, 8 + next() * 50];
      const [turn, wide, phase, gap] = [next() * Math.PI, 6 + next() * 30, next() * 10, 0.2 + next() * 0.4];
      const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
      const waves = [0, 1, 2, 3].map(() => [next() * 0.25, next() * 0.25, next() * 6.28] as const);
      const base = [next(), next(), next()].map((c) => c * c * 0.6);
      for (let j = 0; j < CROP; j++)
        for (let i = 0; i < CROP; i++) {
          const k = j * CROP + i;
          const rough = waves.reduce((s, [fx, fy, p]) => s + Math.sin(fx * i + fy * j + p), 0);
          const [u, v] = [(cos * i + sin * j) / wide + phase, (cos * j - sin * i) / wide];
          const edge =
            kind === 0
              ? (r + 6 * rough - Math.hypot(i - x, j - y)) / 2
              : kind === 1
                ? (wide * (gap - Math.abs((((u % 1) + 1) % 1) - 0.5) * 2)) / 2
                : (wide * (gap - 2 * Math.min(Math.abs((((u % 1) + 1) % 1) - 0.5), Math.abs((((v % 1) + 1) % 1) - 0.5)))) / 2;
          const a = (cover[k] = Math.min(1, Math.max(0, edge + 0.5)));
          for (let c = 0; c < 3; c++) colour[c * n + k] = a * base[c]! * (1 + 0.2 * rough * (c === 1 ? 1 : 0.8));
        }
    }
    for (let i = 0; i < n; i++) {
      const rest = 1 - Math.min(1, Math.max(0, cover[i]!));
      if (rest === 1) continue;
      for (let c = 0; c < 3; c++) {
        const k = c * n + i;
        input[k] = input[k]! * rest + colour[k]!;
        if (target.length > n) target[k] = target[k]! * rest + colour[k]!;
      }
      if (target.length === n) target[i] = target[i]! * rest;
      acts[i] = acts[i]! * rest;
    }
  }

  /** Changes light and colour of the picture, and of a target that is one; noise comes to both. */
  private relight(next: () => number, e: Example, input: Float32Array, target: Float32Array | null): void {
    const v = this.variation;
    const n = CROP * CROP;
    // Most crops are near to what was shown; some are far.
    const far = next() < v.exposure;
    const stops = (2 * next() - 1) * (far ? 3.2 * v.exposure : 0.15);
    const gains = [0, 1, 2].map(() => 2 ** (stops + (2 * next() - 1) * 0.3 * v.tint));
    const gamma = next() < 0.5 ? 2 ** ((2 * next() - 1) * 0.5 * v.contrast) : 1;
    const pivot = 0.42;
    const other = this.others.length > 0 && next() < v.light ? this.others[Math.floor(next() * this.others.length)] : undefined;
    const [have, give] = other ? [lightOnce(e), lightOnce(other)] : [null, null];
    const share = next();
    const sigma = next() < v.noise ? 0.03 * v.noise * next() : 0;
    const from = Math.floor(next() * NOISE.length);
    for (let c = 0; c < 3; c++) {
      const gain = gains[c]!;
      let table: Float32Array | null = null;
      if (have || gamma !== 1) {
        const slope = have ? 1 + share * (Math.min(2, Math.max(0.5, give!.deviation[c]! / have.deviation[c]!)) - 1) : 1;
        const shift = have ? share * (give!.mean[c]! - have.mean[c]!) : 0;
        table = Float32Array.from({ length: TABLE + 1 }, (_, i) => {
          let code = (i * HIGHEST) / TABLE;
          if (have) code = Math.max(0, (code - have.mean[c]!) * slope + have.mean[c]! + shift);
          return lightOf(pivot * (code / pivot) ** gamma) * gain;
        });
      }
      for (let k = 0; k < n; k++) {
        const i = c * n + k;
        // Noise grows with the light as that of a sensor does.
        const grain = sigma > 0 ? sigma * NOISE[(from + 7919 * c + k) & 65535]! : 0;
        const light = input[i]!;
        const lit = table ? through(table, light, gain) : light * gain;
        const noise = grain * Math.sqrt(Math.abs(lit) + 0.01);
        input[i] = lit + noise;
        if (target) {
          const t = target[i]!;
          target[i] = (t === light ? lit : table ? through(table, t, gain) : t * gain) + noise;
        }
      }
    }
  }
}

/** Light by a table over its code values; below and beyond it, in proportion. */
function through(table: Float32Array, light: number, gain: number): number {
  if (!(light > 0)) return light * gain;
  const at = (codeOf(light) * TABLE) / HIGHEST;
  if (at >= TABLE) return (table[TABLE]! * light) / MOST_LIGHT;
  const i = Math.floor(at);
  return table[i]! + (at - i) * (table[i + 1]! - table[i]!);
}

const N = CROP * CROP;
/** Where each pixel of a crop is read: its place, and how far it lies to the right and below, used again for all planes. */
const AT = new Int32Array(N);
const RIGHT = new Float32Array(N);
const BELOW = new Float32Array(N);

/** Adds `by` of planes around a place, through a matrix, bilinearly, their edges extended. */
function sample(
  planes: readonly Sampled[],
  w: number,
  h: number,
  cx: number,
  cy: number,
  m0: number,
  m1: number,
  m2: number,
  m3: number,
  by: number,
): void {
  const [mostX, mostY] = [Math.max(0, w - 2), Math.max(0, h - 2)];
  for (let j = 0, k = 0; j < CROP; j++)
    for (let i = 0; i < CROP; i++, k++) {
      const dx = i + 0.5 - CROP / 2;
      const dy = j + 0.5 - CROP / 2;
      const x = Math.min(Math.max(cx + m0 * dx + m1 * dy - 0.5, 0), w - 1);
      const y = Math.min(Math.max(cy + m2 * dx + m3 * dy - 0.5, 0), h - 1);
      const x0 = Math.min(Math.floor(x), mostX);
      const y0 = Math.min(Math.floor(y), mostY);
      AT[k] = y0 * w + x0;
      RIGHT[k] = x - x0;
      BELOW[k] = y - y0;
    }
  const right = w > 1 ? 1 : 0;
  const down = h > 1 ? w : 0;
  for (const { from, start, to, first } of planes) {
    for (let k = 0; k < N; k++) {
      const p = start + AT[k]!;
      const fx = RIGHT[k]!;
      const top = from[p]! + fx * (from[p + right]! - from[p]!);
      const low = from[p + down]! + fx * (from[p + down + right]! - from[p + down]!);
      to[first + k]! += by * (top + BELOW[k]! * (low - top));
    }
  }
}

interface Sampled {
  readonly from: Float32Array;
  readonly start: number;
  readonly to: Float32Array;
  readonly first: number;
}

/** Noise that crops take a piece of: sums of three even numbers, of deviation ½. */
const NOISE = ((): Float32Array => {
  const next = random(99);
  return Float32Array.from({ length: 65536 }, () => next() + next() + next() - 1.5);
})();

/** Entries of a table of what light becomes, over code values from 0 to MOST. */
const TABLE = 1024;
const HIGHEST = 4;
const MOST_LIGHT = lightOf(HIGHEST);

/** 1 2 1 across and down. */
function soften(plane: Float32Array): void {
  const copy = plane.slice();
  for (let j = 0; j < CROP; j++)
    for (let i = 0; i < CROP; i++) {
      const [l, r] = [Math.max(0, i - 1), Math.min(CROP - 1, i + 1)];
      plane[j * CROP + i] = (copy[j * CROP + l]! + 2 * copy[j * CROP + i]! + copy[j * CROP + r]!) / 4;
    }
  copy.set(plane);
  for (let j = 0; j < CROP; j++) {
    const [t, b] = [Math.max(0, j - 1), Math.min(CROP - 1, j + 1)];
    for (let i = 0; i < CROP; i++) plane[j * CROP + i] = (copy[t * CROP + i]! + 2 * copy[j * CROP + i]! + copy[b * CROP + i]!) / 4;
  }
}
