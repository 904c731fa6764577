import { chromium, expect, test } from '@playwright/test';
import { settled } from './helpers';
import { PROFILE, launch } from './profile';

test('a first visit finds the demo film: it says what is on its way, and every shot opens with its picture', async ({
  launchOptions,
  baseURL,
  viewport,
}) => {
  const context = await launch(chromium, process.env[PROFILE]!, {
    launchOptions,
    ...(baseURL && { baseURL }),
    viewport,
    serviceWorkers: 'block',
  });
  const page = await context.newPage();
  await page.goto('/');
  await expect(page.getByText(/Bringing in the demo film: \d+ of \d+ files/)).toBeVisible();
  for (const shot of [
    'SG010 keeper',
    'SG010 keeper, by regions',
    'SG020 chart table',
    'SG020 chart table, begun',
    'SG030 brass diver',
    'SG060 mooring',
  ])
    await expect(page.getByTestId(`shot ${shot}`).locator('img')).toBeVisible({ timeout: 90_000 });
  await expect(page.getByText('Bringing in the demo film')).toHaveCount(0, { timeout: 180_000 });
  await page.getByTestId('shot SG060 mooring').click();
  await settled(page, 24);
  await expect(page.getByTestId('chip Steady')).toBeVisible();
  // A second visit brings nothing in again.
  await page.getByRole('link', { name: 'Library' }).click();
  await expect(page.getByTestId('shot SG060 mooring')).toBeVisible();
  await expect(page.getByText('Bringing in the demo film')).toHaveCount(0);
  await context.close();
});
