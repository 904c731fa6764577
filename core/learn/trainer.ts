import type { Kernels, Plane } from '@/kernels';
import type { Example, Shown, Teaches, Variation } from './lesson';
import { DIFFERENCE, MOST_CODE, codeOf, guessOf, lightOf, setsOf } from './lesson';
import type { Look } from './look';
import { LookPlanes } from './look';
import { firstWeights, fromOther, placesOf } from './net';
import { TrainingNet } from './training-net';
import type { Crop, Occluder } from './variation';
import { CROP, RIM, Varied } from './variation';

/** Crops of a step: each half may be worked out by another worker. */
const CROPS = 4;
const RATE = 2e-3;
const WARM_UP = 20;
/** Steps after which the rate has fallen to 1/√2. */
const FALL = 1200;
const [BETA1, BETA2] = [0.9, 0.99];
/** The most that the weights' running mean keeps of itself a step. */
const KEEP = 0.995;
/** Gradients larger than this times their running size are made as small as that. */
const CLIP = 1.5;
/** Slopes of results below this are none. */
const SMALL = 1e-4;

/** Where a training stands: all that it goes on from. */
export interface TrainingState {
  step: number;
  weights: Float32Array;
  /** Running mean of the weights: what is applied. */
  means: Float32Array;
  first: Float32Array;
  second: Float32Array;
  /** Running size of the gradients. */
  size: number;
}

export interface TrainingInput {
  teaches: Teaches;
  examples: readonly Example[];
  variation: Variation;
  /** Frames whose light is lent, and things that may pass in front. */
  others?: readonly Shown[];
  occluders?: readonly Occluder[];
  look: Look;
  seed: number;
  /** What it goes on from, or the weights of another lesson. */
  from?: TrainingState | { readonly weights: Float32Array };
}

export const startOf = (teaches: Teaches, seed: number, weights = firstWeights(guessOf(teaches), seed)): TrainingState => ({
  step: 0,
  weights,
  means: weights.slice(),
  first: new Float32Array(weights.length),
  second: new Float32Array(weights.length),
  size: 0,
});

/**
 * Teaches a net by examples, one step after the other: the same weights for the same seed, however the halves of a step are shared
 * out. Cross-entropy and absolute difference of mattes, absolute difference of code values and cross-entropy of where a change acts.
 */
export class Trainer {
  readonly weights: Plane;
  readonly means: Plane;
  readonly varied: Varied;
  step: number;
  private readonly first: Plane;
  private readonly second: Plane;
  private readonly sum: Plane;
  private readonly net: TrainingNet;
  private readonly look: LookPlanes;
  private readonly planes: Plane;
  private size: number;
  private readonly held: readonly Example[];
  private heldCrops: readonly Crop[] | null = null;
  /** Running loss of each example that is taught, by its frame. */
  readonly hard = new Map<number, number>();

  constructor(
    private readonly kernels: Kernels,
    private readonly input: TrainingInput,
  ) {
    const { teaches, from, seed } = input;
    const state = from && 'step' in from ? from : startOf(teaches, seed, from && fromOther(from.weights, guessOf(teaches)));
    this.step = state.step;
    this.size = state.size;
    this.weights = kernels.copy(state.weights);
    this.means = kernels.copy(state.means);
    this.first = kernels.copy(state.first);
    this.second = kernels.copy(state.second);
    this.sum = kernels.zeros(this.weights.length);
    this.net = new TrainingNet(kernels, this.weights, setsOf(teaches), CROP);
    this.look = new LookPlanes(kernels, input.look);
    this.planes = kernels.zeros(3 * CROP * CROP);
    this.varied = new Varied(teaches, input.examples, input.variation, input.others, input.occluders);
    this.held = input.examples.filter((e) => e.held);
  }

  get length(): number {
    return placesOf(setsOf(this.input.teaches)).length;
  }

  /** Loss and gradients of one half of the next step's crops, 0 or 1. `gradients` is filled. */
  half(which: 0 | 1, gradients: Plane): number {
    gradients.fill(0);
    let loss = 0;
    for (let k = 0; k < CROPS / 2; k++) {
      const crop = this.varied.crop(this.input.seed, this.step * CROPS + (which * CROPS) / 2 + k);
      this.see(crop.input);
      this.net.forward();
      const own = this.score(crop, 1 / CROPS);
      loss += own;
      const { frame } = crop;
      this.hard.set(frame, 0.95 * (this.hard.get(frame) ?? own) + 0.05 * own);
      this.net.backward(gradients);
    }
    return loss / CROPS;
  }

