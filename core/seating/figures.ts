import type { Kernels } from '@/kernels';
import { ShotError } from '../errors';
import { measureGrain } from '../grain/measure';
import type { ChannelGrain } from '../grain/model';
import { sigmaAt, sizeOf } from '../grain/model';
import type { Look } from './look';
import { lumaOf, lumaOfRgb } from './look';
import type { Edge } from './softness';
import { edgeSoftness } from './softness';

/** A figure, and the standard deviation of its error. */
export interface Figure {
  readonly value: number;
  readonly sure: number;
}
export type Triple = readonly [Figure, Figure, Figure];

/** What is measured of an element or of the plate around it. Light is scene-linear. */
export interface Figures {
  /** The mean of the darkest and of the brightest of it, by channel. */
  readonly black: Triple;
  readonly white: Triple;
  /** Stops from the tenth to the ninetieth part of its tones. */
  readonly contrast: Figure;
  /** Mean colourfulness beside mean light. */
  readonly saturation: Figure;
  /** σ of the blur of its sharpest edges, px; null where it has none. */
  readonly softness: Figure | null;
  /** σ of its grain at its middle tone, by channel, and its size in px; null where nothing of it is flat. */
  readonly grain: { readonly sigma: Triple; readonly size: Figure; readonly model: readonly ChannelGrain[] } | null;
  readonly pixels: number;
}

/** Pixels that a place needs at least. */
export const FEWEST = 400;
/** Pixels a side of what belongs together when the error is estimated, and groups that are left out in turn. */
const BLOCK = 24;
const GROUPS = 6;
/** Pixels to each side over which levels are averaged, so that grain and the softness of a lens hardly change them. */
const CALM = 2;
/** Parts of the tones, from the end, that a level is the mean of. */
const END = { from: 0.004, to: 0.03 };

/** Values whose error is told by leaving out one group of blocks after the other (the jackknife of Quenouille and Tukey). */
function jackknife(of: (group: number) => readonly number[]): Figure[] {
  const whole = of(-1);
  const parts = Array.from({ length: GROUPS }, (_, g) => of(g)).filter((p) => p.every(Number.isFinite));
  return whole.map((value, k) => {
    if (parts.length < 2) return { value, sure: Math.abs(value) };
    const mean = parts.reduce((s, p) => s + p[k]!, 0) / parts.length;
    const variance = parts.reduce((s, p) => s + (p[k]! - mean) ** 2, 0) * ((parts.length - 1) / parts.length);
    return { value, sure: Math.sqrt(variance) };
  });
}

/** The group of a pixel's block. */
const groupAt = (x: number, y: number): number => {
  const [i, j] = [Math.floor(x / BLOCK), Math.floor(y / BLOCK)];
  return (((i * 2 + j * 3) % GROUPS) + GROUPS) % GROUPS;
};

interface Sample {
  luma: number;
  rgb: readonly [number, number, number];
  group: number;
}

/** Means of small squares that lie wholly inside, two pixels apart. */
function samplesOf({ planes, inside, w, h }: Look): Sample[] {
  const out: Sample[] = [];
  const side = 2 * CALM + 1;
  for (let y = CALM; y < h - CALM; y += 2) {
    next: for (let x = CALM; x < w - CALM; x += 2) {
      if (!inside[y * w + x]) continue;
      const sum: [number, number, number] = [0, 0, 0];
      for (let v = y - CALM; v <= y + CALM; v++) {
        for (let u = x - CALM; u <= x + CALM; u++) {
          const i = v * w + u;
          if (!inside[i]) continue next;
          for (let c = 0; c < 3; c++) sum[c]! += planes[c]![i]!;
        }
      }
      const rgb = sum.map((s) => s / (side * side)) as unknown as Sample['rgb'];
      out.push({ rgb, luma: lumaOfRgb(rgb), group: groupAt(x, y) });
    }
  }
  return out;
}

/** Below this light counts as this, where stops are taken. */
const DARK = 1e-3;

/** Black and white by channel, contrast, saturation: eight numbers. */
function tonesOf(samples: readonly Sample[]): number[] {
  const n = samples.length;
  // By channel: an order by luma would be another where the channels' gains are others.
  const channels = [0, 1, 2].map((c) => Float64Array.from(samples, (p) => p.rgb[c]!).sort());
  const level = (from: number, to: number): number[] =>
    channels.map((list) => {
      const part = list.subarray(Math.floor(from * n), Math.max(Math.floor(from * n) + 1, Math.ceil(to * n)));
      return part.reduce((s, v) => s + v, 0) / part.length;
    });
  const stop = (part: number): number => Math.log2(Math.max(DARK, samples[Math.min(n - 1, Math.floor(part * n))]!.luma));
  let [chroma, light] = [0, 0];
  for (const { rgb, luma } of samples) {
    chroma += Math.sqrt(rgb.reduce((s, v) => s + (v - luma) ** 2, 0) / 3);
    light += Math.max(0, luma);
  }
  return [...level(END.from, END.to), ...level(1 - END.to, 1 - END.from), stop(0.9) - stop(0.1), light > 0 ? chroma / light : 0];
}

