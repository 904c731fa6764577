import type { Lane, Step, Zone } from './types';

/** Everything of a lane that may be masked and mixed: its steps, then its zones. */
export const limitedOf = (lane: Lane): readonly Step[] => (lane.zones ? [...lane.steps, ...lane.zones] : lane.steps);

/** The places of a zone's first and last step in its lane. */
export function spanOfZone(lane: Lane, zone: Zone): { first: number; last: number } {
  return { first: lane.steps.findIndex((s) => s.id === zone.first), last: lane.steps.findIndex((s) => s.id === zone.last) };
}

/** The steps of a zone, in order. */
export function stepsOfZone(lane: Lane, zone: Zone): readonly Step[] {
  const { first, last } = spanOfZone(lane, zone);
  return lane.steps.slice(first, last + 1);
}

/** The zone that a step stands in, if it does in one. */
export function zoneOfStep(lane: Lane, stepId: string): Zone | undefined {
  const at = lane.steps.findIndex((s) => s.id === stepId);
  return lane.zones?.find((z) => {
    const { first, last } = spanOfZone(lane, z);
    return at >= first && at <= last;
  });
}

export const zoneEndingAt = (lane: Lane, index: number): Zone | undefined => lane.zones?.find((z) => z.last === lane.steps[index]?.id);

/** What is wrong with a lane's zones, in words; null where they lie beside each other, each around a run of its steps. */
export function zoneTrouble(lane: Lane): { zone: Zone; message: string } | null {
  const taken = new Map<number, string>();
  for (const zone of lane.zones ?? []) {
    const { first, last } = spanOfZone(lane, zone);
    if (first < 0 || last < first) return { zone, message: `the zone "${zone.name}" of ${lane.name} is around no run of its steps` };
    for (let i = first; i <= last; i++) {
      const other = taken.get(i);
      if (other !== undefined) return { zone, message: `the zones "${other}" and "${zone.name}" of ${lane.name} lie over each other` };
      taken.set(i, zone.name);
    }
  }
  return null;
}
