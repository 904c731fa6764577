import type { Shot } from '@/core/document';
import { laneOf } from '@/core/document';
import type { Plan } from '@/core/evaluate';
import type { OutputSettings } from '@/core/formats';
import { idLayers, packTimecode } from '@/core/formats';

/** What the header of an exported OpenEXR file says, and which of its channels keep a type of their own. */
export function exrHeader(shot: Shot, lane: string, frame: number, plan: Plan, settings: OutputSettings): Partial<OutputSettings> {
  const types: Record<string, 'float' | 'uint'> = {};
  const attributes: Record<string, string | readonly number[]> = {};
  const sources = new Set(plan.sources.map((s) => s.source));
  for (const source of sources) {
    Object.assign(types, source.types);
    // Names of ID mattes go with their channels.
    const given = Object.fromEntries(source.attributes ?? []);
    for (const ids of idLayers(given, plan.channels)) {
      for (const k of Object.keys(given)) if (k.startsWith(ids.key)) attributes[k] = given[k]!;
    }
  }
  if (settings.notes) {
    const from = [...sources].map((s) => `${s.name} (${s.container})`).join(', ');
    attributes.comments = `${shot.name}, ${laneOf(shot, lane)?.name ?? lane}, frame ${frame}; from ${from}`;
    attributes.timeCode = [packTimecode(frame, Math.round(shot.frameRate)), 0];
    attributes.framesPerSecond = [Math.round(shot.frameRate * 1000), 1000];
  }
  return { types, attributes };
}