  /** A step by the gradients of both halves, always added in the same order. */
  update(a: Float32Array, b: Float32Array): void {
    const { sum, kernels } = this;
    for (let i = 0; i < sum.length; i++) sum[i] = a[i]! + b[i]!;
    const size = Math.sqrt(kernels.fn.sumSquares(sum.byteOffset, sum.length));
    this.step++;
    if (!Number.isFinite(size)) return;
    const shrink = this.size > 0 ? Math.min(1, (CLIP * this.size) / Math.max(size, 1e-12)) : 1;
    this.size = this.size > 0 ? 0.98 * this.size + 0.02 * Math.min(size, 3 * this.size) : size;
    const t = this.step;
    const rate = (RATE * Math.min(1, t / WARM_UP)) / Math.sqrt(1 + t / FALL);
    // The corrections of both moments' start, put together.
    const root = Math.sqrt(1 - BETA2 ** t);
    kernels.fn.adamStep(
      this.weights.byteOffset,
      sum.byteOffset,
      this.first.byteOffset,
      this.second.byteOffset,
      this.means.byteOffset,
      sum.length,
      shrink,
      BETA1,
      BETA2,
      (rate * root) / (1 - BETA1 ** t),
      1e-8 * root,
      Math.min(KEEP, (1 + t) / (30 + t)),
    );
  }

  /** Pixels as the net sees them into its input. */
  private see(input: Float32Array): void {
    const n = CROP * CROP;
    this.planes.set(input);
    const at = this.planes.byteOffset;
    for (let y = 0; y < CROP; y++) {
      const p = at + 4 * y * CROP;
      this.look.row(p, p + 4 * n, p + 8 * n, this.net.input.byteOffset + 16 * ((y + 1) * (CROP + 2) + 1), CROP);
    }
  }

  /** Loss of what the net gave of a crop, `by` of it, and its slope. The rim counts nothing. */
  private score(crop: Crop, by: number): number {
    const { out, slope } = this.net;
    slope.fill(0);
    const inner = CROP - 2 * RIM;
    const each = by / (inner * inner);
    const n = CROP * CROP;
    let loss = 0;
    const matte = this.input.teaches === 'matte';
    for (let y = RIM; y < CROP - RIM; y++)
      for (let i = y * CROP + RIM; i < (y + 1) * CROP - RIM; i++) {
        if (matte) {
          const z = out[i]!;
          const v = 1 / (1 + Math.exp(-z));
          const t = Math.min(1, Math.max(0, crop.target[i]!));
          loss += crossEntropy(z, t) + Math.abs(v - t);
          const s = v - t + Math.sign(v - t) * v * (1 - v);
          // What is as good as right teaches nothing; deep in the net it would only be too small to count with quickly.
          if (Math.abs(s) > SMALL) slope[i] = each * s;
          continue;
        }
        const z = out[4 * i + 3]!;
        const act = 1 / (1 + Math.exp(-z));
        let pull = 0;
        for (let c = 0; c < 3; c++) {
          const code = codeOf(crop.input[c * n + i]!);
          const want = codeOf(crop.target[c * n + i]!);
          if (Math.abs(code) > MOST_CODE || Math.abs(want) > MOST_CODE) continue;
          const difference = DIFFERENCE * out[4 * i + c]!;
          const off = code + act * difference - want;
          loss += 8 * Math.abs(off);
          // Linear, but for the last 0.002.
          const s = (8 * off) / Math.max(Math.abs(off), 0.002);
          if (act > SMALL) slope[4 * i + c] = each * s * act * DIFFERENCE;
          pull += s * difference;
        }
        if (this.input.teaches === 'carry') {
          loss += crossEntropy(z, 1);
          if (1 - act > SMALL) slope[4 * i + 3] = each * (act - 1);
          continue;
        }
        const t = crop.acts[i]!;
        loss += 0.5 * crossEntropy(z, t);
        const s = 0.5 * (act - t) + pull * act * (1 - act);
        if (Math.abs(s) > SMALL) slope[4 * i + 3] = each * s;
      }
    return loss * (each / by);
  }

