import type { ParamDefinition, ParamSchema } from '../param';
import { scaleValue } from '../param';
import type { ReadingData } from '../readings/use';
import { dataOf } from '../readings/use';
import { strokesAt } from '../shape/strokes';
import { admit, resolveParam } from './params';
import type { Shot, Step, Value } from './types';

/** What a parameter comes to in a step: its value, or the data of the reading that it names, null where there is none. */
export type StepValue = Value | ReadingData | null;

function valueOf(shot: Shot, d: ParamDefinition, value: Value, time: number, scale: number): StepValue {
  if (d.kind === 'strokes') return strokesAt(value as string, Math.round(time));
  if (d.kind === 'reading') {
    const reading = shot.readings.find((r) => r.id === value);
    return reading ? dataOf(reading, scale) : null;
  }
  return scaleValue(d, value, scale) as Value;
}

/** All parameters of a step at a time in frames, at a proxy scale: admitted, links followed, readings looked up. */
export function stepValues(shot: Shot, schema: ParamSchema, step: Step, time: number, scale = 1): Record<string, StepValue> {
  return Object.fromEntries(
    Object.entries(schema).map(([name, d]) => [
      name,
      valueOf(shot, d, admit(d, resolveParam(shot, step.params[name], d.default, time)), time, scale),
    ]),
  );
}

/** Whether a parameter has any effect, going by the others' values; `values` are a step's as it keeps them. */
export function applies(schema: ParamSchema, name: string, step: Pick<Step, 'params'>): boolean {
  return Object.entries(schema[name]?.when ?? {}).every(([other, allowed]) => {
    const value = step.params[other] ?? schema[other]!.default;
    return (allowed as readonly unknown[]).includes(value);
  });
}
