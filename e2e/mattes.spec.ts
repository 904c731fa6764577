import { join } from 'node:path';
import sharp from 'sharp';
import { expect, test } from './fixtures';
import {
  addStep,
  bringIn,
  drag,
  expectShown,
  exportZip,
  goTo,
  menusGone,
  newShot,
  openShot,
  settled,
  shownAt,
  stagePoint,
} from './helpers';

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

test('a still is keyed, looked at, reported and taken out like a sequence', async ({ page }) => {
  await newShot(page);
  await bringIn(page, plates.slice(0, 1));
  await drag(page, page.getByTestId(/^source keeper/), page.getByTestId('board'));
  await settled(page);
  await page.keyboard.press('k');
  await expect(page.getByTestId('found-screen')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Key it' }).click();
  await expect(page.getByTestId('chip Fill the rim')).toBeVisible();
  await page.keyboard.press('a');
  // Coat solid, screen and stand empty, cape between.
  await expectShown(page, 470, 470, [255, 255, 255], 2);
  await expectShown(page, 860, 60, [0, 0, 0], 2);
  await expectShown(page, 92, 300, [0, 0, 0], 2);
  const cape = (await shownAt(page, 312, 450))[0]!;
  expect(cape).toBeGreaterThan(40);
  expect(cape).toBeLessThan(160);
  await page.keyboard.press('a');
  await page.getByRole('tab', { name: /Checks/ }).click();
  await page.getByRole('button', { name: /^Measure/ }).click();
  await expect(page.getByRole('button', { name: 'Measure again' })).toBeVisible({ timeout: 60_000 });
  const files = await exportZip(page, 'PNG, 8 bit', { first: 1, last: 1 });
  expect(Object.keys(files)).toHaveLength(1);
  const { data, info } = await sharp(Buffer.from(Object.values(files)[0]!))
    .raw()
    .toBuffer({ resolveWithObject: true });
  const alpha = (x: number, y: number): number => data[info.channels * (y * info.width + x) + 3]!;
  expect([info.channels, alpha(470, 470), alpha(860, 60)]).toEqual([4, 255, 0]);
  expect(Math.abs(alpha(312, 450) - cape)).toBeLessThanOrEqual(2);
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

test('a region key from samples, marked on several frames, joins the key; the report tells where it is worst', async ({ page }) => {
  await openShot(page, 'sg010');
  await page.getByRole('button', { name: 'Menu of lane keeper core', exact: true }).click();
  await page.getByRole('menuitem', { name: 'New lane from the start of this one' }).click();
  await page.getByTestId('lane keeper core tap').getByText('keeper core tap', { exact: true }).first().click();
  await addStep(page, 'Range key');
  await page.keyboard.press('v');
  await page.keyboard.press('a');
  const controls = page.getByRole('region', { name: 'Controls' });
  await controls.getByRole('button', { name: 'Mark screen' }).click();
  await drag(page, await stagePoint(page, 780, 440), await stagePoint(page, 880, 500));
  await expect(page.getByTestId('sample screen 24')).toBeVisible();
  await drag(page, await stagePoint(page, 300, 60), await stagePoint(page, 380, 120));
  await goTo(page, 40);
  await drag(page, await stagePoint(page, 620, 100), await stagePoint(page, 700, 160));
  await expect(page.getByTestId('sample screen 40')).toBeVisible();
  await controls.getByRole('button', { name: 'Mark subject' }).click();
  await drag(page, await stagePoint(page, 430, 430), await stagePoint(page, 500, 500));
  await drag(page, await stagePoint(page, 430, 150), await stagePoint(page, 480, 170));
  await page.keyboard.press('Escape');
  // The screen is empty, the coat solid.
  await expectShown(page, 840, 300, [0, 0, 0], 8);
  await expectShown(page, 460, 470, [255, 255, 255], 8);
  await page.getByRole('button', { name: 'Remove the screen sample of frame 40' }).click();
  await expect(page.getByTestId('sample screen 40')).toHaveCount(0);

  await page.getByRole('tab', { name: /Checks/ }).click();
  await page.getByRole('button', { name: 'Measure every frame' }).click();
  await expect(page.getByRole('button', { name: 'Measure again' })).toBeVisible({ timeout: 90_000 });
  const worst = page.getByRole('button', { name: /^worst/ }).and(page.getByTitle(/^Screen colour left at the edge/));
  const frame = /at (\d+)/.exec((await worst.textContent())!)![1]!;
  await worst.click();
  await expect(page.getByRole('textbox', { name: 'Frame', exact: true })).toHaveValue(frame.padStart(4, '0'));
});

test('a plate is keyed, its cape brushed, spill painted, a region keyed, the report read, and what goes out is what was seen', async ({
  page,
}) => {
  await newShot(page);
  await bringIn(page, plates.slice(0, 2));
  await bringIn(page, [join(media, 'harbour.png')]);
  const board = page.getByTestId('board');
  await drag(page, page.getByTestId('source harbour'), board);
  await drag(page, page.getByTestId('source keeper'), board);
  await settled(page);
  await page.getByTestId('lane keeper').getByText('keeper', { exact: true }).first().click();
  await page.keyboard.press('k');
  await expect(page.getByTestId('found-screen')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Key it' }).click();
  await expect(page.getByTestId('lane keeper core')).toBeVisible();
  const sum = async (x: number, y: number): Promise<number> => (await shownAt(page, x, y)).reduce((s, v) => s + v, 0);
  await expect(async () => expect(await sum(860, 60)).toBeLessThan(200)).toPass({ timeout: 60_000 });
  const controls = page.getByRole('region', { name: 'Controls' });

  // Coverage is found anew where the cape is brushed; the coat beside it stays.
  await page.getByTestId('chip Edge detail').click();
  await page.keyboard.press('v');
  await page.keyboard.press('a');
  await settled(page);
  const coat = await sum(470, 470);
  await controls.getByRole('button', { name: 'Brush on the stage' }).click();
  await drag(page, await stagePoint(page, 320, 400), await stagePoint(page, 300, 520));
  await expect(page.getByTestId('stroke')).toHaveCount(1);
  await settled(page);
  const cape = await sum(312, 450);
  expect(cape).toBeGreaterThan(40);
  expect(cape).toBeLessThan(560);
  expect(Math.abs((await sum(470, 470)) - coat)).toBeLessThan(6);
  await page.keyboard.press('Escape');
  await page.keyboard.press('a');
  await page.keyboard.press('v');

  // Colour by brush: red enters, lightness stays; the eraser takes it away again.
  await page.getByTestId('chip Despill').click();
  await addStep(page, 'Paint');
  await settled(page);
  const before = await shownAt(page, 470, 450);
  const light = (c: number[]): number => c[0]! * 0.2126 + c[1]! * 0.7152 + c[2]! * 0.0722;
  await controls.getByRole('button', { name: 'Brush on the stage' }).click();
  await controls.getByRole('button', { name: 'Tint' }).click();
  await page.getByLabel('Brush colour').fill('#e03030');
  await drag(page, await stagePoint(page, 440, 450), await stagePoint(page, 500, 450));
  await expect(async () => {
    const now = await shownAt(page, 470, 450);
    expect(now[0]! - now[1]!).toBeGreaterThan(before[0]! - before[1]! + 40);
    expect(Math.abs(light(now) - light(before))).toBeLessThan(40);
  }).toPass({ timeout: 30_000 });
  const painted = (await shownAt(page, 470, 450)) as [number, number, number];
  await controls.getByRole('button', { name: 'Erase' }).click();
  await drag(page, await stagePoint(page, 440, 450), await stagePoint(page, 500, 450));
  await expectShown(page, 470, 450, before as [number, number, number], 4);
  await page.keyboard.press('Control+z');
  await expectShown(page, 470, 450, painted, 4);
  await page.keyboard.press('Escape');

  // A region is a mask: another matte counts in it, and nowhere else.
  await page.getByRole('button', { name: 'Menu of lane keeper core', exact: true }).click();
  await page.getByRole('menuitem', { name: 'New lane from the start of this one' }).click();
  await page.getByTestId('lane keeper core tap').getByText('keeper core tap', { exact: true }).first().click();
  await addStep(page, 'Paint');
  await controls.getByRole('combobox', { name: 'Gives' }).click();
  await page.getByRole('option', { name: /^A matte/ }).click();
  await controls.getByRole('button', { name: 'Brush on the stage' }).click();
  await controls.getByRole('combobox', { name: 'Frames of new strokes' }).click();
  await page.getByRole('option', { name: 'Every frame' }).click();
  await menusGone(page);
  await drag(page, await stagePoint(page, 90, 280), await stagePoint(page, 90, 320));
  await expect(page.getByTestId('stroke')).toHaveCount(1);
  await page.keyboard.press('Escape');
  await page.getByTestId('chip Edge detail').click();
  await addStep(page, 'Combine mattes');
  const choose = async (field: RegExp, lane: RegExp): Promise<void> => {
    await controls.getByRole('button', { name: field }).click();
    await page.getByRole('menuitem', { name: lane }).click();
  };
  await choose(/^Other: /, /^keeper screen$/);
  await choose(/^Mask: /, /^keeper core tap$/);
  await page.getByTestId('chip Combine mattes').click();
  await page.keyboard.press('v');
  await page.keyboard.press('a');
  await expectShown(page, 90, 300, [255, 255, 255], 4);
  await expectShown(page, 90, 420, [0, 0, 0], 4);
  await page.keyboard.press('a');
  await page.keyboard.press('v');
  await page.keyboard.press('q');

  await page.getByRole('tab', { name: /Checks/ }).click();
  await page.getByRole('button', { name: 'Measure every frame' }).click();
  await expect(page.getByRole('button', { name: 'Measure again' })).toBeVisible({ timeout: 90_000 });

  await settled(page);
  const files = await exportZip(page, 'PNG, 8 bit');
  const name = Object.keys(files).sort().at(-1);
  const { data, info } = await sharp(Buffer.from(files[name!]!))
    .removeAlpha()
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  expect([info.width, info.height]).toEqual([960, 540]);
  for (const [x, y] of [
    [470, 450],
    [860, 60],
    [430, 490],
    [90, 300],
  ] as const) {
    const shown = await shownAt(page, x, y);
    [0, 1, 2].forEach((c) => expect(Math.abs(data[3 * (y * 960 + x) + c]! - shown[c]!), `at ${x}, ${y}`).toBeLessThanOrEqual(12));
  }
});

test('a key is looked at over another lane, over three backings at once, and over a colour', async ({ page }) => {
  await openShot(page, 'sg010');
  await page.getByTestId('chip Screen key').click();
  await page.keyboard.press('v');
  await settled(page);
  const choose = async (option: RegExp): Promise<void> => {
    await page.getByRole('button', { name: /What lies behind/ }).click();
    await page.getByRole('menuitem', { name: option }).click();
  };
  await choose(/^three at once/);
  await expectShown(page, 100, 300, [0, 0, 0], 4);
  await expectShown(page, 480, 30, [255, 255, 255], 4);
  await expectShown(page, 860, 300, [118, 118, 118], 4);
  await choose(/^keeper screen$/);
  await expect(async () => {
    const [r, g, b] = await shownAt(page, 860, 300);
    expect(g! - Math.max(r!, b!)).toBeGreaterThan(30);
  }).toPass();
  await choose(/^a colour$/);
  await page.getByLabel('Backing colour').fill('#ff0000');
  await expectShown(page, 860, 300, [255, 0, 0], 4);
});
