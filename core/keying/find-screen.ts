import { piecesOf, runsOf } from '../filters/components';

/** Interleaved scene-linear RGBA pixels, as a viewer has them. */
export interface ScreenSample {
  pixels: Float32Array;
  width: number;
  height: number;
}

export interface FoundScreen {
  /** Scene-linear R, G, B: the median of the screen's pixels. */
  colour: [number, number, number];
  /** Share of the pictures that it takes up, 0..1. */
  share: number;
}

/** How far the strongest channel must stand above the next, as a share of itself, for a pixel to be saturated. */
const SATURATED = 0.42;
/** Scene-linear light under which a strong colour is night, not a lit screen. */
const DARKEST = 0.06;
const BINS = 32;
/** Chromaticity bins around the fullest one that still count as the same colour. */
const REACH = 4;
const LEAST_SHARE = 0.03;

/** Chromaticity as a pair of bins, or −1 for a pixel that is dark, grey or not finite. */
function binOf(r: number, g: number, b: number): number {
  const most = Math.max(r, g, b);
  const least = Math.min(r, g, b);
  const next = r + g + b - most - least;
  if (!(most > DARKEST) || most - next < SATURATED * most) return -1;
  const sum = Math.max(0, r) + Math.max(0, g) + Math.max(0, b);
  const u = Math.min(BINS - 1, Math.floor((BINS * Math.max(0, r)) / sum));
  const v = Math.min(BINS - 1, Math.floor((BINS * Math.max(0, g)) / sum));
  return v * BINS + u;
}

const near = (bin: number, mode: number): boolean =>
  bin >= 0 && Math.abs((bin % BINS) - (mode % BINS)) <= REACH && Math.abs(Math.floor(bin / BINS) - Math.floor(mode / BINS)) <= REACH;

/**
 * The colour of a screen: the chromaticity that most saturated pixels of all samples share, and of each sample the largest
 * connected region of it. Null where no more than 3 % of the pixels belong to one.
 */
export function findScreen(samples: readonly ScreenSample[]): FoundScreen | null {
  const histogram = new Float64Array(BINS * BINS);
  const bins = samples.map(({ pixels }) => {
    const list = new Int32Array(pixels.length / 4);
    for (let i = 0; i < list.length; i++) {
      const bin = (list[i] = binOf(pixels[4 * i]!, pixels[4 * i + 1]!, pixels[4 * i + 2]!));
      if (bin >= 0) histogram[bin]!++;
    }
    return list;
  });
  let [mode, most] = [-1, 0];
  for (let v = 1; v < BINS - 1; v++) {
    for (let u = 1; u < BINS - 1; u++) {
      let sum = 0;
      for (let dv = -1; dv <= 1; dv++) for (let du = -1; du <= 1; du++) sum += histogram[(v + dv) * BINS + u + du]!;
      if (sum > most) [mode, most] = [v * BINS + u, sum];
    }
  }
  if (mode < 0) return null;
  const values: [number[], number[], number[]] = [[], [], []];
  let total = 0;
  samples.forEach(({ pixels, width, height }, k) => {
    total += width * height;
    const runs = runsOf(
      Uint8Array.from(bins[k]!, (b) => +near(b, mode)),
      width,
      height,
    );
    const { begins, ends, piece, largest } = piecesOf(runs, width);
    piece.forEach((of, run) => {
      if (of !== largest) return;
      for (let i = begins[run]!; i < ends[run]!; i++) values.forEach((list, c) => list.push(pixels[4 * i + c]!));
    });
  });
  const share = values[0].length / Math.max(1, total);
  if (share < LEAST_SHARE) return null;
  const median = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1]!;
  return { colour: values.map(median) as [number, number, number], share };
}
