import { checkCurves, curveValue } from '../curves/curves';
import type { Value } from '../document/types';
import { messageOf } from '../errors';
import { grainOf } from '../grain/model';
import { samplesOf } from '../keying/samples';
import type { ParamDefinition, ParamOf, ParamSchema } from '../param';
import { WIDEST } from '../param';
import { picksOf } from '../passes/picks';
import { kindOf as kindOfReading } from '../readings/kinds';
import type { Reading } from '../readings/types';
import { poseShapes } from '../shape/pose';
import type { Shape } from '../shape/shapes';
import { shapesOf } from '../shape/shapes';
import { poseStrokes } from '../paint/pose';
import type { Stroke } from '../paint/strokes';
import { strokesOf } from '../paint/strokes';
import { checkParts, schemaOf } from './parts';
import type { ParamKind, Reference, StepValue, ValuePlace } from './kind';

type Numeric = ParamOf<'number'> | ParamOf<'integer'>;
type Lists = ParamOf<'colour'> | ParamOf<'triple'> | ParamOf<'point'> | ParamOf<'box'>;

/** The least and the greatest that each number of a value may be. */
export function limitsOf(d: ParamDefinition): readonly [number, number] {
  const { min = -WIDEST, max = WIDEST } = d as { min?: number; max?: number };
  return [min, max];
}

const range = (d: ParamDefinition): string => {
  const [min, max] = limitsOf(d);
  const unit = 'unit' in d && d.unit ? `${d.unit} ` : '';
  return max === WIDEST && min === -WIDEST ? unit.trim() : `${unit}[${min}, ${max}]`;
};

/** Pixels shrink with the proxy, everything else stays. */
const scaled = (value: Value, d: ParamDefinition, scale: number): Value => {
  if (scale === 1 || !('pixels' in d) || !d.pixels) return value;
  return typeof value === 'number' ? value * scale : (value as readonly number[]).map((v) => v * scale);
};

const isNumber = (v: unknown): v is number => typeof v === 'number' && Number.isFinite(v);

const numeric = (whole: boolean): ParamKind<Numeric> => ({
  admit: (v, d) => {
    if (!isNumber(v)) return d.default;
    const cut = Math.min(Math.max(v, d.min), d.max);
    return whole ? Math.round(cut) : cut;
  },
  resolve: (v, d, { scale }) => scaled(v, d, scale),
  tell: range,
});

const list: ParamKind<Lists> = {
  admit: (value, d) => {
    if (!Array.isArray(value) || value.length !== d.default.length || !value.every(isNumber)) return d.default;
    const [min, max] = limitsOf(d);
    // The same list where nothing is cut: what shows it is not drawn for nothing.
    return value.every((v) => v >= min && v <= max) ? value : value.map((v: number) => Math.min(Math.max(v, min), max));
  },
  resolve: (v, d, { scale }) => scaled(v, d, scale),
  tell: range,
};

/** Texts, and ids of what a shot has. */
const text = (
  names?: Reference['kind'],
): ParamKind<
  | ParamOf<'layer'>
  | ParamOf<'table'>
  | ParamOf<'model'>
  | ParamOf<'name'>
  | ParamOf<'camera'>
  | ParamOf<'lesson'>
  | ParamOf<'reading'>
  | ParamOf<'lens'>
  | ParamOf<'formula'>
> => ({
  admit: (v, d) => (typeof v === 'string' ? v : d.default),
  ...(names && {
    references: (v: Value) => (typeof v === 'string' && v !== '' ? [{ kind: names, id: v }] : []),
    remap: (v: Value, to: (id: string) => string) => (typeof v === 'string' && v !== '' ? to(v) : v),
  }),
  tell: () => '',
});

/** A reading of one of these kinds; steps get what it measured. */
const measured = (...kinds: readonly Reading['kind'][]) => ({
  ...text('reading'),
  resolve: ((v, _, { shot, scale }) => {
    const reading = shot.readings.find((r) => r.id === v);
    return reading && kinds.includes(reading.kind) ? (kindOfReading(reading).data(reading, shot, scale) as StepValue) : null;
  }) satisfies ParamKind['resolve'],
});

const checked = new WeakMap<object, unknown>();

/** A list that is resolved frame after frame is looked through once: on a worker it is not frozen, and a check of each stroke for each plan would cost more than the plan. */
function checkedOnce<T>(value: Value, check: (v: unknown) => T): T {
  const known = checked.get(value as object);
  if (known !== undefined) return known as T;
  const made = check(value);
  checked.set(value as object, made);
  return made;
}

