import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import { drag, menusGone, openLibrary } from './helpers';

const namesIn = (page: Page, film: string): Promise<string[]> =>
  page
    .getByRole('region', { name: `Film ${film}` })
    .locator('.card b')
    .allTextContents();

test('a film: shots by dragging and from the menu, in an order, with their results side by side; taken apart and put back', async ({
  page,
}) => {
  await openLibrary(page);
  const demo = await namesIn(page, 'Saltgate Light');
  expect(demo.length).toBeGreaterThan(8);
  expect(demo).toContain('SG010 keeper');

  // A film of one's own: its name has the focus.
  await page.getByRole('button', { name: 'New film' }).click();
  await expect(page.getByRole('region', { name: 'Film New film' }).getByRole('textbox')).toBeFocused();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Night');
  await page.keyboard.press('Enter');
  const film = page.getByRole('region', { name: 'Film Night' });
  await expect(film.getByText('Drag shots here')).toBeVisible();
  const menu = async (shot: string, entry: string): Promise<void> => {
    await page.getByRole('button', { name: `Menu of ${shot}`, exact: true }).click();
    await page.getByRole('menuitem', { name: entry, exact: true }).click();
    await menusGone(page);
  };
  await menu('SG010 keeper', 'Put into Night');
  await menu('SG060 mooring', 'Put into Night');
  await expect.poll(() => namesIn(page, 'Night')).toEqual(['SG010 keeper', 'SG060 mooring']);
  expect(await namesIn(page, 'Saltgate Light')).not.toContain('SG010 keeper');

  // Dragged onto the first, it goes before it; the keys' way is the menu.
  await film.scrollIntoViewIfNeeded();
  await drag(page, film.getByTestId('shot SG060 mooring'), film.getByTestId('shot SG010 keeper'));
  await expect.poll(() => namesIn(page, 'Night')).toEqual(['SG060 mooring', 'SG010 keeper']);
  await expect(page).toHaveURL(/\/$/);
  await menu('SG060 mooring', 'Later in the film');
  await expect.poll(() => namesIn(page, 'Night')).toEqual(['SG010 keeper', 'SG060 mooring']);

  await film.getByRole('button', { name: 'Results side by side' }).click();
  const dialog = page.getByRole('dialog', { name: 'Results of Night' });
  const keeper = dialog.getByTestId('result SG010 keeper');
  await expect(keeper).toHaveAttribute('data-frame', '24', { timeout: 60_000 });
  const middle = await keeper.locator('img').getAttribute('src');
  await dialog.getByRole('slider', { name: 'Place in the range' }).press('Home');
  await expect(keeper).toHaveAttribute('data-frame', '1', { timeout: 60_000 });
  expect(await keeper.locator('img').getAttribute('src')).not.toBe(middle);
  await dialog.getByRole('button', { name: 'Close' }).click();
  await menusGone(page);

  await page.getByRole('button', { name: 'Menu of film Night' }).click();
  await page.getByRole('menuitem', { name: /^Take the film apart/ }).click();
  await expect(film).toHaveCount(0);
  await expect(page.getByRole('region', { name: 'Shots of no film' }).getByTestId('shot SG060 mooring')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => namesIn(page, 'Night')).toEqual(['SG010 keeper', 'SG060 mooring']);
});
