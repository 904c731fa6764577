import { readFile } from 'node:fs/promises';
import type { Page } from '@playwright/test';
import { readLesson } from '@/core/learn/lesson-file';
import { expect, test } from './fixtures';
import { addStep, exportZip, goTo, menusGone, openShot, setNumber, settled, shownAt, stagePoint, takePen } from './helpers';
import { decode } from 'fast-png';

const COAT = [
  [384, 180],
  [404, 104],
  [470, 70],
  [536, 104],
  [556, 200],
  [578, 276],
  [624, 268],
  [650, 250],
  [690, 386],
  [590, 408],
  [576, 538],
  [282, 538],
  [330, 330],
] as const;

/** How far he has moved on other frames than the one that he is drawn on, px. */
const MOVED = [
  [6, 1, 4],
  [18, 3, 1],
  [42, -6, 3],
] as const;

const dock = (page: Page): Promise<void> =>
  page
    .getByRole('tab', { name: /^Readings/ })
    .first()
    .click();
const controls = (page: Page) => page.getByRole('region', { name: 'Controls' });

/** Looks at a lane's start. */
async function seeStart(page: Page, lane: string): Promise<void> {
  await page.getByTestId(`lane ${lane}`).locator('.chip').first().dblclick();
  await settled(page);
}

async function newLesson(page: Page, name: string): Promise<void> {
  await dock(page);
  await page.getByRole('region', { name: 'Readings' }).getByRole('button', { name: 'New', exact: true }).click();
  await page.getByRole('menuitem', { name: /A lesson/ }).click();
  await menusGone(page);
  await expect(page.getByTestId(`reading ${name}`)).toBeVisible();
}

async function target(page: Page, lane: RegExp): Promise<void> {
  await controls(page).locator('.row', { hasText: 'Target of the next' }).locator('.feedbox').click();
  await page.getByRole('menuitem', { name: lane }).first().click();
  await menusGone(page);
}

async function showFrame(page: Page, frame: number): Promise<void> {
  await goTo(page, frame);
  await controls(page)
    .getByRole('button', { name: `Show frame ${frame}` })
    .click();
  await expect(page.getByTestId(`example ${frame}`)).toBeVisible();
}

async function train(page: Page): Promise<void> {
  await controls(page)
    .getByRole('button', { name: /^(Train|Go on training)$/ })
    .click();
}
const stepsOf = async (page: Page): Promise<number> =>
  Number(/(\d+) steps/.exec((await controls(page).getByTestId('training-state').textContent({ timeout: 10_000 })) ?? '')?.[1]);

/** Lets it train until so many steps are made in all, and pauses it: how long that takes is the machine's affair. */
async function pauseAt(page: Page, steps: number): Promise<void> {
  await expect(async () => expect(await stepsOf(page)).toBeGreaterThanOrEqual(steps)).toPass({ timeout: 120_000 });
  await controls(page).getByRole('button', { name: 'Pause' }).click();
  await expect(controls(page).getByRole('button', { name: 'Go on training' })).toBeVisible();
}

test('a coat of the screen’s own hue is taught from drawn frames, paused, gone on with after a reload, and finished with hair from a key', async ({
  page,
}) => {
  test.setTimeout(400_000);
  await openShot(page, 'sg010-coat');
  // The finished example goes out of the way: the lane is the plate again.
  const lane = page.getByTestId('lane coat');
  for (let left = 9; left > 0; left--) {
    await lane.locator('.chip').nth(1).click();
    await page.keyboard.press('Delete');
    await expect(lane.locator('.chip')).toHaveCount(left);
  }
  // Four frames are drawn by hand, on a lane of its own: an outline, put right on three more.
  await seeStart(page, 'coat');
  await goTo(page, 24);
  await settled(page, 24);
  await lane.locator('.lane-head').getByRole('button', { name: /Menu/ }).click();
  await page.getByRole('menuitem', { name: 'New lane from the start of this one' }).first().click();
  await menusGone(page);
  await addStep(page, 'Roto');
  await takePen(page);
  for (const [x, y] of [...COAT, COAT[0]]) {
    const p = await stagePoint(page, x, y);
    await page.mouse.click(p.x, p.y);
  }
  await expect(page.getByRole('listitem', { name: 'Shape 1' })).toBeVisible();
  await page.keyboard.press('Escape');
  for (const [f, x, y] of MOVED) {
    await goTo(page, f);
    await settled(page, f);
    await page.getByRole('listitem', { name: 'Shape 1' }).click();
    await page.keyboard.press('Control+a');
    for (let i = 0; i < Math.abs(x); i++) await page.keyboard.press(x < 0 ? 'ArrowLeft' : 'ArrowRight');
    for (let i = 0; i < y; i++) await page.keyboard.press('ArrowDown');
  }

  await seeStart(page, 'coat');
  await newLesson(page, 'Lesson 1');
  await expect(controls(page).getByRole('button', { name: 'Train', exact: true })).toBeDisabled();
  await target(page, /^coat tap/);
  for (const f of [24, 6, 18, 42]) await showFrame(page, f);
  await train(page);
  // While it trains what it makes of its frames stands beside what is right, and the stage shows it.
  await expect(page.getByTestId('lesson-sheet').locator('canvas')).toHaveCount(18, { timeout: 90_000 });
  await controls(page).getByRole('combobox', { name: 'On the stage' }).click();
  await page.getByRole('option', { name: 'What it makes of it' }).click();
  await menusGone(page);
  await pauseAt(page, 60);
  const first = await stepsOf(page);

  // After a reload it goes on from there.
  await expect(page.getByText('Saved')).toBeVisible();
  await page.reload();
  await settled(page);
  await dock(page);
  await page.getByTestId('reading Lesson 1').click();
  expect(await stepsOf(page)).toBe(first);
  await train(page);
  await pauseAt(page, first + 120);

  // Into the lane, and finished.
  await controls(page).getByRole('button', { name: 'Put it in the lane' }).click();
  await controls(page).getByRole('button', { name: 'Finish the matte' }).click();
  await expect(page.getByTestId('lane coat hair 2')).toBeVisible();
  await expect(lane.locator('.chip')).toHaveCount(10);
  await page.getByTestId('lane harbour').locator('.lane-head').click();
  const files = await exportZip(page, 'PNG, 16 bit', { first: 33, last: 33 });
  const { data, channels } = decode(files['out.0033.png']!);
  const at = (x: number, y: number, c: number): number => data[(y * 960 + x) * channels + c]! / 65535;
  // The coat is there and still green; the screen has given way to the night.
  expect(at(460, 430, 1)).toBeGreaterThan(1.4 * at(460, 430, 0));
  expect(at(900, 200, 1)).toBeLessThan(1.4 * at(900, 200, 2));
  expect(at(60, 60, 1)).toBeLessThan(0.25);
});

