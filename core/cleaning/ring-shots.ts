import type { Param, Shot, Step } from '../document/types';
import type { Shape } from '../shape/shapes';

/** A patch as it lies by itself, without its light: over its place, and over the ring around that too. */
export function ringShots(shot: Shot, patch: Step): { inside: Shot; wide: Shot } {
  const found = patch.params.shapes;
  const list = (Array.isArray(found) ? found : []) as unknown as readonly Shape[];
  const ring = typeof patch.params.ring === 'number' ? patch.params.ring : 14;
  const withShapes = (shapes: readonly Shape[]): Shot => ({
    ...shot,
    lanes: shot.lanes.map((l) =>
      l.steps.some((s) => s.id === patch.id)
        ? {
            ...l,
            steps: l.steps.map((s) =>
              s.id === patch.id ? { ...s, on: true, mix: 1, params: { ...s.params, shapes: shapes as unknown as Param, light: 'none', output: 'alone' } } : s,
            ),
          }
        : l,
    ),
  });
  return { inside: withShapes(list), wide: withShapes(list.map((s) => ({ ...s, falloff: 'linear', feather: Math.max(0, s.feather) + ring }))) };
}
