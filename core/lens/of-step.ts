import { FILTERS } from '../filters/resample';
import type { ResampleFilter } from '../filters/resample';
import { Mapping } from '../geometry/mapping';
import { choice, lens, number, point, toggle } from '../param';
import type { Format } from '../picture';
import { straightening } from './curve';
import type { Lens } from './lens';
import { alongBorder, lensFor } from './lens';
import type { LensModel } from './models';
import { LENS_MODELS, LENS_MODEL_NAMES, modelOf } from './models';
import type { LensData } from './reading';

/** All terms of all models, each shown with those that have it. */
const TERMS = [...new Set(LENS_MODEL_NAMES.flatMap((m) => modelOf(m).terms))];
const term = (name: string) =>
  number(name, 0, [-0.5, 0.5], {
    min: -100,
    max: 100,
    decimals: 5,
    group: 'Coefficients',
    when: { from: ['typed'], model: LENS_MODEL_NAMES.filter((m) => modelOf(m).terms.includes(name)) },
  });

export const lensParams = {
  direction: choice('Direction', 'straighten', [
    { value: 'straighten', title: 'Straighten', help: 'What the lens has bent becomes straight; nothing that leaves the frame is lost.' },
    { value: 'bend', title: 'Bend back', help: 'Straight pixels become as the lens would have filmed them.' },
  ]),
  from: choice('Lens', 'reading', [
    { value: 'reading', title: 'A lens reading' },
    { value: 'typed', title: 'Typed in' },
  ]),
  reading: lens('Reading', { when: { from: ['reading'] }, help: 'Measured from a chart or from straight things.' }),
  mm: number('Focal length', 35, [10, 200], {
    unit: 'mm',
    min: 0,
    max: 5000,
    when: { from: ['reading'] },
    help: 'Of a zoom lens: charts of several focal lengths are mixed. Key it where the plate zooms or breathes.',
  }),
  model: choice(
    'Model',
    'radial2',
    LENS_MODEL_NAMES.map((value) => ({ value, title: LENS_MODELS[value].title, help: LENS_MODELS[value].help })),
    { when: { from: ['typed'] } },
  ),
  focal: number('Focal length', 1, [0.3, 4], {
    unit: 'widths',
    min: 0.01,
    max: 1000,
    decimals: 4,
    when: { from: ['typed'] },
    help: 'In widths of the frame: focal length over the sensor’s width.',
  }),
  centre: point('Centre', [0, 0], { unit: 'px', pixels: true, when: { from: ['typed'] }, help: "From the frame's middle." }),
  squeeze: number('Squeeze', 1, [0.5, 2], {
    min: 0.1,
    max: 10,
    decimals: 3,
    when: { from: ['typed'] },
    help: '2 for the classical anamorphic lens.',
  }),
  ...Object.fromEntries(TERMS.map((t) => [t, term(t)])),
  size: choice('Frame', 'same', [
    { value: 'same', title: 'As filmed', help: 'What leaves the frame is kept beyond its edges.' },
    { value: 'grown', title: 'Grown to hold all' },
    { value: 'fitted', title: 'Shrunk to fit', help: 'The same size; everything fits in.' },
  ]),
  filter: choice('Filter', 'lanczos3', FILTERS),
  keep: toggle('Keep untouched pixels', true, {
    animatable: false,
    when: { direction: ['bend'] },
    help: 'With both feeds connected, pixels that were not changed since straightening go out as filmed, to the bit.',
  }),
};

export interface LensStepValues {
  direction: 'straighten' | 'bend';
  from: 'reading' | 'typed';
  reading: LensData | null;
  mm: number;
  model: LensModel;
  focal: number;
  centre: readonly [number, number];
  squeeze: number;
  size: 'same' | 'grown' | 'fitted';
  filter: ResampleFilter;
  keep: boolean;
}

const typed = new Map<string, Lens>();

/** The lens that a step's values say, for filmed pictures of a format; null where its reading is not solved. */
export function lensInUse(p: LensStepValues, { width, height }: Format): Lens | null {
  if (p.from === 'reading') return p.reading && sized(p.reading.lens(p.mm), width, height);
  const coefficients = Object.fromEntries(modelOf(p.model).terms.map((t) => [t, Number((p as unknown as Record<string, number>)[t] ?? 0)]));
  const centre = [width / 2 + p.centre[0], height / 2 + p.centre[1]] as const;
  const made: Lens = {
    model: p.model,
    coefficients,
    centre,
    focal: p.focal * width * p.squeeze,
    squeeze: p.squeeze,
    format: { width, height },
  };
  // Maps are kept with the lens they are of: one value, one lens.
  return once(JSON.stringify(made), () => made);
}

const sized = (lens: Lens, width: number, height: number): Lens =>
  lens.format.width === width && lens.format.height === height
    ? lens
    : once(JSON.stringify([lens, width, height]), () => lensFor(lens, { width, height }));

function once(key: string, make: () => Lens): Lens {
  let known = typed.get(key);
  if (!known) {
    if (typed.size > 64) typed.clear();
    typed.set(key, (known = make()));
  }
  return known;
}

export interface Straightened {
  /** From filmed positions to those of the straight picture in its frame. */
  readonly mapping: Mapping;
  readonly format: Format;
  /** How many pixels of the straight picture lie beyond each side of the filmed frame: left, top, right, bottom. */
  readonly beyond: readonly [number, number, number, number];
}

/** What straightening a filmed picture of a format comes to. */
export function straightened(lens: Lens, filmed: Format, size: LensStepValues['size']): Straightened {
  const curve = straightening(lens);
  const { width, height } = filmed;
  let [left, top, right, bottom] = [0, 0, width, height];
  const to = new Float64Array(2);
  alongBorder(filmed, (x, y) => {
    curve.forth(x, y, to);
    if (!Number.isFinite(to[0])) return;
    [left, right] = [Math.min(left, to[0]!), Math.max(right, to[0]!)];
    [top, bottom] = [Math.min(top, to[1]!), Math.max(bottom, to[1]!)];
  });
  // A lens that all but folds puts its corners far away: no frame is more than three times as large.
  const cap = (v: number, n: number): number => Math.min(2 * n, Math.max(-n, v));
  [left, right, top, bottom] = [
    Math.floor(cap(left, width)),
    Math.ceil(cap(right, width)),
    Math.floor(cap(top, height)),
    Math.ceil(cap(bottom, height)),
  ];
  const beyond = [-left, -top, right - width, bottom - height] as const;
  const mapping = Mapping.along(curve);
  if (size === 'same') return { mapping, format: filmed, beyond };
  const [w, h] = [right - left, bottom - top];
  if (size === 'grown')
    return { mapping: mapping.then(Mapping.by([1, 0, -left, 0, 1, -top])), format: { ...filmed, width: w, height: h }, beyond };
  const k = Math.min(width / w, height / h);
  const shift = [width / 2 - (k * (left + right)) / 2, height / 2 - (k * (top + bottom)) / 2] as const;
  return { mapping: mapping.then(Mapping.by([k, 0, shift[0], 0, k, shift[1]])), format: filmed, beyond };
}
