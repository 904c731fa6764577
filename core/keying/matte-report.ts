import type { Kernels } from '@/kernels';
import { deltaE2000, labOf } from '../colour/delta-e';
import type { Pieces } from '../filters/components';
import { atEdge, piecesOf, runsOf } from '../filters/components';
import { pushPull } from '../filters/push-pull';

/** Interleaved premultiplied scene-linear RGBA. */
export interface KeyedPicture {
  pixels: Float32Array;
  width: number;
  height: number;
}

/** What a matte should not have, at one frame. */
export interface MatteFigures {
  /** Pixels that are not solid and lie wholly inside what is. */
  holes: number;
  /** Pixels of coverage apart from the subject. */
  specks: number;
  /** Mean change of partial coverage from the frame before that no shift of it explains, 0..1; null for a first frame. */
  chatter: number | null;
  /** Mean ΔE2000 at the edge between the colour and the same without the screen's. */
  spill: number;
  /** Mean ΔE2000 at the edge between the colour and that of the solid pixels beside it. */
  fringe: number;
}
export const MATTE_FIGURES = ['holes', 'specks', 'chatter', 'spill', 'fringe'] as const satisfies readonly (keyof MatteFigures)[];

const EMPTY = 0.02;
const SOLID = 0.98;
/** A piece of less than this share of the largest is a speck. */
const SPECK = 0.05;
/** Coverage whose colour is judged: thinner has too little of it. */
const JUDGED = { least: 0.15, most: 0.95 };
/** The edge's solid neighbours: levels of the pyramid that carries their colour out. */
const LEVELS = 4;

const alphaOf = ({ pixels }: KeyedPicture): Float32Array => Float32Array.from({ length: pixels.length / 4 }, (_, i) => pixels[4 * i + 3]!);

const piecesWhere = (a: Float32Array, w: number, h: number, where: (v: number) => boolean): Pieces =>
  piecesOf(
    runsOf(
      Uint8Array.from(a, (v) => +where(v)),
      w,
      h,
    ),
    w,
  );

function holesIn(a: Float32Array, w: number, h: number): number {
  const pieces = piecesWhere(a, w, h, (v) => v < SOLID);
  // What reaches emptiness that goes on to the frame's edge, or the edge itself, is outside or an edge: not a hole.
  const open = atEdge(pieces, w, h);
  return pieces.sizes.reduce((sum, size, k) => sum + (open[k] ? 0 : size), 0);
}

function specksIn(a: Float32Array, w: number, h: number): number {
  const { sizes, largest } = piecesWhere(a, w, h, (v) => v > EMPTY);
  const most = sizes[largest]!;
  return sizes.reduce((sum, size) => sum + (size < SPECK * most ? size : 0), 0);
}

const BLOCK = 16;
const SHIFT = 4;

/** How far two mattes differ where they are partial, block by block, after the shift that explains most of it. */
function chatterOf(a: Float32Array, before: Float32Array, w: number, h: number): number {
  let [sum, count] = [0, 0];
  for (let y0 = 0; y0 < h; y0 += BLOCK) {
    for (let x0 = 0; x0 < w; x0 += BLOCK) {
      const at: number[] = [];
      for (let y = y0; y < Math.min(h, y0 + BLOCK); y++) {
        for (let x = x0; x < Math.min(w, x0 + BLOCK); x++) if (a[y * w + x]! > EMPTY && a[y * w + x]! < SOLID) at.push(y * w + x);
      }
      if (at.length === 0) continue;
      let least = Infinity;
      for (let v = -SHIFT; v <= SHIFT && least > 0; v++) {
        for (let u = -SHIFT; u <= SHIFT; u++) {
          let d = 0;
          for (const i of at) {
            const [x, y] = [(i % w) + u, Math.floor(i / w) + v];
            d += Math.abs(a[i]! - before[Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))]!);
            if (d >= least) break;
          }
          least = Math.min(least, d);
        }
      }
      sum += least;
      count += at.length;
    }
  }
  return count ? sum / count : 0;
}

/** Spill and fringe at the edge. `primary` is the screen's channel, 0..2. */
function edgeColour(
  kernels: Kernels,
  { pixels, width: w, height: h }: KeyedPicture,
  a: Float32Array,
  primary: number,
): { spill: number; fringe: number } {
  const weight = kernels.copy(a.map((v) => +(v >= SOLID)));
  const inside = [0, 1, 2].map((c) => kernels.copy(weight.map((k, i) => k * pixels[4 * i + c]!)));
  pushPull(kernels, inside, weight, w, h, LEVELS);
  const [q, r] = [0, 1, 2].filter((c) => c !== primary) as [number, number];
  let [spill, fringe, edge, beside] = [0, 0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    const cover = a[i]!;
    if (cover < JUDGED.least || cover > JUDGED.most) continue;
    const own = [0, 1, 2].map((c) => pixels[4 * i + c]! / cover) as [number, number, number];
    const clean = [...own] as [number, number, number];
    clean[primary] = Math.min(own[primary]!, (own[q]! + own[r]!) / 2);
    const lab = labOf(...own);
    spill += deltaE2000(lab, labOf(...clean));
    edge++;
    if (weight[i]! < 0.2) continue;
    fringe += deltaE2000(lab, labOf(inside[0]![i]! / weight[i]!, inside[1]![i]! / weight[i]!, inside[2]![i]! / weight[i]!));
    beside++;
  }
  [weight, ...inside].forEach((plane) => kernels.give(plane));
  return { spill: edge ? spill / edge : 0, fringe: beside ? fringe / beside : 0 };
}

/** Figures of a keyed picture; `before` is the frame before it at the same size, where there is one. */
export function matteFigures(
  kernels: Kernels,
  p: KeyedPicture,
  before: KeyedPicture | null,
  screenColour: readonly number[],
): MatteFigures {
  const { width: w, height: h } = p;
  const a = alphaOf(p);
  const primary = screenColour.indexOf(Math.max(...screenColour));
  return {
    holes: holesIn(a, w, h),
    specks: specksIn(a, w, h),
    chatter: before ? chatterOf(a, alphaOf(before), w, h) : null,
    ...kernels.guard(() => edgeColour(kernels, p, a, primary)),
  };
}
