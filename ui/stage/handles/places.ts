import { applies } from '@/core/document';
import type { PointParam } from '@/core/param';
import { STEPS } from '@/core/steps';

/** The step's parameters that are places in the picture and have an effect. */
export function placesOf(step: { type: string; params: Readonly<Record<string, unknown>> }): [string, PointParam][] {
  const params = STEPS.get(step.type)?.params ?? {};
  return Object.entries(params).filter(
    (entry): entry is [string, PointParam] =>
      entry[1].kind === 'point' && entry[1].place !== undefined && applies(params, entry[0], step as never),
  );
}
