import type { ShotSession } from '@/store';
import { commands } from '@/core/commands';
import { toast } from '../theme/toast';
import { attempt } from './attempt';
import { chosenSteps } from './copying';
import { view } from './state';

/** Gathers the chosen steps into a zone, which is selected: its box is put where it belongs on the stage. */
export function gatherChosen(session: ShotSession): void {
  const chosen = chosenSteps(session.store.getState().shot).map((s) => s.id);
  if (chosen.length === 0) return toast('info', 'Choose the steps to gather first: a click takes one, a click with Shift all up to it.');
  const made: { zone?: string } = {};
  if (attempt(session, 'Gather into a zone', commands.gatherZone(chosen, made))) view.set({ selection: { kind: 'zone', id: made.zone! } });
}

/** Takes the selected zone away; its steps stay. */
export function dissolveSelected(session: ShotSession): void {
  const { selection } = view.get();
  if (selection?.kind !== 'zone') return toast('info', 'Select a zone first, by its name above its steps.');
  if (attempt(session, 'Dissolve zone', commands.dissolveZone(selection.id))) view.set({ selection: null });
}

/** Moves or copies a zone with its steps to a place in a lane. */
export function moveZoneTo(session: ShotSession, id: string, lane: string, index: number, copy: boolean): void {
  const made: { zone?: string } = {};
  if (attempt(session, copy ? 'Copy zone' : 'Move zone', commands.moveZone(id, lane, index, copy, made)) && made.zone)
    view.set({ selection: { kind: 'zone', id: made.zone } });
}
