import './testing/indexed-db';
import { db } from './db';
import { deleteFilm, moveInFilm, newFilm, placeInFilm, renameFilm } from './films';
import { newShot } from '@/core/commands/make';

const ids = ['a', 'b', 'c', 'd'];
const order = async (film: string) => (await db.films.get(film))?.shots;

beforeEach(async () => {
  await db.films.clear();
  await db.shots.clear();
  await db.shots.bulkPut(ids.map((id) => ({ id, name: id, changed: 0, shot: { ...newShot(id), id } })));
});

describe('films', () => {
  test('a shot is in one film at most, at the place that it was put to', async () => {
    const [one, two] = [await newFilm('One', ['a', 'b']), await newFilm('Two')];
    await placeInFilm('c', one, 'b');
    expect(await order(one)).toEqual(['a', 'c', 'b']);
    await placeInFilm('c', two);
    expect([await order(one), await order(two)]).toEqual([['a', 'b'], ['c']]);
    await placeInFilm('b', one, 'a');
    expect(await order(one)).toEqual(['b', 'a']);
    await placeInFilm('b', one, 'b');
    expect(await order(one)).toEqual(['b', 'a']);
    await placeInFilm('b', null);
    expect(await order(one)).toEqual(['a']);
  });

  test('a shot goes earlier and later, past shots that were deleted, and stays at the ends', async () => {
    const film = await newFilm('Film', ['a', 'b', 'c']);
    await db.shots.delete('b');
    await moveInFilm('c', film, -1);
    expect(await order(film)).toEqual(['c', 'a']);
    await moveInFilm('c', film, -1);
    expect(await order(film)).toEqual(['c', 'a']);
    await moveInFilm('c', film, 1);
    expect(await order(film)).toEqual(['a', 'c']);
  });

  test('names are told apart and bounded', async () => {
    const [one, two] = [await newFilm('Film'), await newFilm('Film')];
    expect((await db.films.get(two))!.name).toBe('Film 2');
    await renameFilm(two, ' Film ');
    expect((await db.films.get(two))!.name).toBe('Film 2');
    await renameFilm(one, '  ');
    expect((await db.films.get(one))!.name).toBe('Film');
    await expect(renameFilm(one, 'x'.repeat(5000))).rejects.toThrow(/at most/);
    await expect(renameFilm('gone', 'x')).rejects.toThrow(/no longer there/);
  });

  test('taken apart it leaves its shots, and comes back with those that are in no other since', async () => {
    const film = await newFilm('Film', ['a', 'b']);
    const back = await deleteFilm(film);
    expect(await db.films.count()).toBe(0);
    expect(await db.shots.count()).toBe(4);
    const other = await newFilm('Other', ['b']);
    await back();
    expect([await order(film), await order(other)]).toEqual([['a'], ['b']]);
  });
});
