import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { bringIn, drag, expectShown, newShot, settled, shownAt } from './helpers';

const media = join(process.cwd(), 'demo/media/sg010');
const plates = [22, 23, 24, 25, 26].map((f) => join(media, `keeper.${String(f).padStart(4, '0')}.jpg`));

test('from the plate to a key in layers by one command, and each of its parts shows what it does', async ({ page }) => {
  await newShot(page);
  await bringIn(page, plates);
  await bringIn(page, [join(media, 'harbour.png')]);
  const board = page.getByTestId('board');
  await drag(page, page.getByTestId('source harbour'), board);
  await expect(page.getByTestId('lane harbour')).toBeVisible();
  await drag(page, page.getByTestId('source keeper'), board);
  await expect(page.getByTestId('lane keeper')).toBeVisible();
  await settled(page);
  // The plate covers everything before it is keyed.
  const green = await shownAt(page, 860, 60);
  expect(green[1]! - Math.max(green[0]!, green[2]!)).toBeGreaterThan(40);

  await page.getByTestId('lane keeper').getByText('keeper', { exact: true }).first().click();
  await page.keyboard.press('k');
  const dialog = page.getByRole('dialog', { name: 'Key the screen of keeper' });
  await expect(dialog.getByTestId('found-screen')).toBeVisible({ timeout: 60_000 });
  await dialog.getByRole('button', { name: 'Key it' }).click();
  for (const name of ['keeper core', 'keeper garbage', 'keeper screen']) await expect(page.getByTestId(`lane ${name}`)).toBeVisible();

  // The harbour's night shows where the screen was, and the coat stays.
  await expect(async () => {
    const [r, g, b] = await shownAt(page, 860, 60);
    expect(g! - b!).toBeLessThan(10);
    expect(r!).toBeLessThan(90);
  }).toPass({ timeout: 60_000 });
  const coat = (await shownAt(page, 470, 470)) as [number, number, number];

  // Without the garbage matte's one piece the stand is there again; with it, gone.
  const away = await shownAt(page, 90, 300);
  await page.getByTestId('chip Keep the subject').click();
  await page.keyboard.press('q');
  await expect(async () => {
    const there = await shownAt(page, 90, 300);
    expect(Math.abs(there[0]! - away[0]!) + Math.abs(there[1]! - away[1]!) + Math.abs(there[2]! - away[2]!)).toBeGreaterThan(30);
  }).toPass({ timeout: 60_000 });
  await page.keyboard.press('q');
  await expectShown(page, 90, 300, away as [number, number, number], 6);
  await expectShown(page, 470, 470, coat, 6);

  // One undo takes the whole key back.
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('lane keeper core')).toHaveCount(0);
});

test('a plate without a screen says so', async ({ page }) => {
  await newShot(page);
  await bringIn(page, [join(media, 'harbour.png')]);
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await settled(page);
  await page.keyboard.press('k');
  await expect(page.getByText('No screen was found')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Key it' })).toBeDisabled();
});