  /** Sets up the net with the running means for a while: what is applied is what is measured. */
  private withMeans<T>(run: () => T): T {
    const own = this.weights.slice();
    this.weights.set(this.means);
    try {
      return run();
    } finally {
      this.weights.set(own);
    }
  }

  /** Loss on crops of examples that are held back, unvaried, always the same; null where none is. */
  heldLoss(): number | null {
    if (this.held.length === 0) return null;
    if (!this.heldCrops) {
      const plain = new Varied(
        this.input.teaches,
        this.held.map((e) => ({ ...e, held: false })),
        STILL,
      );
      this.heldCrops = Array.from({ length: 12 }, (_, i) => plain.crop(7, i));
    }
    const crops = this.heldCrops;
    return this.withMeans(() => crops.reduce((s, crop) => s + this.lossOf(crop), 0) / crops.length);
  }

  /** Unvaried crops of the examples, those that are held back first, each with what is made of it now. */
  sheet(count: number): Sheet[] {
    this.shown ??= sheetCrops(this.input.teaches, this.input.examples, count);
    return this.withMeans(() => this.shown!.map((crop) => ({ ...crop, now: this.made(crop) })));
  }

  private shown: (Crop & { held: boolean })[] | undefined;

  /** What the net makes of a crop: coverage, or R, G, B. */
  private made(crop: Crop): Float32Array {
    this.see(crop.input);
    this.net.forward();
    const { out } = this.net;
    const n = CROP * CROP;
    if (this.input.teaches === 'matte') return Float32Array.from({ length: n }, (_, i) => 1 / (1 + Math.exp(-out[i]!)));
    const light = new Float32Array(3 * n);
    for (let i = 0; i < n; i++) {
      const act = this.input.teaches === 'carry' ? 1 : 1 / (1 + Math.exp(-out[4 * i + 3]!));
      for (let c = 0; c < 3; c++) light[c * n + i] = lightOf(codeOf(crop.input[c * n + i]!) + act * DIFFERENCE * out[4 * i + c]!);
    }
    return light;
  }

  private lossOf(crop: Crop): number {
    this.see(crop.input);
    this.net.forward();
    return this.score(crop, 1);
  }

  state(): TrainingState {
    const { step, size } = this;
    return {
      step,
      size,
      weights: this.weights.slice(),
      means: this.means.slice(),
      first: this.first.slice(),
      second: this.second.slice(),
    };
  }

  dispose(): void {
    [this.weights, this.means, this.first, this.second, this.sum, this.planes].forEach((p) => this.kernels.give(p));
    this.net.dispose();
    this.look.dispose();
  }
}

/** A crop beside what is made of it now. */
export interface Sheet extends Crop {
  readonly held: boolean;
  readonly now: Float32Array;
}

function sheetCrops(teaches: Teaches, examples: readonly Example[], count: number): (Crop & { held: boolean })[] {
  const order = [...examples].sort((a, b) => Number(b.held) - Number(a.held));
  return Array.from({ length: count }, (_, i) => {
    const e = order[i % order.length]!;
    const plain = new Varied(teaches, [{ ...e, held: false }], STILL);
    // The one of a few that shows most of both.
    const some = Array.from({ length: 8 }, (_, k) => plain.crop(3 + Math.floor(i / order.length), k));
    const mixed = ({ target, acts }: Crop): number => {
      const of = teaches === 'matte' ? target : acts;
      const share = of.reduce((s, v) => s + v, 0) / of.length;
      return share * (1 - share);
    };
    return { ...some.reduce((best, crop) => (mixed(crop) > mixed(best) ? crop : best)), held: e.held };
  });
}

const STILL = {
  mirror: 0,
  turn: 0,
  size: 0,
  exposure: 0,
  contrast: 0,
  tint: 0,
  noise: 0,
  blur: 0,
  motion: 0,
  light: 0,
  occluders: 0,
} satisfies Variation;

/** Cross-entropy of the logit z and the share t, less the least that t allows. */
function crossEntropy(z: number, t: number): number {
  const least = t > 0 && t < 1 ? -(t * Math.log(t) + (1 - t) * Math.log(1 - t)) : 0;
  return Math.max(z, 0) - z * t + Math.log1p(Math.exp(-Math.abs(z))) - least;
}
