import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Download, Page } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { expect, test } from './fixtures';
import { bringIn, drag, menusGone, newShot, openShot, setNumber, settled, stagePoint } from './helpers';

const controls = (page: Page) => page.getByRole('region', { name: 'Controls' });
const overlay = (page: Page) => page.getByTestId('camera-overlay');

async function newCamera(page: Page): Promise<void> {
  await page.getByRole('tab', { name: 'Readings' }).first().click();
  await page.getByRole('button', { name: 'New', exact: true }).click();
  await page.getByRole('menuitem', { name: /^A camera/ }).click();
  await menusGone(page);
}

async function saved(page: Page, button: string): Promise<Buffer> {
  const download = page.waitForEvent('download');
  await controls(page).getByRole('button', { name: button }).click();
  return readFile(await ((await download) as Download).path());
}

const solved = (page: Page) => controls(page).getByRole('button', { name: 'from the beginning' });
const rms = async (page: Page): Promise<number> => parseFloat((await page.getByTestId('camera-rms').textContent())!);

/** How many pixels of what is drawn over the picture are the light and the dark of a card, near a place of the frame. */
async function cardAt(page: Page, x: number, y: number): Promise<{ light: number; dark: number }> {
  const at = await stagePoint(page, x, y);
  return overlay(page).evaluate((canvas, p) => {
    const box = canvas.getBoundingClientRect();
    const c = canvas as HTMLCanvasElement;
    const k = c.width / box.width;
    const { data } = c.getContext('2d')!.getImageData((p.x - box.left) * k - 40, (p.y - box.top) * k - 40, 80, 80);
    let [light, dark] = [0, 0];
    for (let i = 0; i < data.length; i += 4) {
      if (data[i + 3]! < 150) continue;
      if (data[i]! > 200 && data[i + 2]! > 190) light++;
      else if (data[i]! < 60 && data[i + 1]! < 60) dark++;
    }
    return { light, dark };
  }, at);
}

