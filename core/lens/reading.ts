import type { Flag } from '../readings/point';
import { hashText } from '../hash';
import type { Lens } from './lens';
import { lensBetween } from './lens';
import type { LensModel } from './models';

export const CHART_PATTERNS = ['checker', 'grid'] as const;
export type ChartPattern = (typeof CHART_PATTERNS)[number];

/** A crossing of a chart, px of the picture at full size; columns and rows are counted from any crossing, the same for a whole chart. */
export interface Crossing {
  readonly column: number;
  readonly row: number;
  readonly x: number;
  readonly y: number;
  readonly used: boolean;
  /** Put there, or thrown out, by hand: measuring again keeps it. */
  readonly hand?: boolean;
  /** Why it is not used. */
  readonly why?: string;
  /** From where the solved lens has it to where it was found, px. */
  readonly off?: readonly [number, number];
}

/** A chart on a frame. */
export interface ChartFrame {
  readonly frame: number;
  readonly pattern: ChartPattern;
  readonly crossings: readonly Crossing[];
  /** Share of the crossings that are used, and the root mean square of their residuals, px. */
  readonly confidence: number;
  readonly error: number;
  readonly flag?: Flag;
  readonly pinned?: boolean;
  /** What the lens was set to, mm: charts of several make a zoom lens. */
  readonly mm?: number;
}

/** Something straight: the line as it was drawn on a frame, two numbers a place, and as its edge was found. */
export interface StraightLine {
  readonly frame: number;
  readonly drawn: readonly number[];
  readonly found: readonly number[];
  /** It only shows how straight the picture is, and the lens is not solved from it. */
  readonly ruler?: boolean;
  /** How far it bends away from its chord, px: as filmed, and straightened. */
  readonly bend?: number;
  readonly left?: number;
  /** It does not go with the other lines, and the lens is solved without it. */
  readonly out?: boolean;
}

export interface LensSettings {
  readonly pattern: 'auto' | ChartPattern;
  readonly model: 'auto' | LensModel;
  /** Of the lens and the sensor's width, mm; 0 is not known: the focal length is then solved. */
  readonly mm: number;
  readonly sensor: number;
  readonly squeeze: number;
}

export const LENS_SETTINGS: LensSettings = { pattern: 'auto', model: 'auto', mm: 0, sensor: 0, squeeze: 1 };

/** A lens as solved, and how well it explains what it was solved from, px. */
export interface SolvedLens {
  readonly lens: Lens;
  readonly mm?: number;
  readonly rms: number;
  readonly max: number;
  /** Residuals by radius in ten rings of the frame, px; null where there was nothing. */
  readonly rings: readonly (number | null)[];
  /** Its focal length could not be told from flat views and was assumed. */
  readonly assumed?: boolean;
}

/** What a step gets of a lens reading. */
export class LensData {
  private readonly key: string;
  constructor(private readonly solved: readonly SolvedLens[]) {
    this.key = hashText(JSON.stringify(solved.map((s) => [s.mm, s.lens])));
  }

  toJSON(): string {
    return this.key;
  }

  /** The lens at a focal length in mm: between the two solved ones beside it. */
  lens(mm: number): Lens {
    const list = [...this.solved].sort((a, b) => (a.mm ?? 0) - (b.mm ?? 0));
    const after = list.findIndex((s) => (s.mm ?? 0) >= mm);
    const known = `${after} ${mm}`;
    const had = this.mixed.get(known);
    if (had) return had;
    const b = list[after < 0 ? list.length - 1 : after]!;
    const a = after > 0 ? list[after - 1]! : b;
    const made = a === b ? b.lens : lensBetween(a.lens, b.lens, (mm - (a.mm ?? 0)) / ((b.mm ?? 0) - (a.mm ?? 0)));
    this.mixed.set(known, made);
    return made;
  }
  private readonly mixed = new Map<string, Lens>();
}

const kept = new WeakMap<readonly SolvedLens[], LensData>();
/** The data of a lens reading; null where nothing is solved yet. */
export function lensDataOf(reading: { readonly solved: readonly SolvedLens[] }): LensData | null {
  if (reading.solved.length === 0) return null;
  let data = kept.get(reading.solved);
  if (!data) kept.set(reading.solved, (data = new LensData(reading.solved)));
  return data;
}
