import type { ParamSchema } from '../param';
import type { StepValue } from '../params/kind';
import { kindOf } from '../params/kinds';
import { gatherParts, schemaOf } from '../params/parts';
import { resolveParam } from './params';
import type { Shot, Step } from './types';

export type { StepValue } from '../params/kind';

/** All parameters of a step at a time in frames, at a proxy scale: admitted, links followed, what they name looked up. */
export function stepValues(shot: Shot, schema: ParamSchema, step: Step, time: number, scale = 1): Record<string, StepValue> {
  const at = { shot, time, scale };
  const full = schemaOf(schema, step.params);
  const values = Object.fromEntries(
    Object.entries(full).map(([name, d]) => {
      const kind = kindOf(d);
      const value = kind.admit(resolveParam(shot, step.params[name], d.default, time), d);
      return [name, kind.resolve ? kind.resolve(value, d, at) : value];
    }),
  );
  if (full !== schema) gatherParts(schema, values);
  return values;
}

/** Whether a parameter has any effect, going by the others' values; `values` are a step's as it keeps them. */
export function applies(schema: ParamSchema, name: string, step: Pick<Step, 'params'>): boolean {
  return Object.entries(schema[name]?.when ?? {}).every(([other, allowed]) => {
    const value = step.params[other] ?? schema[other]!.default;
    return (allowed as readonly unknown[]).includes(value);
  });
}
