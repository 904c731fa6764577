import { ShotError } from '@/core/errors';
import { LIMITS } from '@/core/document';
import type { FilmRow } from './db';
import { db } from './db';
import { freeName, newId } from '@/core/commands';

const named = (wanted: string): string => {
  const name = wanted.trim();
  if (name.length > LIMITS.name) throw new ShotError(`a name has at most ${LIMITS.name} letters; this one has ${name.length}`);
  return name;
};

const filmOf = async (id: string): Promise<FilmRow> => {
  const film = await db.films.get(id);
  if (!film) throw new ShotError('that film is no longer there');
  return film;
};

/** Makes a film, shots in their order, the last of the list; its id. A shot that was in another film leaves it. */
export const newFilm = (wanted: string, shots: readonly string[] = [], id = newId()): Promise<string> =>
  db.transaction('rw', db.films, async () => {
    const all = await db.films.toArray();
    const name = freeName(
      named(wanted) || 'Film',
      all.map((f) => f.name),
    );
    await leave(shots);
    await db.films.put({ id, name, shots: [...shots] });
    return id;
  });

/** Takes shots out of the films that they are in. */
async function leave(shots: readonly string[]): Promise<void> {
  for (const film of await db.films.toArray()) {
    const left = film.shots.filter((s) => !shots.includes(s));
    if (left.length < film.shots.length) await db.films.put({ ...film, shots: left });
  }
}

/** Gives a film another name; a number comes behind one that is taken. */
export const renameFilm = (id: string, wanted: string): Promise<void> =>
  db.transaction('rw', db.films, async () => {
    const film = await filmOf(id);
    const name = named(wanted);
    if (!name || name === film.name) return;
    const others = (await db.films.toArray()).filter((f) => f.id !== id).map((f) => f.name);
    await db.films.put({ ...film, name: freeName(name, others) });
  });

/** Takes a film away; its shots stay. What is returned puts it back, with those that are in no other film since. */
export async function deleteFilm(id: string): Promise<() => Promise<void>> {
  const film = await filmOf(id);
  await db.films.delete(id);
  return () =>
    db.transaction('rw', db.films, async () => {
      const taken = new Set((await db.films.toArray()).flatMap((f) => f.shots));
      await db.films.put({ ...film, shots: film.shots.filter((s) => !taken.has(s)) });
    });
}

/** Puts a shot into a film, before another of its shots or at its end; into none where the film is null. */
export const placeInFilm = (shot: string, film: string | null, before?: string): Promise<void> =>
  db.transaction('rw', db.films, async () => {
    if (shot === before) return;
    await leave([shot]);
    if (film === null) return;
    const row = await filmOf(film);
    const at = before === undefined ? -1 : row.shots.indexOf(before);
    await db.films.put({ ...row, shots: row.shots.toSpliced(at < 0 ? row.shots.length : at, 0, shot) });
  });

/** Moves a shot by some places within its film; at either end it stays. */
export const moveInFilm = (shot: string, film: string, by: number): Promise<void> =>
  db.transaction('rw', db.films, db.shots, async () => {
    const row = await filmOf(film);
    // Shots that were deleted are no places of the order.
    const there = new Set(await db.shots.toCollection().primaryKeys());
    const shots = row.shots.filter((s) => there.has(s));
    const at = shots.indexOf(shot);
    const to = Math.min(shots.length - 1, Math.max(0, at + by));
    if (at >= 0 && to !== at) await db.films.put({ ...row, shots: shots.toSpliced(at, 1).toSpliced(to, 0, shot) });
  });
