import { expect, test } from './fixtures';
import { openShot, setNumber, settled, shownAt } from './helpers';

test('looking never computes; caches show what they hold, can be sized and emptied', async ({ page }) => {
  await openShot(page, 'sg010', 24);
  const cost = await page.locator('.hud').textContent();
  const before = await shownAt(page, 760, 300);

  // The view transform and gamma act while drawing: the picture's own time stays what it was.
  await page.getByRole('button', { name: /^How light becomes display values/ }).click();
  await page.getByRole('menuitem', { name: /^Linear/ }).click();
  await expect(async () => expect((await shownAt(page, 760, 300))[2]!).toBeLessThan(before[2]! * 0.7)).toPass();
  expect(await page.locator('.hud').textContent()).toBe(cost);
  await page.getByRole('button', { name: /^How light becomes display values/ }).click();
  await page.getByRole('menuitem', { name: /^sRGB/ }).click();
  await expect(async () => expect(Math.abs((await shownAt(page, 760, 300))[2]! - before[2]!)).toBeLessThanOrEqual(2)).toPass();

  await page.getByRole('button', { name: 'Caches' }).click();
  const panel = page.getByRole('dialog', { name: 'Caches' });
  await expect(panel).toContainText('Frames for the screen');
  await expect(panel).toContainText(/\d+ % found/);
  const slider = panel.getByRole('slider', { name: 'Memory for both (MB)' });
  await slider.focus();
  await page.keyboard.press('Home');
  await expect(panel).toContainText('of 64 MB');
  await panel.getByRole('button', { name: 'Empty the caches' }).click();
  await expect(panel).toContainText('0 MB of 64 MB');
  await page.keyboard.press('Escape');

  // The size is kept for this browser.
  await page.reload();
  await settled(page);
  await page.getByRole('button', { name: 'Caches' }).click();
  await expect(page.getByRole('dialog', { name: 'Caches' })).toContainText('128 MB');
});

test('an undo finds its picture again; scrubbing shows a frame at once and then the right one', async ({ page }) => {
  await openShot(page, 'sg010', 24);
  await page.getByTestId('chip Night grade').click();
  const before = await shownAt(page, 470, 400);
  await setNumber(page, 'Exposure (stops)', 3);
  await expect(async () => expect((await shownAt(page, 470, 400))[0]!).toBeGreaterThan(before[0]! + 20)).toPass({ timeout: 20_000 });
  await settled(page, 24);
  await page.keyboard.press('Control+z');
  await expect(async () => expect(Math.abs((await shownAt(page, 470, 400))[0]! - before[0]!)).toBeLessThanOrEqual(2)).toPass({
    timeout: 20_000,
  });

  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await settled(page, 26);
  await expect(page.getByText('stands in')).toHaveCount(0);
});

test('playback reads ahead, says its rate, and leaves out frames or not as told', async ({ page }) => {
  await openShot(page, 'sg010', 24);
  await page.getByRole('button', { name: 'real time' }).click();
  await expect(page.getByRole('button', { name: 'every frame' })).toBeVisible();
  await page.getByRole('button', { name: 'Play (Space)' }).click();
  await expect(page.getByTestId('ready')).toContainText(/\d+\.\d of 24 fps/, { timeout: 60_000 });
  await expect(page.getByText('left out')).toHaveCount(0);
  await page.getByRole('button', { name: 'Pause (Space)' }).click();
  await expect(page.getByTestId('ready')).toContainText(/^24 fps · ([4-9]|\d\d)/);
});
