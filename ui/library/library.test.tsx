import '../testing/browser';
import { render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { AppRouterContext } from 'next/dist/shared/lib/app-router-context.shared-runtime';
import type { FilmRow, ShotRow } from '@/store/db';
import { db } from '@/store/db';
import { newShot } from '@/core/commands/make';
import { ToastHost } from '../theme/toast';
import { Films } from './Films';

const row = (id: string, name: string): ShotRow => ({ id, name, changed: 1, shot: { ...newShot(name), id, name } });
const rows = [row('a', 'Harbour'), row('b', 'Keeper'), row('c', 'Slipway'), row('d', 'Mooring')];

beforeEach(async () => {
  await Promise.all([db.shots.clear(), db.films.clear()]);
  await db.shots.bulkPut(rows);
});

/** The Library's films as the database has them now. */
async function show(films: readonly FilmRow[], fresh: string | null = null) {
  await db.films.bulkPut([...films]);
  const user = userEvent.setup();
  const router = { push: () => undefined, prefetch: () => undefined } as never;
  render(
    <AppRouterContext.Provider value={router}>
      <Films films={films} rows={rows} fresh={fresh} />
      <ToastHost />
    </AppRouterContext.Provider>,
  );
  const choose = async (menu: string, entry: string | RegExp): Promise<void> => {
    await user.click(screen.getByRole('button', { name: menu }));
    await user.click(screen.getByRole('menuitem', { name: entry }));
  };
  return { user, choose };
}

const cardsOf = (section: string): string[] =>
  [...screen.getByRole('region', { name: section }).querySelectorAll('.card b')].map((b) => b.textContent);
const shotsOf = async (film: string) => (await db.films.get(film))?.shots;

describe('films', () => {
  test('have their shots in their order, whatever the order of the rest; what is deleted is passed by', async () => {
    await show([{ id: 'f', name: 'Night', shots: ['c', 'gone', 'a'] }]);
    expect(cardsOf('Film Night')).toEqual(['Slipway', 'Harbour']);
    expect(cardsOf('Shots of no film')).toEqual(['Keeper', 'Mooring']);
    expect(screen.getByText('2 shots')).toBeTruthy();
  });

  test('a card’s menu moves it within its film, out of it, and into another', async () => {
    const { choose } = await show([
      { id: 'f', name: 'Night', shots: ['a', 'b'] },
      { id: 'g', name: 'Day', shots: [] },
    ]);
    await choose('Menu of Keeper', 'Earlier in the film');
    await waitFor(async () => expect(await shotsOf('f')).toEqual(['b', 'a']));
    await choose('Menu of Harbour', 'Put into Day');
    await waitFor(async () => expect([await shotsOf('f'), await shotsOf('g')]).toEqual([['b'], ['a']]));
    await choose('Menu of Keeper', 'Take out of Night');
    await waitFor(async () => expect(await shotsOf('f')).toEqual([]));
    // What is in no film has no place in one.
    await userEvent.click(screen.getByRole('button', { name: 'Menu of Mooring' }));
    expect(screen.queryByRole('menuitem', { name: /in the film/ })).toBeNull();
  });

  test('a new one has its name written at once', async () => {
    const { user } = await show([{ id: 'f', name: 'New film', shots: [] }], 'f');
    const field = within(screen.getByRole('region', { name: 'Film New film' })).getByRole('textbox');
    expect(document.activeElement).toBe(field);
    await user.clear(field);
    await user.type(field, 'Dusk{Enter}');
    await waitFor(async () => expect((await db.films.get('f'))!.name).toBe('Dusk'));
    expect(screen.getByText(/Drag shots here/)).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Results side by side' }).disabled).toBe(true);
  });

  test('taken apart it can be put back', async () => {
    const { user, choose } = await show([{ id: 'f', name: 'Night', shots: ['a'] }]);
    await choose('Menu of film Night', /^Take the film apart/);
    await waitFor(async () => expect(await db.films.count()).toBe(0));
    await user.click(await screen.findByRole('button', { name: 'Undo' }));
    await waitFor(async () => expect(await shotsOf('f')).toEqual(['a']));
  });
});
