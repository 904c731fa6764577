import type { Shot } from '@/core/document';
import { isNewer, migrate, parseShot } from '@/core/document';
import type { VersionRow } from './db';
import { db } from './db';
import type { Change } from '@/core/commands';
import { freeName, newId } from '@/core/commands';

/** Keeps a shot as it is under a name; one that is taken gets a number. */
export async function saveVersion(shot: Shot, name: string, thumbnail?: string, byItself?: true): Promise<VersionRow> {
  const names = (await versionsOf(shot.id)).map((v) => v.name);
  const row = {
    id: newId(),
    of: shot.id,
    name: freeName(name, names),
    made: Date.now(),
    shot,
    ...(thumbnail !== undefined && { thumbnail }),
    ...(byItself && { byItself }),
  };
  await db.versions.put(row);
  return row;
}

/** Versions by the clock that are kept of a shot. */
const BY_ITSELF = 10;

/** Keeps a shot by itself, named by the time, unless the last version is the same; the oldest such versions give way. */
export async function saveByItself(shot: Shot, thumbnail?: string): Promise<VersionRow | null> {
  const before = await versionsOf(shot.id);
  if (before[0] && JSON.stringify(before[0].shot) === JSON.stringify(shot)) return null;
  const time = new Date().toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  const row = await saveVersion(shot, `By itself, ${time}`, thumbnail, true);
  const old = before.filter((v) => v.byItself).slice(BY_ITSELF - 1);
  await db.versions.bulkDelete(old.map((v) => v.id));
  return row;
}

/** The versions of a shot, the newest first, in the form of today; one of a later form as it is, which `restore` refuses. */
export async function versionsOf(shotId: string): Promise<VersionRow[]> {
  const rows = await db.versions.where('of').equals(shotId).toArray();
  return rows.sort((a, b) => b.made - a.made).map((row) => (isNewer(row.shot) ? row : { ...row, shot: migrate(row.shot) as Shot }));
}

/** Makes the shot what it was in a version; its name and place in the library stay. */
export const restore =
  (version: VersionRow): Change =>
  (s) => {
    const { id: _, name: __, ...was } = parseShot(version.shot);
    Object.assign(s, was);
  };
