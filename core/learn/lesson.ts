/** What a lesson teaches: coverage, a change where a picture differs, or the colour and light of one picture for others. */
export const TEACHES = ['matte', 'change', 'carry'] as const;
export type Teaches = (typeof TEACHES)[number];

/** How much the examples are varied, each 0 (never) to 1; crops are drawn anew at every step. */
export interface Variation {
  /** Mirrored left to right. */
  readonly mirror: number;
  /** Turned, by up to 20° at 1. */
  readonly turn: number;
  /** Larger and smaller, by up to twice at 1. */
  readonly size: number;
  /** Brighter and darker, by up to three stops at 1. */
  readonly exposure: number;
  /** Contrast of the code values. */
  readonly contrast: number;
  /** Casts of colour. */
  readonly tint: number;
  readonly noise: number;
  readonly blur: number;
  /** Blurred along a line, as by a moving camera. */
  readonly motion: number;
  /** Given the light of other frames of the range. */
  readonly light: number;
  /** Things laid over picture and target alike, so that what passes in front is left alone. */
  readonly occluders: number;
}
export const VARIATIONS = [
  'mirror',
  'turn',
  'size',
  'exposure',
  'contrast',
  'tint',
  'noise',
  'blur',
  'motion',
  'light',
  'occluders',
] as const satisfies readonly (keyof Variation)[];

/** A shot is the same place on all of its frames: little is turned, made larger or mirrored, light may change much. */
const COMMON = { mirror: 0, turn: 0.1, size: 0.15, exposure: 0.4, contrast: 0.3, tint: 0.3, noise: 0.3, blur: 0.2, motion: 0.25 };
/** What a new lesson starts with. Of a change, what passes before it is left alone. */
export const variationFor = (teaches: Teaches): Variation =>
  teaches === 'matte'
    ? { ...COMMON, light: 0, occluders: 0 }
    : { ...COMMON, turn: 0.05, size: 0.05, exposure: 0.2, blur: 0.1, motion: 0.15, light: 0.5, occluders: 0.4 };

/** Results of the net: of a matte its logit; else three differences of code values and the logit of where to act. */
export const setsOf = (teaches: Teaches): 1 | 4 => (teaches === 'matte' ? 1 : 4);

/** By how much of the table's guess each result starts. */
export const guessOf = (teaches: Teaches): readonly number[] => (teaches === 'matte' ? [3] : [0, 0, 0, 3]);

/** Differences of code values are this times what the net gives, so that they are learnt as quickly as a matte. */
export const DIFFERENCE = 0.25;

/** Code values in which the net works, √(x + BEND) − √BEND, mirrored below 0. */
export const BEND = 0.01;
const ROOT = Math.sqrt(BEND);
/** Code values are held at this before they are whitened: lamps are not what is learnt. */
export const MOST_CODE = 2.5;
export const codeOf = (light: number): number => Math.sign(light) * (Math.sqrt(Math.abs(light) + BEND) - ROOT);
export const lightOf = (code: number): number => Math.sign(code) * ((Math.abs(code) + ROOT) ** 2 - BEND);

/** A frame as a lesson takes it: scene-linear R, G, B one after the other, at full size. */
export interface Shown {
  readonly width: number;
  readonly height: number;
  readonly input: Float32Array;
}

/** A frame with what is right on it: coverage, or R, G, B one after the other. */
export interface Example extends Shown {
  readonly frame: number;
  readonly target: Float32Array;
  /** Not learnt from: how well the lesson does is measured on it. */
  readonly held: boolean;
}

const changed = new WeakMap<Float32Array, Float32Array>();

/** Of a change: where the target differs, with a margin of 3 pixels, 0 to 1. Worked out once a target. */
export function changedOf(e: Example): Float32Array {
  let known = changed.get(e.target);
  if (!known) changed.set(e.target, (known = changeIn(e)));
  return known;
}

function changeIn({ width: w, height: h, input, target }: Example): Float32Array {
  const n = w * h;
  const rough = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    let most = 0;
    for (let c = 0; c < 3; c++) most = Math.max(most, Math.abs(codeOf(input[c * n + i]!) - codeOf(target[c * n + i]!)));
    rough[i] = Math.min(1, Math.max(0, most / 0.02 - 0.25));
  }
  const grown = new Float32Array(n);
  const rows = new Float32Array(n);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let most = 0;
      for (let k = Math.max(0, x - 3); k <= Math.min(w - 1, x + 3); k++) most = Math.max(most, rough[y * w + k]!);
      rows[y * w + x] = most;
    }
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let most = 0;
      for (let k = Math.max(0, y - 3); k <= Math.min(h - 1, y + 3); k++) most = Math.max(most, rows[k * w + x]!);
      grown[y * w + x] = most;
    }
  return grown;
}
