import type { Shot } from '@/core/document';
import { LIMITS, fitName, parseShot } from '@/core/document';
import { ShotError } from '@/core/errors';
import type { ShotRow } from './db';
import { db } from './db';
import { freeName, newId } from '@/core/commands';
import { saveVersion } from './versions';
import { shotLock, withLock } from './web-locks';

/** Runs something on a shot that no tab edits. Throws ShotError where one does: it would write its own copy over it. */
export async function whileClosed<T>({ id, name }: Pick<ShotRow, 'id' | 'name'>, what: string, run: () => Promise<T>): Promise<T> {
  return withLock(shotLock(id), { ifAvailable: true }, (held) => {
    if (!held)
      throw new ShotError(`"${name}" is open in another tab and cannot be ${what} from here; do it there, or close that tab first`);
    return run();
  });
}

/** Gives a shot another name; a number comes behind one that is taken. */
export async function renameRow(row: ShotRow, wanted: string): Promise<void> {
  const name = wanted.trim();
  if (!name || name === row.name) return;
  if (name.length > LIMITS.name) throw new ShotError(`a name has at most ${LIMITS.name} letters; this one has ${name.length}`);
  await whileClosed(row, 'renamed', () =>
    db.transaction('rw', db.shots, async () => {
      const now = await db.shots.get(row.id);
      if (!now) throw new ShotError(`"${row.name}" is no longer there`);
      const names = await namesBut(row.id);
      const free = freeName(name, names);
      await db.shots.put({ ...now, name: free, changed: Date.now(), shot: { ...now.shot, name: free } });
    }),
  );
}

const namesBut = async (id: string): Promise<string[]> => (await db.shots.toArray()).filter((r) => r.id !== id).map((r) => r.name);

/** Deletes a shot; what is returned puts it back. Its versions stay until unused media is removed, so that it finds them. */
export async function deleteRow(row: ShotRow): Promise<() => Promise<void>> {
  return whileClosed(row, 'deleted', async () => {
    await db.transaction('rw', db.shots, db.removed, async () => {
      await db.removed.put({ id: row.id, at: Date.now(), row: (await db.shots.get(row.id)) ?? row });
      await db.shots.delete(row.id);
    });
    return () =>
      db.transaction('rw', db.shots, db.removed, async () => {
        if (await db.shots.get(row.id)) throw new ShotError(`"${row.name}" is there again already`);
        await db.shots.put((await db.removed.get(row.id))?.row ?? row);
        await db.removed.delete(row.id);
      });
  });
}

/** A copy of a shot beside it. */
export async function duplicateRow(row: ShotRow): Promise<void> {
  const now = (await db.shots.get(row.id)) ?? row;
  const id = newId();
  const name = freeName(
    now.name,
    (await db.shots.toArray()).map((r) => r.name),
  );
  await db.shots.put({ ...now, id, name, changed: Date.now(), shot: { ...now.shot, id, name } });
}

/** Puts a repaired shot in the place of one that could not be opened, which stays as a version. */
export async function keepRepaired(row: ShotRow, repaired: Shot): Promise<void> {
  const shot = parseShot({ ...repaired, id: row.id });
  await whileClosed(row, 'repaired', async () => {
    await saveVersion({ ...row.shot, id: row.id }, 'Before the repair', row.thumbnail);
    await db.transaction('rw', db.shots, db.histories, async () => {
      await db.shots.put({ ...row, name: fitName(shot.name), changed: Date.now(), shot });
      await db.histories.delete(row.id);
    });
  });
}
