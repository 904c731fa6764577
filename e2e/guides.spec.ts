import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, exportZip, menusGone, newShot, openLibrary, setNumber, settled, shownAt, stagePoint } from './helpers';

const media = join(process.cwd(), 'demo/media/sg010');
const plates = [22, 23, 24].map((f) => join(media, `keeper.${String(f).padStart(4, '0')}.jpg`));
const harbour = join(media, 'harbour.png');

/** The harbour's night where the screen was, the coat where the keeper is. */
async function expectKeyed(page: Page): Promise<void> {
  await expect(async () => {
    const [r, g, b] = await shownAt(page, 860, 60);
    expect(g! - b!).toBeLessThan(10);
    expect(r!).toBeLessThan(90);
  }).toPass({ timeout: 60_000 });
  const coat = await shownAt(page, 470, 470);
  expect(Math.max(...coat)).toBeGreaterThan(20);
}

for (const order of [
  ['keeper', 'harbour'],
  ['harbour', 'keeper'],
] as const) {
  test(`first key, ${order[0]} dropped first: seven actions from a new shot to a keyed composite, fifteen to a finished one`, async ({
    page,
  }) => {
    let actions = 0;
    const act = async (what: Promise<unknown>): Promise<void> => {
      await what;
      actions++;
    };
    await openLibrary(page);
    await act(page.getByRole('button', { name: 'New shot', exact: true }).click());
    await expect(page.getByText('Drop a folder of frames')).toBeVisible();
    await act(bringIn(page, [...plates, harbour]));
    // What was brought in is seen before there is any lane.
    await expect(page.getByRole('button', { name: /^source (keeper|harbour) ×/ })).toBeVisible();
    for (const name of order) {
      await act(drag(page, page.getByTestId(`source ${name}`), page.getByTestId('board')));
      await expect(page.getByTestId(`lane ${name}`)).toBeVisible();
    }
    // The lane that was made last is selected, whichever that is: the screen is found in the plate.
    await act(page.keyboard.press('k'));
    const dialog = page.getByRole('dialog', { name: 'Key the screen of keeper' });
    await expect(dialog.getByTestId('found-screen')).toBeVisible({ timeout: 60_000 });
    await expect(dialog.getByRole('combobox', { name: 'Background' })).toHaveText('harbour');
    await act(dialog.getByRole('button', { name: 'Key it' }).click());
    await menusGone(page);
    await expectKeyed(page);
    expect(actions).toBeLessThanOrEqual(7);

    // Graded, placed by its handle, exported.
    await act(addStep(page, 'Grade'));
    await act(setNumber(page, 'Exposure (stops)', -0.5));
    await act(addStep(page, 'Transform'));
    await settled(page);
    await act(drag(page, await stagePoint(page, 200, 440), await stagePoint(page, 240, 440)));
    const files = await exportZip(page, 'PNG, 8 bit');
    actions += 4; // Export, the kind of files and its entry, Export zip.
    expect(Object.keys(files)).toHaveLength(3);
    expect(actions).toBeLessThanOrEqual(15);
  });
}

test('looking before using: a source by a click, a lane alone, a filmstrip of the matte', async ({ page }) => {
  await newShot(page);
  await bringIn(page, [...plates, harbour]);
  await page.getByTestId('source harbour').click();
  await settled(page);
  const night = await shownAt(page, 860, 60);
  await page.getByTestId('source keeper').click();
  await settled(page);
  const green = await shownAt(page, 860, 60);
  expect(green[1]! - Math.max(green[0]!, green[2]!)).toBeGreaterThan(40);
  expect(night[1]! - Math.max(night[0]!, night[2]!)).toBeLessThan(20);
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await drag(page, page.getByTestId('source keeper'), page.getByTestId('board'));
  // The result alone is what it is before anything is joined to it.
  await page.getByRole('button', { name: 'Menu of lane harbour' }).click();
  await page.getByRole('menuitem', { name: /^Solo/ }).click();
  await menusGone(page);
  await expect(async () => {
    const shown = await shownAt(page, 860, 60);
    shown.forEach((v, i) => expect(Math.abs(v - night[i]!)).toBeLessThan(8));
  }).toPass({ timeout: 20_000 });
  await page.getByRole('button', { name: /^solo: harbour/ }).click();
  await settled(page);

  // The strip shows the frames as the stage does: alpha of a plate that covers everything is white.
  await page.keyboard.press('Shift+F');
  const still = page.getByRole('button', { name: 'Go to frame 22' }).locator('canvas');
  const middle = () =>
    still.evaluate((c: HTMLCanvasElement) => [
      ...c
        .getContext('2d')!
        .getImageData(c.width / 2, c.height / 2, 1, 1)
        .data.slice(0, 3),
    ]);
  await page.keyboard.press('a');
  await expect.poll(middle).toEqual([255, 255, 255]);
  await page.keyboard.press('a');
  await expect.poll(middle).not.toEqual([255, 255, 255]);
});

test('steps that are chosen together are dragged together', async ({ page }) => {
  await newShot(page);
  await bringIn(page, [harbour]);
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  for (const title of ['Grade', 'Blur', 'Invert']) await addStep(page, title);
  await page.getByTestId('chip Grade').click();
  await page.getByTestId('chip Blur').click({ modifiers: ['Shift'] });
  const end = (await page.getByTestId('chip Invert').boundingBox())!;
  await drag(page, page.getByTestId('chip Grade'), { x: end.x + end.width + 6, y: end.y + end.height / 2 });
  await expect(page.getByTestId('lane harbour').locator('.chip:not(.start)')).toHaveText(['Invert', 'Grade', 'Blur']);
  await expect(page.locator('.chip.selected')).toHaveText(['Grade', 'Blur']);
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('lane harbour').locator('.chip:not(.start)')).toHaveText(['Grade', 'Blur', 'Invert']);
});
