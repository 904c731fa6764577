import type { Shot, Step } from '@/core/document';
import { findStep, stepsOfZone } from '@/core/document';
import type { ShotSession } from '@/store';
import type { Recipe } from '@/core/commands';
import { LANES, RECIPE, addRecipe, clipLane, findZone, parseCopied, pasteLanes, recipeOf } from '@/core/commands';
import { toast, toastError } from '../theme/toast';
import { view } from './state';

/** What was copied is kept by the browser, so that another shot, in another tab too, can take it. */
const KEY = 'ostracon clipboard';

/** The steps that are chosen: a run of them, or the one that is selected. */
export function chosenSteps(shot: Shot): Step[] {
  const { selection, run } = view.get();
  if (run) {
    const lane = shot.lanes.find((l) => l.id === run.lane);
    return lane?.steps.slice(Math.min(run.from, run.to), Math.max(run.from, run.to) + 1) ?? [];
  }
  const found = selection?.kind === 'step' ? findStep(shot, selection.id) : null;
  return found ? [found.step] : [];
}

/** Copies the chosen steps, or the selected lane with all that it needs. */
export function copySelected(session: ShotSession): void {
  const { shot } = session.store.getState();
  const { selection } = view.get();
  const zone = selection?.kind === 'zone' ? findZone(shot, selection.id) : null;
  const steps = zone ? stepsOfZone(zone.lane, zone.zone) : chosenSteps(shot);
  if (steps.length) {
    localStorage.setItem(KEY, JSON.stringify(recipeOf(shot, steps, zone?.zone.name ?? steps[0]!.name)));
    toast('info', steps.length === 1 ? `"${steps[0]!.name}" was copied.` : `${steps.length} steps were copied.`);
  } else if (selection?.kind === 'lane') {
    const clip = clipLane(shot, selection.id);
    localStorage.setItem(KEY, JSON.stringify(clip));
    toast('info', clip.lanes.length === 1 ? 'The lane was copied.' : `The lane and ${clip.lanes.length - 1} that it needs were copied.`);
  }
}

/** Puts what was copied into this shot: steps after the selected one, lanes on the board. What is put in is selected. */
export function pasteCopied(session: ShotSession): void {
  const text = localStorage.getItem(KEY);
  if (!text) return toast('info', 'Nothing was copied yet: Ctrl+C copies the selected steps or lane.');
  try {
    const copied = parseCopied(text);
    if (copied?.format === RECIPE) applyRecipe(session, copied);
    else if (copied?.format === LANES) {
      const made: { lane?: string } = {};
      session.run('Paste lanes', pasteLanes(copied, made));
      if (made.lane) view.set({ selection: { kind: 'lane', id: made.lane } });
    }
  } catch (e) {
    toastError(e);
  }
}

/** Adds a recipe's steps after the selected step, or at the end of the selected or the result lane. Throws ShotError. */
export function applyRecipe(session: ShotSession, recipe: Recipe): void {
  const { shot } = session.store.getState();
  const { selection, run } = view.get();
  const found = selection?.kind === 'step' ? findStep(shot, selection.id) : null;
  const lane = found?.lane.id ?? (selection?.kind === 'lane' ? selection.id : shot.result);
  if (!lane) return toast('error', 'There is no lane to put the steps into.');
  const chosen = run ? chosenSteps(shot) : [];
  const after = chosen[chosen.length - 1]?.id ?? found?.step.id;
  const made: { steps?: string[] } = {};
  session.run(`Add ${recipe.name}`, addRecipe(recipe, lane, after, made));
  // The controls on screen are those of the copy, never of what it was copied from.
  if (made.steps?.[0]) view.set({ selection: { kind: 'step', id: made.steps[0] } });
}