/** What is measured of one frame. Throws ShotError where too little of it counts; `what` names it. */
export function figuresOf(kernels: Kernels, look: Look, what: string): Figures {
  const pixels = look.inside.reduce((s, v) => s + v, 0);
  const samples = samplesOf(look).sort((a, b) => a.luma - b.luma);
  if (pixels < FEWEST || samples.length < FEWEST / 16) {
    throw new ShotError(
      `${what} has ${pixels} px to be measured, and at least ${FEWEST} in one piece are needed: take a frame where there is more of it, or a larger place`,
    );
  }
  const tones = jackknife((g) => tonesOf(g < 0 ? samples : samples.filter((s) => s.group !== g)));
  const middle = samples[samples.length >> 1]!.rgb;
  const edges = edgeSoftness(kernels, lumaOf(look), look.inside, look.w, look.h);
  const softness =
    edges.length >= GROUPS * 4 ? jackknife((g) => [sharpest(g < 0 ? edges : edges.filter((e) => groupAt(e.x, e.y) !== g))])[0]! : null;
  return {
    black: tones.slice(0, 3) as unknown as Triple,
    white: tones.slice(3, 6) as unknown as Triple,
    contrast: tones[6]!,
    saturation: tones[7]!,
    softness,
    grain: grainOf(look, middle),
    pixels,
  };
}

/** Of edges, by their weight, the softness that this part of them keeps to: other edges are soft by themselves. */
const SHARP = 0.6;
function sharpest(edges: readonly Edge[]): number {
  const sorted = [...edges].sort((a, b) => a.sigma - b.sigma);
  let left = SHARP * sorted.reduce((s, e) => s + e.weight, 0);
  for (const e of sorted) if ((left -= e.weight) <= 0) return e.sigma;
  return sorted[sorted.length - 1]?.sigma ?? NaN;
}

function grainOf({ planes, inside, w, h }: Look, middle: readonly number[]): Figures['grain'] {
  let model: ChannelGrain[];
  try {
    model = measureGrain([{ planes, w, h, inside }]);
  } catch (e) {
    if (e instanceof ShotError) return null;
    throw e;
  }
  // A variance over N free numbers is known to √(2/N) of itself: flat squares are few, so that a twentieth is taken.
  const about = (value: number): Figure => ({ value, sure: 0.05 * value });
  const sigma = model.map((g, c) => about(sigmaAt(g, Math.max(0, middle[c]!)))) as unknown as Triple;
  const size = model.reduce((s, g) => s + sizeOf(g), 0) / 3;
  return { sigma, size: about(size), model };
}

/** The figures of several frames as one: their mean, and its error from within the frames and between them. */
export function overFrames(list: readonly Figures[]): Figures {
  const n = list.length;
  const join = (pick: (f: Figures) => Figure | null | undefined): Figure => {
    const all = list.map(pick).filter((f): f is Figure => !!f && Number.isFinite(f.value));
    const m = Math.max(1, all.length);
    const value = all.reduce((s, f) => s + f.value, 0) / m;
    const within = all.reduce((s, f) => s + f.sure ** 2, 0) / m;
    const between = m > 1 ? all.reduce((s, f) => s + (f.value - value) ** 2, 0) / (m - 1) : 0;
    // What frames share, their content, is not made surer by more of them.
    return { value, sure: Math.sqrt(within + between / m) };
  };
  const three = (pick: (f: Figures) => Triple | undefined): Triple => [0, 1, 2].map((c) => join((f) => pick(f)?.[c])) as unknown as Triple;
  const grains = list.filter((f) => f.grain);
  return {
    black: three((f) => f.black),
    white: three((f) => f.white),
    contrast: join((f) => f.contrast),
    saturation: join((f) => f.saturation),
    softness: list.some((f) => f.softness) ? join((f) => f.softness) : null,
    grain: grains.length
      ? { sigma: three((f) => f.grain?.sigma), size: join((f) => f.grain?.size), model: grains[grains.length >> 1]!.grain!.model }
      : null,
    pixels: Math.round(list.reduce((s, f) => s + f.pixels, 0) / Math.max(1, n)),
  };
}