test('SG050: tracks found on straight pixels, solved, pruned, laid on its ground, tried by cards, taken along and brought back', async ({
  page,
}) => {
  test.setTimeout(300_000);
  await openShot(page, 'sg050');
  await newCamera(page);
  // It is found where the lens has been taken out, and takes the focal length of that.
  await expect(controls(page)).toContainText('slipway ▸ Straighten');
  await expect(controls(page).getByRole('combobox', { name: 'Focal length' })).toHaveText('Of the lens');
  await setNumber(page, 'Tracks a frame', 90);
  await controls(page).getByRole('button', { name: 'Find tracks' }).click();
  await expect(page.getByTestId('track-count')).toContainText(/\d{3} found/, { timeout: 120_000 });
  await controls(page).getByRole('button', { name: 'Solve', exact: true }).click();
  await expect(solved(page)).toBeVisible({ timeout: 120_000 });
  await expect(page.getByTestId('solved')).toContainText('A moving camera');
  const first = await rms(page);
  expect(first).toBeLessThan(0.5);
  await expect(page.getByTestId('camera-slide')).not.toHaveClass(/warn-text/);

  // What the panel suggests goes, and what it expected of that is about what comes.
  const prune = controls(page).getByRole('button', { name: /^Prune/ });
  if (await prune.count()) {
    const expected = parseFloat(
      (await controls(page)
        .getByText(/^about .* px then$/)
        .textContent())!.slice(6),
    );
    await prune.click();
    await expect(async () => expect(await rms(page)).toBeLessThan(first)).toPass({ timeout: 60_000 });
    await expect(solved(page)).toBeVisible();
    await expect(controls(page).getByText(/px was expected/)).toBeVisible();
    expect(Math.abs((await rms(page)) / expected - 1)).toBeLessThan(0.25);
  }

  // Points of the ground are chosen around, and it is laid there.
  const choose = async (corners: readonly (readonly [number, number])[]): Promise<void> => {
    await controls(page).getByRole('button', { name: 'Choose around' }).click();
    for (const [x, y] of corners) {
      const at = await stagePoint(page, x, y);
      await page.mouse.click(at.x, at.y);
    }
    await page.keyboard.press('Enter');
  };
  await choose([
    [380, 420],
    [560, 395],
    [760, 500],
    [400, 530],
  ]);
  await expect(controls(page).getByText(/^\d+ chosen$/)).toBeVisible();
  await controls(page).getByRole('button', { name: 'Ground', exact: true }).click();
  await controls(page)
    .getByRole('button', { name: /^Group these/ })
    .click();
  await expect(page.getByTestId('group Group 1')).toContainText(/middle at -?0\.\d+, -?0\.\d+, -?0\.\d+/);
  await expect(page.getByTestId('group Group 1')).toContainText('flat to');
  await controls(page).getByRole('button', { name: 'Choose none' }).click();

  // A card at the origin lies on the slipway, and others stand on points: they are seen.
  await controls(page).getByRole('button', { name: 'On the ground' }).click();
  await controls(page).getByRole('button', { name: 'Place 6' }).click();
  await expect(page.getByTestId('card')).toHaveCount(7);
  await settled(page);
  const drawn = async (): Promise<number> => {
    let most = 0;
    for (const x of [430, 490, 550, 610])
      for (const y of [430, 470]) most = Math.max(most, Math.min(...Object.values(await cardAt(page, x, y))));
    return most;
  };
  expect(await drawn()).toBeGreaterThan(60);

  // Out: both files are whole, and the camera comes back from one of them.
  const glb = await saved(page, 'Save .glb');
  const report = await validateBytes(new Uint8Array(glb));
  expect([report.issues.numErrors, report.issues.numWarnings]).toEqual([0, 0]);
  expect((await saved(page, 'Save .usda')).toString()).toMatch(/^#usda 1\.0[\s\S]*startTimeCode = 1\n\s+endTimeCode = 96/);
  expect((await saved(page, 'Save points .csv')).toString().split('\n').length).toBeGreaterThan(60);
  await page.getByLabel('Readings from a file').setInputFiles({ name: 'dolly.glb', mimeType: 'model/gltf-binary', buffer: glb });
  await page.getByRole('dialog').getByRole('button', { name: 'Bring in' }).click();
  await menusGone(page);
  await expect(page.getByRole('region', { name: 'Readings' })).toContainText('96 frames, from a file');

  // Charts of the first one: by frame, by track, and where tracks are.
  await page.getByTestId('reading Camera 1').click();
  await page.getByRole('tab', { name: 'Readings' }).last().click();
  await expect(page.getByTestId('chart Error by frame, px')).toBeVisible();
  await expect(page.getByTestId('chart Slide of a card, px')).toBeVisible();
  await expect(page.getByTestId('coverage')).toContainText(/fewest \d\d/);
});

test('what cannot be found is told, with what to do, and nothing is lost', async ({ page }) => {
  await newShot(page);
  await bringIn(
    page,
    [1, 2].map((f) => join(process.cwd(), `demo/media/sg050/slipway.000${f}.jpg`)),
  );
  await drag(page, page.getByTestId('source slipway'), page.getByTestId('board'));
  await settled(page);
  await newCamera(page);
  await controls(page).getByRole('button', { name: 'Find tracks' }).click();
  await expect(page.getByText(/no tracks were found: there is too little detail, or it lasts too short/)).toBeVisible({ timeout: 60_000 });
  await setNumber(page, 'Shortest, frames', 2);
  await controls(page).getByRole('button', { name: 'Find tracks' }).click();
  await expect(page.getByTestId('track-count')).toContainText('found', { timeout: 60_000 });
  await controls(page).getByRole('button', { name: 'Solve', exact: true }).click();
  await expect(page.getByText(/tracks on two frames only, and a camera needs three or more/)).toBeVisible({ timeout: 60_000 });
  // A matte that covers everything: the plate's own alpha.
  await controls(page)
    .getByRole('button', { name: /^Leave out/ })
    .click();
  await page.getByRole('menuitem', { name: 'slipway', exact: true }).first().click();
  await menusGone(page);
  await controls(page).getByRole('button', { name: 'Find tracks again' }).click();
  await expect(page.getByText(/the mattes may cover everything/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByTestId('track-count')).toContainText('found');
});
