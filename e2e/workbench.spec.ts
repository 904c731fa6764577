import { readFile } from 'node:fs/promises';
import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, goTo, newShot, openLibrary, openShot, setNumber, settled, shownAt, stagePoint } from './helpers';

const near = (got: readonly number[], wanted: readonly number[], within = 3): void =>
  wanted.forEach((w, i) => expect(Math.abs(got[i]! - w), `${got.join(' ')} against ${wanted.join(' ')}`).toBeLessThanOrEqual(within));

/** The night harbour in a lane, seen. */
async function harbour(page: Page): Promise<void> {
  await newShot(page);
  await bringIn(page, 'demo/media/sg010/harbour.png');
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await settled(page, 24);
}

test('views are compared: kept, wiped by a line that moves, flipped, before while a key is held, and a version', async ({ page }) => {
  await harbour(page);
  const [left, right] = [
    [300, 430],
    [700, 430],
  ] as const;
  const dark = { left: await shownAt(page, ...left), right: await shownAt(page, ...right) };
  // The picture is kept as it is, then made brighter.
  await page.getByRole('button', { name: /^Compare/ }).click();
  const panel = page.getByRole('dialog', { name: 'Compare' });
  await panel.getByRole('button', { name: 'Keep' }).first().click();
  await expect(panel.getByText('harbour, kept at 24')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByTestId('lane harbour').getByText('harbour').first().click();
  await addStep(page, 'Exposure');
  await setNumber(page, 'Exposure (stops)', 2);
  await expect(async () => expect((await shownAt(page, ...left))[2]).toBeGreaterThan(dark.left[2]! + 20)).toPass();
  const bright = { left: await shownAt(page, ...left), right: await shownAt(page, ...right) };

  await page.keyboard.press('Shift+C');
  await expect(async () => {
    near(await shownAt(page, ...left), bright.left);
    near(await shownAt(page, ...right), dark.right);
  }).toPass();
  const grip = page.getByRole('button', { name: 'Move the wipe' });
  await drag(page, grip, await stagePoint(page, 200, 270));
  await expect(async () => near(await shownAt(page, ...left), dark.left)).toPass();
  await page.keyboard.press('Shift+C');
  await expect(async () => near(await shownAt(page, ...left), bright.left)).toPass();

  // A kept picture is shown by its number, and gone by it again.
  await page.keyboard.press('Alt+1');
  await expect(async () => near(await shownAt(page, ...left), dark.left)).toPass();
  await page.keyboard.press('Alt+1');
  await page.keyboard.down('b');
  await expect(async () => near(await shownAt(page, ...left), dark.left)).toPass();
  await page.keyboard.up('b');
  await expect(async () => near(await shownAt(page, ...left), bright.left)).toPass();

  // Versions: kept under a name, opened again, and undone like anything else.
  await page.getByRole('button', { name: 'Versions' }).click();
  const versions = page.getByRole('dialog', { name: 'Versions' });
  await versions.getByLabel('Name of the version').fill('bright');
  await versions.getByRole('button', { name: 'Keep as it is now' }).click();
  await expect(versions.getByTestId('version bright')).toBeVisible();
  await versions.getByRole('button', { name: 'Close' }).click();
  await setNumber(page, 'Exposure (stops)', 0);
  await expect(async () => near(await shownAt(page, ...left), dark.left)).toPass();
  await page.getByRole('button', { name: 'Versions' }).click();
  await versions.getByTestId('version bright').getByRole('button', { name: 'Open' }).click();
  await expect(async () => near(await shownAt(page, ...left), bright.left)).toPass();
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(async () => near(await shownAt(page, ...left), dark.left)).toPass();
});

test('the picture is measured: probe, scopes, and checks that lead to the pixels', async ({ page }) => {
  await harbour(page);
  await page.keyboard.press('p');
  const at = async (x: number, y: number) => stagePoint(page, x, y);
  await drag(page, await at(600, 400), await at(700, 460));
  const probe = page.getByRole('status', { name: 'Probe' });
  const mean = async (): Promise<number> => Number(await probe.locator('tbody tr').nth(2).locator('td').nth(1).innerText());
  const before = await mean();
  expect(before).toBeGreaterThan(0.001);
  await page.keyboard.press('p');

  await page.getByTestId('lane harbour').getByText('harbour').first().click();
  await addStep(page, 'Grade');
  await setNumber(page, 'Exposure (stops)', 3);
  await page.keyboard.press('p');
  await drag(page, await at(600, 400), await at(700, 460));
  await expect(async () => expect((await mean()) / before).toBeCloseTo(8, 1)).toPass();

  await page.getByRole('tab', { name: 'Scopes' }).click();
  const out = page.getByTestId('out of range');
  await expect(page.getByText('of the probed box')).toBeVisible();
  await expect(out).toContainText('below 0');
  await page.getByRole('button', { name: 'Whole picture' }).click();
  await expect(out).toContainText(/above 1: R [1-9]/);
  for (const scope of ['Waveform', 'Histogram', 'Vectorscope']) {
    const colours = page
      .getByRole('img', { name: scope })
      .evaluate((c: HTMLCanvasElement) => new Set(c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data).size);
    expect(await colours, scope).toBeGreaterThan(8);
  }

  await page.getByRole('tab', { name: /^Checks/ }).click();
  const checks = page.getByRole('region', { name: 'Checks' });
  await expect(checks).toContainText('Nothing is wrong at this frame');
  await setNumber(page, 'Offset, all', -0.5);
  await expect(checks.getByText('Negative light')).toBeVisible();
  const zoom = page.getByRole('button', { name: /^Zoom: / });
  const whole = await zoom.innerText();
  await checks.getByRole('button', { name: 'Show me' }).first().click();
  await expect(zoom).not.toHaveText(whole);
});

test('keys are curves, parameters follow each other, and notes go out', async ({ page }) => {
  await harbour(page);
  await page.getByTestId('lane harbour').getByText('harbour').first().click();
  await addStep(page, 'Exposure');
  const field = page.getByRole('textbox', { name: 'Exposure (stops)', exact: true });
  await goTo(page, 1);
  await page.getByRole('button', { name: 'Key of Exposure' }).click();
  await goTo(page, 41);
  await setNumber(page, 'Exposure (stops)', 4);
  await page.getByRole('tab', { name: 'Curves' }).click();
  const curves = page.getByRole('region', { name: 'Curves' });
  await expect(curves.getByRole('button', { name: /^Key at / })).toHaveCount(2);
  await curves.getByRole('button', { name: 'Linear' }).click();
  await goTo(page, 21);
  await expect(field).toHaveValue(/^2(\.0+)?$/);
  await curves.getByRole('button', { name: 'Add', exact: true }).click();
  await setNumber(page, "Key's value", 3);
  await expect(field).toHaveValue(/^3(\.0+)?$/);
  // A drag upward raises the key; one undo takes all of it back.
  const key = curves.getByRole('button', { name: 'Key at 21' });
  const box = (await key.boundingBox())!;
  await drag(page, key, { x: box.x + box.width / 2, y: box.y + box.height / 2 - 30 });
  await expect(async () => expect(Number(await field.inputValue())).toBeGreaterThan(3.2)).toPass();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(field).toHaveValue(/^3(\.0+)?$/);
  // Delete takes the key that was chosen last, not the step.
  await curves.getByRole('button', { name: 'Key at 21' }).click();
  await page.keyboard.press('Delete');
  await expect(curves.getByRole('button', { name: /^Key at / })).toHaveCount(2);
  await expect(field).toBeVisible();

  // Both keys are scaled together: their values about the middle, their times from the first.
  await curves.getByRole('button', { name: 'Key at 1', exact: true }).click();
  await curves.getByRole('button', { name: 'Key at 41' }).click({ modifiers: ['Shift'] });
  await setNumber(page, 'Scale values of the chosen keys', 0.5);
  await goTo(page, 41);
  await expect(field).toHaveValue(/^3(\.0+)?$/);
  await setNumber(page, 'Scale times of the chosen keys', 0.5);
  await expect(curves.getByRole('button', { name: 'Key at 21' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await goTo(page, 21);

  // A second step follows the first, and keeps its value when it is let go.
  await page.getByRole('tab', { name: 'Lanes' }).click();
  await addStep(page, 'Exposure');
  await page.getByRole('region', { name: 'Controls' }).locator('label', { hasText: 'Exposure' }).click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Follow another parameter…' }).click();
  await page.getByRole('option', { name: 'harbour ▸ Exposure ▸ Exposure' }).click();
  await expect(page.getByText('follows')).toBeVisible();
  await expect(field).toHaveValue(/^2(\.0+)?$/);
  await page.getByRole('button', { name: 'Unlink' }).click();
  await expect(page.getByText('follows')).toHaveCount(0);
  await goTo(page, 41);
  await expect(field).toHaveValue(/^2(\.0+)?$/);

  await page.getByRole('tab', { name: /^Notes/ }).click();
  await page.getByRole('button', { name: 'Note at frame 41' }).click();
  await page.getByLabel('Text of the note at 41').fill('lamp too bright, see edge');
  await page.getByRole('button', { name: 'Pin it to the picture' }).click();
  const place = await stagePoint(page, 258, 132);
  await page.mouse.click(place.x, place.y);
  await expect(page.getByRole('button', { name: 'Note: lamp too bright, see edge' })).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export CSV' }).click();
  const text = await readFile(await (await download).path(), 'utf8');
  expect(text).toMatch(/41,41,00:00:01:17,clay,open,"lamp too bright, see edge",(25[6-9]|260) 1(29|3[0-5])/);
});

test('nothing on the pages is out of reach of a screen reader', async ({ page }) => {
  await openLibrary(page);
  const serious = async (): Promise<string[]> => {
    const { violations } = await new AxeBuilder({ page }).analyze();
    return violations
      .filter((v) => v.impact === 'serious' || v.impact === 'critical')
      .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 120)).join(' | ')}`);
  };
  expect(await serious()).toEqual([]);
  await page.getByTestId('shot SG010 keeper').click();
  await settled(page, 24);
  await page.getByTestId('chip Screen key').click();
  expect(await serious()).toEqual([]);
});

test('steps and lanes travel: copied in runs, kept as recipes, pasted into another shot, found by name', async ({ page }) => {
  await openShot(page, 'sg010', 24);
  await page.getByRole('textbox', { name: 'Find a lane or step' }).fill('specks');
  await expect(page.getByTestId(/^lane /)).toHaveCount(1);
  await page.getByTestId('chip Remove specks').click();
  await page.getByTestId('chip Soften').click({ modifiers: ['Shift'] });
  await expect(page.getByTestId('lane keeper garbage').locator('.chip.selected')).toHaveCount(3);
  await page.keyboard.press('Shift+R');
  const recipes = page.getByRole('dialog', { name: 'Recipes' });
  await recipes.getByLabel('Name of the recipe').fill('soft garbage');
  await recipes.getByRole('button', { name: 'Keep these 3 steps' }).click();
  await expect(recipes.getByTestId('recipe soft garbage')).toContainText('Choke → Choke → Blur');
  await recipes.getByRole('button', { name: 'Close' }).click();
  await page.getByRole('textbox', { name: 'Find a lane or step' }).fill('');

  // The keeper's lane needs four others; all come along.
  await page.getByTestId('lane keeper').getByText('keeper', { exact: true }).first().click();
  await page.keyboard.press('Control+c');
  await expect(page.getByText('The lane and 3 that it needs were copied.')).toBeVisible();
  await newShot(page);
  await page.keyboard.press('Control+v');
  await expect(page.getByTestId(/^lane /)).toHaveCount(4);
  await expect(page.getByTestId(/^source /)).toHaveCount(1);
  await page.getByTestId('lane keeper').getByText('keeper', { exact: true }).first().click();
  await page.keyboard.press('Shift+R');
  await recipes.getByTestId('recipe soft garbage').getByRole('button', { name: 'Use' }).click();
  await expect(page.getByTestId('lane keeper').locator('.chip')).toHaveCount(8);
  // The controls are those of what was just put in.
  await expect(page.getByRole('region', { name: 'Controls' }).getByText('Remove specks')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByTestId('lane keeper').locator('.chip')).toHaveCount(5);

  // Menus name lanes and steps anew.
  await page.getByRole('button', { name: 'Menu of lane keeper', exact: true }).click();
  const name = page.getByRole('textbox', { name: 'Name', exact: true });
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await expect(name).toBeFocused();
  await page.keyboard.type('night keeper');
  await page.keyboard.press('Enter');
  await page.getByTestId('lane night keeper').getByTestId('chip Despill').click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await expect(name).toBeFocused();
  await page.keyboard.type('Green away');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('lane night keeper').getByTestId('chip Green away')).toBeVisible();
});

test('a shot in two tabs: the second only looks, takes over when the first is closed, and has what it saved; spans slip and trim', async ({
  page,
  context,
}) => {
  await openShot(page, 'sg010', 24);
  const second = await context.newPage();
  await second.goto(page.url());
  await expect(second.getByTestId('saved')).toHaveText('Read only: open in another tab');
  await second.getByTestId('chip Despill').click();
  await second.keyboard.press('Delete');
  await expect(second.getByText(/open in another tab; it can only be looked at here/)).toBeVisible();
  await expect(second.getByTestId('chip Despill')).toHaveCount(1);

  // In the first the plate slips three frames, and its end is left out; one undo takes a drag back.
  const span = page.getByTestId('span keeper plate').first();
  const box = (await span.boundingBox())!;
  const frame = box.width / 48;
  const middle = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  await drag(page, middle, { x: middle.x + 3 * frame, y: middle.y });
  await expect(span).toHaveAttribute('title', /^keeper plate: 4–51/);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(span).toHaveAttribute('title', /^keeper plate: 1–48/);
  const end = { x: box.x + box.width - 2, y: middle.y };
  await drag(page, end, { x: end.x - 8 * frame, y: end.y });
  await expect(span).toHaveAttribute('title', /^keeper plate: 1–40/);
  await expect(page.getByTestId('saved')).toHaveText('Saved');
  await page.close();
  await expect(second.getByText('The other tab was closed: the shot can be edited here now.')).toBeVisible();
  await expect(second.getByTestId('span keeper plate').first()).toHaveAttribute('title', /^keeper plate: 1–40/);
  await second.getByTestId('chip Despill').click();
  await second.keyboard.press('Delete');
  await expect(second.getByTestId('chip Despill')).toHaveCount(0);
});
