import type { Kernels, Plane } from '@/kernels';
import { random } from '../random';

/**
 * A net for few frames: at a quarter of the size it works out, from 4×4 pixels at a time and three scales, a few coefficients for
 * each place; a pixel's result is the sum of those times its features at full size, its own channels and a constant. It corrects what
 * a table of colours guesses. After bilateral guided upsampling (Chen et al. 2016) and U-Net (Ronneberger et al. 2015).
 */
interface Layer {
  readonly name: string;
  readonly cin: number;
  readonly cout: number;
}

/** Slope of the rectifiers below 0. */
export const LEAK = 0.1;
/** Coefficients of one result: 8 features, 4 channels of the pixel, a constant, 3 unused. */
export const COEFFICIENTS = 16;
/** Of them the one of the table's guess. */
const GUESS = 11;
/** Sides of the maps that the net works on are multiples of this, and this is also how many pixels a picture is at least across. */
export const CELL = 16;
export const LEAST_SIDE = 64;

export const layersOf = (sets: number): readonly Layer[] => [
  { name: 'in', cin: 64, cout: 24 },
  { name: 'quarter', cin: 24, cout: 24 },
  { name: 'eighth', cin: 24, cout: 32 },
  { name: 'eighth again', cin: 32, cout: 32 },
  { name: 'sixteenth', cin: 32, cout: 48 },
  { name: 'sixteenth again', cin: 48, cout: 48 },
  { name: 'up to an eighth', cin: 80, cout: 32 },
  { name: 'up again', cin: 32, cout: 32 },
  { name: 'up to a quarter', cin: 56, cout: 24 },
  { name: 'coefficients', cin: 24, cout: COEFFICIENTS * sets },
  { name: 'features', cin: 4, cout: 8 },
  { name: 'features again', cin: 8, cout: 8 },
];

/** Where each layer's weights [ky][kx][cin][cout] and its bias lie among all of them, in floats. */
export interface Places {
  readonly layers: readonly (Layer & { readonly at: number; readonly bias: number })[];
  readonly length: number;
}

const placed = new Map<number, Places>();
export function placesOf(sets: number): Places {
  const known = placed.get(sets);
  if (known) return known;
  let at = 0;
  const layers = layersOf(sets).map((l) => {
    const bias = at + 9 * l.cin * l.cout;
    const own = { ...l, at, bias };
    at = bias + l.cout;
    return own;
  });
  const places = { layers, length: at };
  placed.set(sets, places);
  return places;
}

/**
 * Weights to start from, the same for the same seed: normal, by the number of inputs (He et al. 2015), those of the coefficients small,
 * so that the results start as the table's guess: `guess` says by how much of it each starts.
 */
export function firstWeights(guess: readonly number[], seed: number): Float32Array {
  const { layers, length } = placesOf(guess.length);
  const weights = new Float32Array(length);
  const next = random(seed);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
  layers.forEach(({ at, bias, cin, name }) => {
    const spread = Math.sqrt(2 / (9 * cin)) * (name === 'coefficients' ? 0.2 : 1);
    for (let i = at; i < bias; i++) weights[i] = spread * normal();
    if (name === 'coefficients') guess.forEach((by, set) => (weights[bias + COEFFICIENTS * set + GUESS] = by));
  });
  return weights;
}

/** What a lesson starts from that has learnt something else: its features are kept, its results start as the guess. */
export function fromOther(weights: Float32Array, guess: readonly number[]): Float32Array {
  const places = placesOf(guess.length);
  if (weights.length === places.length) return weights.slice();
  const from = [1, 4].map(placesOf).find((p) => p.length === weights.length)!;
  const own = firstWeights(guess, 1);
  places.layers.forEach((l, i) => {
    const other = from.layers[i]!;
    if (l.cout === other.cout) own.set(weights.subarray(other.at, other.bias + other.cout), l.at);
  });
  return own;
}

/** Floats of a map of w·h with its border. */
export const mapSize = (w: number, h: number, c: number): number => (w + 2) * (h + 2) * c;

/** Layers over maps in the kernels' memory. */
export class Layers {
  constructor(
    readonly kernels: Kernels,
    readonly weights: Plane,
    readonly sets: number,
  ) {}

  forward(layer: number, x: Plane, out: Plane, w: number, h: number, leak = LEAK): void {
    const { at, bias, cin, cout } = placesOf(this.sets).layers[layer]!;
    const base = this.weights.byteOffset;
    this.kernels.fn.conv3(x.byteOffset, base + 4 * at, base + 4 * bias, out.byteOffset, w, h, cin, cout, leak);
  }
}

/** Index of the coefficients' layer. */
export const COEFFICIENT_LAYER = 9;
export const FEATURE_LAYERS = [10, 11] as const;
