import { produce } from 'immer';
import type { Lane, Shot } from '@/core/document';
import { checkShot, parseShot } from '@/core/document';
import { ShotError, messageOf } from '@/core/errors';
import { referencesOf } from '@/core/params';
import { STEPS } from '@/core/steps';
import type { Recipe } from '@/core/commands';
import { addRecipe } from '@/core/commands';
import type { HistoryRow, ShotRow } from './db';
import { db } from './db';
import { refuseLocked } from './locks';
import { whileClosed } from './shots';
import { saveVersion } from './versions';

/** What was done to a shot, or why nothing was. */
export interface Carried {
  shot: string;
  /** The lane that the steps went into. */
  lane?: string;
  /** Steps whose reading or table is not to be had there. */
  loose: readonly string[];
  problem?: string;
}

/** Where a look stands: its lane, and the step before it, by their names. */
export interface LookPlace {
  lane: string;
  before: string | null;
}

/** The same place in another shot: the lane of that name, else its result; behind the step of that name, else at the end. */
export function placeIn(shot: Shot, place: LookPlace): { lane: Lane; after: string | undefined } | null {
  const lane = shot.lanes.find((l) => l.name === place.lane) ?? shot.lanes.find((l) => l.id === shot.result);
  if (!lane) return null;
  const after = lane.name !== place.lane ? undefined : place.before === null ? '' : lane.steps.find((s) => s.name === place.before)?.id;
  return { lane, after };
}

/** A shot with a look at its place, and which of its steps or zones lost what they name. Throws ShotError where it cannot be put there. */
export function withLook(shot: Shot, recipe: Recipe, place: LookPlace): { shot: Shot; lane: string; loose: string[] } | null {
  const found = placeIn(shot, place);
  if (!found) return null;
  const next = produce(shot, addRecipe(recipe, found.lane.id, found.after));
  refuseLocked(shot, next);
  checkShot(next);
  const there = new Set([...shot.readings, ...shot.sources].map((x) => x.id));
  const loose = [...recipe.steps, ...(recipe.zones ?? [])].filter((s) =>
    referencesOf(STEPS.get(s.type)?.params, s.params).some(({ to }) => !there.has(to.id)),
  );
  return { shot: next, lane: found.lane.name, loose: loose.map((s) => s.name) };
}

/**
 * Puts a look into shots that no tab edits. Each stays as a version of itself before; what is returned tells of each, and puts all of them
 * back.
 */
export async function carryLook(
  recipe: Recipe,
  place: LookPlace,
  rows: readonly ShotRow[],
): Promise<{ told: Carried[]; undo(): Promise<void> }> {
  const told: Carried[] = [];
  const before: { row: ShotRow; history: HistoryRow | undefined; put: number }[] = [];
  for (const row of rows) {
    try {
      await whileClosed(row, 'changed', async () => {
        const now = await db.shots.get(row.id);
        const made = now && withLook(parseShot(now.shot), recipe, place);
        if (!now || !made) return told.push({ shot: row.name, loose: [], problem: 'it has no lane' });
        const history = await db.histories.get(row.id);
        const put = Date.now();
        await saveVersion(now.shot, 'Before a look was carried on', now.thumbnail);
        await db.transaction('rw', db.shots, db.histories, async () => {
          // Its small picture is made again when it is opened; undo steps of before no longer fit.
          await db.shots.put({ ...now, changed: put, shot: made.shot });
          await db.histories.delete(row.id);
        });
        before.push({ row: now, history, put });
        return told.push({ shot: row.name, lane: made.lane, loose: made.loose });
      });
    } catch (e) {
      told.push({ shot: row.name, loose: [], problem: messageOf(e) });
    }
  }
  const undo = async (): Promise<void> => {
    for (const { row, history, put } of before) {
      await whileClosed(row, 'put back', async () => {
        if ((await db.shots.get(row.id))?.changed !== put) {
          throw new ShotError(`"${row.name}" was changed since; its version from before is kept in it`);
        }
        await db.transaction('rw', db.shots, db.histories, async () => {
          await db.shots.put(row);
          if (history) await db.histories.put(history);
        });
      });
    }
  };
  return { told, undo };
}
