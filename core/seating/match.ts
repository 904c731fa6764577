import { LUMA } from '../colour/transfer';
import type { ChannelGrain } from '../grain/model';
import type { Figure, Figures, Triple } from './figures';
import { lumaOfRgb } from './look';

/** What can be matched, in the order in which it is best done. */
export const ROWS = ['softness', 'black', 'white', 'contrast', 'saturation', 'grain'] as const;
export type Row = (typeof ROWS)[number];

/** Parameters of the step that a row sets, as they are now; a step that is not there yet has its defaults. */
export interface Now {
  slope: readonly [number, number, number];
  offset: readonly [number, number, number];
  contrast: number;
  pivot: number;
  saturation: number;
  blur: number;
  grain: number;
}

export type Match =
  | { step: 'grade'; params: Partial<Pick<Now, 'slope' | 'offset' | 'contrast' | 'pivot' | 'saturation'>> }
  | { step: 'blur'; size: number }
  | { step: 'grain'; amount: number; model: readonly ChannelGrain[] };

/** Why a row cannot be matched. */
export interface NoMatch {
  why: string;
}

const values = (t: Triple): number[] => t.map((f) => f.value);

/** Slope and offset with k·v + d after them, channel by channel. */
function after(now: Now, k: readonly number[], d: readonly number[]): { slope: Now['slope']; offset: Now['offset'] } {
  const of = (f: (c: number) => number): Now['slope'] => [0, 1, 2].map((c) => Number(f(c).toPrecision(7))) as unknown as Now['slope'];
  return { slope: of((c) => now.slope[c]! * k[c]!), offset: of((c) => now.offset[c]! * k[c]! + d[c]!) };
}

/** The least that black and white may be apart, beside white. */
const APART = 0.02;

/** What brings a row of the element, measured with its steps as they are now, to the plate's. */
export function matchOf(row: Row, element: Figures, plate: Figures, now: Now): Match | NoMatch {
  switch (row) {
    case 'black':
    case 'white': {
      const [b, w] = [values(element.black), values(element.white)];
      const [bp, wp] = [values(plate.black), values(plate.white)];
      if (w.some((v, c) => v - b[c]! < APART * Math.max(1e-4, v)))
        return { why: 'the element has one tone only: nothing tells its black from its white' };
      // One end moves, the other stays.
      const k = w.map((v, c) => (row === 'black' ? Math.max(0.01, v - bp[c]!) : Math.max(1e-4, wp[c]! - b[c]!)) / (v - b[c]!));
      const d = k.map((s, c) => (row === 'black' ? w[c]! : b[c]!) * (1 - s));
      return { step: 'grade', params: after(now, k, d) };
    }
    case 'contrast': {
      if (!(element.contrast.value > 0.05)) return { why: 'the element has no contrast to be changed' };
      const middle = values(element.white).map((w, c) => Math.sqrt(Math.max(1e-6, w * Math.max(1e-4, element.black[c]!.value))));
      const pivot = lumaOfRgb(middle);
      const contrast = Math.max(0.2, Math.min(5, (now.contrast * plate.contrast.value) / element.contrast.value));
      return { step: 'grade', params: { contrast, pivot: now.contrast === 1 ? Math.max(1e-3, Math.min(10, pivot)) : now.pivot } };
    }
    case 'saturation':
      if (!(element.saturation.value > 1e-3)) return { why: 'the element has no colour to be changed' };
      return {
        step: 'grade',
        params: { saturation: Math.max(0, Math.min(4, (now.saturation * plate.saturation.value) / element.saturation.value)) },
      };
    case 'softness': {
      if (!element.softness || !plate.softness)
        return { why: `${element.softness ? 'the plate' : 'the element'} has no edge clear enough to be measured` };
      const squared = now.blur ** 2 + plate.softness.value ** 2 - element.softness.value ** 2;
      if (squared < 0 && now.blur === 0) return { why: 'the element is softer than the plate: nothing can be taken from it' };
      return { step: 'blur', size: Math.sqrt(Math.max(0, squared)) };
    }
    case 'grain': {
      if (!plate.grain) return { why: 'nothing of the plate is flat enough to measure its grain' };
      const mean = (g: Figures['grain']): number => (g ? values(g.sigma).reduce((s, v) => s + v * v, 0) / 3 : 0);
      const [own, wanted] = [mean(element.grain), mean(plate.grain)];
      const left = now.grain ** 2 + (wanted - own) / Math.max(1e-12, wanted);
      if (left <= 0 && now.grain === 0) return { why: 'the element has more grain than the plate: denoise it first' };
      return { step: 'grain', amount: Math.sqrt(Math.max(0, left)), model: plate.grain.model };
    }
  }
}

/** A row as one pair of numbers to be shown and compared, with the unit that it is told in. */
export function rowOf(row: Row, f: Figures): Figure | null {
  const light = (t: Triple): Figure => ({
    value: lumaOfRgb(values(t)),
    sure: Math.hypot(...t.map((f, c) => LUMA[c]! * f.sure)),
  });
  switch (row) {
    case 'black':
      return light(f.black);
    case 'white':
      return light(f.white);
    case 'grain':
      return f.grain && light(f.grain.sigma);
    default:
      return f[row];
  }
}

/** The difference of a row, element less plate, its error, and whether it is more than that: by the channel that differs most where there are three. */
export function differenceOf(row: Row, element: Figures, plate: Figures): { value: number; sure: number; matters: boolean } | null {
  const triples = row === 'black' || row === 'white' ? ([element[row], plate[row]] as const) : null;
  const [e, p] = [rowOf(row, element), rowOf(row, plate)];
  if (!e || !p) return null;
  const beyond = (a: Figure, b: Figure): boolean => Math.abs(a.value - b.value) > Math.max(1e-6, Math.hypot(a.sure, b.sure));
  const matters = triples ? triples[0].some((f, c) => beyond(f, triples[1][c]!)) : beyond(e, p);
  return { value: e.value - p.value, sure: Math.hypot(e.sure, p.sure), matters };
}
