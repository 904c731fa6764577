import type { Draft } from 'immer';
import type { Lane, Step, Zone } from '../document';
import { stepsOfZone, zoneOfStep } from '../document';

/** Takes a zone out of its lane's list; its steps stay. */
export function dropZone(lane: Draft<Lane>, id: string): void {
  lane.zones = lane.zones!.filter((z) => z.id !== id);
  if (lane.zones.length === 0) delete lane.zones;
}

/** A step that is about to leave its place leaves its zone; an empty zone goes. */
export function leaveZone(lane: Draft<Lane>, id: string): void {
  const zone = zoneOfStep(lane as Lane, id) as Draft<Zone> | undefined;
  if (!zone) return;
  const own: readonly Step[] = stepsOfZone(lane as Lane, zone as Zone).filter((x) => x.id !== id);
  if (own.length === 0) return dropZone(lane, zone.id);
  zone.first = own[0]!.id;
  zone.last = own[own.length - 1]!.id;
}

/** A step that stands right before a zone's first or right behind its last becomes one of its steps. */
export function joinZone(lane: Draft<Lane>, id: string, step: string): void {
  const zone = lane.zones?.find((z) => z.id === id);
  const at = lane.steps.findIndex((x) => x.id === step);
  if (!zone || at < 0) return;
  if (lane.steps[at + 1]?.id === zone.first) zone.first = step;
  else if (lane.steps[at - 1]?.id === zone.last) zone.last = step;
}
