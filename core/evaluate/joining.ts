import type { Mapping } from '../geometry/mapping';
import type { Format } from '../picture';
import type { PlanNode } from './nodes';

/** Whether below joins and colours a picture was placed, so that bending that is one resample less. */
export function reachesPlaced(node: PlanNode): boolean {
  if (node.kind !== 'step') return false;
  if (node.io.placements.length > 0) return true;
  return node.definition.mixes === true && !node.mask && [...node.inputs.values()].some(reachesPlaced);
}

export const sameFormat = (a: Format, b: Format): boolean => a.width === b.width && a.height === b.height;

/** The mappings of a placing step after those of the placing step it stands on, where nothing hinders that. */
export function joinPlacements(main: PlanNode, outer: readonly Mapping[]): { from: PlanNode; placements: Mapping[] } | null {
  if (main.kind !== 'step' || main.io.placements.length === 0 || main.mix < 1 || main.mask || main.definition.cuts?.(main.p as never))
    return null;
  const inner = main.io.placements;
  // Both move during the shutter but at different times: each is done by itself.
  if (inner.length !== outer.length && inner.length > 1 && outer.length > 1) return null;
  const placements = Array.from({ length: Math.max(inner.length, outer.length) }, (_, i) =>
    inner[i % inner.length]!.then(outer[i % outer.length]!),
  );
  return { from: main.main, placements };
}