/** A list of objects, plain JSON in the document, checked by what reads it. */
const structured = <
  D extends
    | ParamOf<'parts'>
    | ParamOf<'picks'>
    | ParamOf<'samples'>
    | ParamOf<'strokes'>
    | ParamOf<'curves'>
    | ParamOf<'shapes'>
    | ParamOf<'grain'>,
>(
  check: (v: unknown) => unknown,
  resolve?: (v: Value, d: D, at: ValuePlace) => StepValue,
): ParamKind<D> => ({
  problem: (v) => {
    try {
      check(v);
      return null;
    } catch (e) {
      return messageOf(e);
    }
  },
  // A document with a damaged list is refused; what comes from elsewhere is told by the step that reads it.
  admit: (v, d) => (Array.isArray(v) ? v : d.default),
  ...(resolve && { resolve }),
  tell: () => '',
});

const listed = (v: Value): readonly Shape[] => (Array.isArray(v) ? (v as unknown as readonly Shape[]) : []);

const strokesIn = (v: Value): readonly Stroke[] => (Array.isArray(v) ? (v as unknown as readonly Stroke[]) : []);

/** Every kind of parameters: adding one is an entry here, a field to edit it by, and its definition in core/param.ts. */
export const KINDS: { readonly [K in ParamDefinition['kind']]: ParamKind<ParamOf<K>> } = {
  number: numeric(false),
  integer: numeric(true),
  toggle: {
    admit: (v, d: ParamOf<'toggle'>) => (typeof v === 'boolean' ? v : d.default),
    tell: () => '',
  },
  choice: {
    admit: (v, d: ParamOf<'choice'>) => (d.options.some((o) => o.value === v) ? v : d.default),
    tell: (d) => `one of ${d.options.map((o) => o.value).join(', ')}`,
  },
  colour: list,
  triple: list,
  point: list,
  box: list,
  layer: text(),
  picks: structured<ParamOf<'picks'>>(picksOf, (v) => checkedOnce(v, picksOf) as unknown as Value),
  parts: structured<ParamOf<'parts'>>(checkParts, (v) => checkedOnce(v, checkParts) as unknown as Value),
  table: text('source'),
  model: text('source'),
  name: text(),
  camera: measured('camera'),
  lesson: measured('lesson'),
  reading: measured('point', 'plane'),
  lens: measured('lens'),
  samples: structured<ParamOf<'samples'>>(samplesOf, (v) => checkedOnce(v, samplesOf)),
  strokes: {
    ...structured<ParamOf<'strokes'>>(strokesOf, (v, _, { shot, time }) => poseStrokes(v, shot, Math.round(time))),
    references: (v) => [...new Set(strokesIn(v).flatMap((s) => s.follows ?? []))].map((id) => ({ kind: 'reading', id })),
    remap: (v, to) => strokesIn(v).map((s) => (s.follows ? { ...s, follows: s.follows.map(to).filter((id) => id !== '') } : s)),
  },
  grain: structured<ParamOf<'grain'>>(grainOf, (v) => checkedOnce(v, grainOf) as unknown as Value),
  formula: text(),
  curves: structured<ParamOf<'curves'>>(checkCurves, (v) => curveValue(v)),
  shapes: {
    ...structured<ParamOf<'shapes'>>(shapesOf, (v, _, { shot, time, scale }) => poseShapes(checkedOnce(v, shapesOf), shot, time, scale)),
    references: (v) => [...new Set(listed(v).flatMap((s) => s.follows))].map((id) => ({ kind: 'reading', id })),
    remap: (v, to) => {
      const known = (ids: readonly string[]): string[] => ids.map(to).filter((id) => id !== '');
      return listed(v).map((s) => ({
        ...s,
        follows: known(s.follows),
        ...(s.live && { live: { ...s.live, follows: known(s.live.follows) } }),
      }));
    },
  },
};

/** The kind of a definition, whichever that is. */
export const kindOf = (d: ParamDefinition): ParamKind => KINDS[d.kind] as ParamKind;

/** What a step's parameters name, by parameter. Links and keys name nothing of the shot's. */
export function referencesOf(schema: ParamSchema = {}, params: Readonly<Record<string, unknown>>): { name: string; to: Reference }[] {
  return Object.entries(schemaOf(schema, params as never)).flatMap(([name, d]) =>
    params[name] === undefined ? [] : (kindOf(d).references?.(params[name] as Value) ?? []).map((to) => ({ name, to })),
  );
}