test('a lesson goes out as a file and comes into another shot; what cannot be taught or read is told in words', async ({ page }) => {
  test.setTimeout(200_000);
  await openShot(page, 'sg010-coat');
  await dock(page);
  await page.getByTestId('reading Coat').click();
  const download = page.waitForEvent('download');
  await controls(page).getByRole('button', { name: 'Save as file' }).click();
  const bytes = await readFile(await (await download).path());
  expect(readLesson(bytes, 'Coat.lesson').note).toMatchObject({ name: 'Coat', teaches: 'matte' });

  await page.goto('/');
  await page.getByTestId('shot SG010 keeper').first().locator('.open').first().click();
  await settled(page);
  await seeStart(page, 'keeper');
  await newLesson(page, 'Lesson 1');
  const file = page.getByLabel('A lesson from a file');
  await file.setInputFiles({ name: 'broken.lesson', mimeType: '', buffer: Buffer.from(bytes.subarray(0, 900)) });
  await expect(page.getByText(/broken.lesson: it is cut off/)).toBeVisible();
  await file.setInputFiles({ name: 'Coat.lesson', mimeType: '', buffer: bytes });
  await expect(controls(page).getByTestId('training-state')).toContainText('6002 steps');
  // The lane itself as target: it has no matte.
  await target(page, /^harbour/);
  await showFrame(page, 24);
  await controls(page).getByRole('button', { name: 'Go on training' }).click();
  await expect(page.getByText(/targets are full everywhere/)).toBeVisible({ timeout: 30_000 });
  // What it learnt elsewhere makes a matte here.
  await controls(page).getByRole('button', { name: 'Put it in the lane' }).click();
  await page.getByRole('button', { name: 'Alpha: the matte (A)' }).click();
  await settled(page);
  await expect(async () => expect((await shownAt(page, 470, 250))[0]).toBeGreaterThan(200)).toPass({ timeout: 30_000 });
  await expect(async () => expect((await shownAt(page, 800, 120))[0]).toBeLessThan(60)).toPass({ timeout: 30_000 });
});

test('SG040’s box and mark are learnt away from three frames that were cleaned', async ({ page }) => {
  test.setTimeout(300_000);
  await openShot(page, 'sg040');
  await goTo(page, 17);
  await seeStart(page, 'wall');
  await settled(page, 17);
  // Where the box hangs on this frame, and bare wall beside it.
  const [box, bare] = [await shownAt(page, 690, 200), await shownAt(page, 840, 200)];
  await newLesson(page, 'Lesson 1');
  await controls(page).getByRole('combobox', { name: 'It learns' }).click();
  await page.getByRole('option', { name: 'A change' }).click();
  await menusGone(page);
  await target(page, /^wall$/);
  for (const f of [8, 25, 41]) await showFrame(page, f);
  // It ends by itself when its minutes are over, and is told to go on.
  await setNumber(page, 'Minutes', 0.1);
  await train(page);
  await expect(controls(page).getByRole('button', { name: 'Go on training' })).toBeVisible({ timeout: 100_000 });
  await setNumber(page, 'Minutes', 5);
  await train(page);
  await pauseAt(page, 80);
  await controls(page).getByRole('button', { name: 'Put it in the lane' }).click();
  await goTo(page, 17);
  await settled(page, 17);
  await expect(async () => {
    const now = await shownAt(page, 690, 200);
    expect(Math.abs(now[0]! - box[0]!) + Math.abs(now[1]! - box[1]!) + Math.abs(now[2]! - box[2]!)).toBeGreaterThan(12);
  }).toPass({ timeout: 30_000 });
  const beside = await shownAt(page, 840, 200);
  beside.forEach((v, i) => expect(Math.abs(v - bare[i]!)).toBeLessThan(8));
});
