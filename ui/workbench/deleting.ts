import { findStep } from '@/core/document';
import type { ShotSession } from '@/store';
import { commands, removeReading } from '@/core/commands';
import { toast, toastError } from '../theme/toast';
import { chosenSteps } from './copying';
import type { Selection } from './state';
import { view } from './state';

/** Names in a sentence, the first three of them. */
const list = (names: readonly string[]): string =>
  names.length > 3 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');

/** Deletes a lane, step, reading or source. Where more than that would go, what goes is told and asked for first. */
export function deleteThing(session: ShotSession, { kind, id }: NonNullable<Selection>): void {
  const { shot } = session.store.getState();
  if (
    kind === 'lane' &&
    !session.refusal(commands.removeLane(id)) &&
    (commands.lossesOfLane(shot, id).length > 0 || (shot.result === id && shot.lanes.length > 1))
  ) {
    return view.set({ dialog: 'deleteLane', selection: { kind, id } });
  }
  const users = kind === 'step' ? commands.usersAfter(shot, id) : [];
  const found = kind === 'step' ? findStep(shot, id) : null;
  const change = {
    step: commands.removeStep,
    lane: commands.removeLane,
    reading: removeReading,
    source: commands.removeSource,
    zone: commands.removeZone,
  }[kind](id);
  try {
    session.run(`Delete ${kind}`, change);
  } catch (e) {
    return toastError(e);
  }
  if (view.get().selection?.id === id) view.set({ selection: null });
  const before = found && (found.lane.steps[found.index - 1]?.name ?? 'the start');
  const moved = users.length ? ` Taken after ${before} of ${found!.lane.name} now: ${list(users)}.` : '';
  toast('info', `The ${kind} was deleted.${moved}`, { label: 'Undo', run: () => session.undo() });
}

/**
 * Moves or copies a step, or the run that it is chosen in, to a place in a lane, at the edge of a zone into it or beside it. What was tapped after a step that goes to another
 * lane stays; it can be taken along.
 */
export function moveChip(session: ShotSession, id: string, lane: string, index: number, copy: boolean, zone?: string): void {
  const { shot } = session.store.getState();
  const found = findStep(shot, id);
  const chosen = chosenSteps(shot).map((x) => x.id);
  const ids = chosen.includes(id) ? chosen : [id];
  const users = copy || found?.lane.id === lane ? [] : ids.flatMap((x) => commands.usersAfter(shot, x));
  const many = ids.length > 1 ? `${ids.length} steps` : 'step';
  const move = (follow: boolean): boolean => {
    const made: { steps?: string[] } = {};
    try {
      session.run(`${copy ? 'Copy' : 'Move'} ${many}`, commands.moveSteps(ids, lane, index, copy, made, follow, zone));
    } catch (e) {
      toastError(e);
      return false;
    }
    const first = made.steps![0]!;
    view.set({ selection: { kind: 'step', id: first } });
    const from = session.store
      .getState()
      .shot.lanes.find((l) => l.id === lane)!
      .steps.findIndex((x) => x.id === first);
    if (ids.length > 1) view.set({ run: { lane, from, to: from + ids.length - 1 } });
    return true;
  };
  if (!move(false) || users.length === 0) return;
  const after = session.store.getState().shot;
  toast('info', `${ids.length > 1 ? 'They' : found!.step.name} went without what was taken after: ${list(users)}.`, {
    label: 'Take it along',
    run: () => {
      // Whatever was done since stays.
      if (session.store.getState().shot !== after)
        return toast('warning', 'The shot has changed since; change these feeds in the Controls.');
      session.undo();
      move(true);
    },
  });
}
