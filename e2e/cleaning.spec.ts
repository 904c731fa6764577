import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, goTo, menusGone, newShot, setNumber, settled, shownAt, stagePoint } from './helpers';

const frames = (shot: string, name: string, last: number): string[] =>
  Array.from({ length: last }, (_, i) => join(process.cwd(), `demo/media/${shot}/${name}.${String(i + 1).padStart(4, '0')}.jpg`));

async function open(page: Page, shot: string, name: string, last: number): Promise<void> {
  await newShot(page);
  await bringIn(page, frames(shot, name, last));
  await drag(page, page.getByTestId(`source ${name}`), page.getByTestId('board'));
  await settled(page);
  await goToAndSee(page, 1);
}
const goToAndSee = async (page: Page, frame: number): Promise<void> => {
  await goTo(page, frame);
  await settled(page, frame);
};
const click = async (page: Page, x: number, y: number, options: Parameters<Page['mouse']['click']>[2] = {}): Promise<void> => {
  const p = await stagePoint(page, x, y);
  await page.mouse.click(p.x, p.y, options);
};
const around = async (page: Page, corners: readonly (readonly [number, number])[]): Promise<void> => {
  for (const [x, y] of corners) await click(page, x, y);
  await page.keyboard.press('Enter');
};
const square = (x: number, y: number, d: number): [number, number][] => [
  [x - d, y - d],
  [x + d, y - d],
  [x + d, y + d],
  [x - d, y + d],
];
const choose = async (page: Page, box: string, option: string | RegExp): Promise<void> => {
  await page.getByRole('combobox', { name: box }).click();
  await page.getByRole('option', { name: option }).click();
};
/** Of the yellow label on the box: how yellow. */
const yellow = async (page: Page, x: number, y: number): Promise<number> => {
  const [r, , b] = await shownAt(page, x, y);
  return r! - b!;
};
const jobsDone = async (page: Page): Promise<void> => {
  await expect(page.getByText(/frames is in Gain|frames are in Gain|is in Gain/).first()).toBeVisible({ timeout: 120_000 });
};

test('a box goes from a wall by one command: reading, filled frame, patch, light and grain, seen on other frames; undone to the last pixel', async ({
  page,
}) => {
  await open(page, 'sg040', 'wall', 5);
  const before = await shownAt(page, 680, 176);
  expect(await yellow(page, 680, 176)).toBeGreaterThan(60);
  await page.keyboard.press('x');
  await around(page, [
    [644, 143],
    [750, 145],
    [747, 290],
    [642, 290],
  ]);
  const dialog = page.getByRole('dialog', { name: 'Remove this' });
  await expect(dialog.getByText(/One outline on frame 1/)).toBeVisible();
  await dialog.getByRole('textbox', { name: 'Name' }).fill('Box');
  await dialog.getByRole('button', { name: 'Remove it' }).click();
  await jobsDone(page);
  await expect(page.getByTestId('lane Box')).toBeVisible();
  await expect(page.getByTestId('lane Box clean')).toBeVisible();
  await expect(page.getByText('5 frames in Curves')).toBeVisible();
  await expect(async () => expect(await yellow(page, 680, 176)).toBeLessThan(30)).toPass({ timeout: 60_000 });
  await goToAndSee(page, 5);
  expect(await yellow(page, 680, 169)).toBeLessThan(30);
  // Its light is a curve that can be evened out.
  await page.getByText('5 frames in Curves').click();
  await expect(page.getByText(/Gain/).first()).toBeVisible();
  await page.getByRole('tab', { name: 'Lanes' }).click();
  // What was made is taken back, act by act: the light, the measuring, the lanes.
  await goToAndSee(page, 1);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect(page.getByTestId('lane Box')).toHaveCount(0);
  await settled(page, 1);
  await expect(async () => expect(await shownAt(page, 680, 176)).toEqual(before)).toPass({ timeout: 20_000 });
});

test('marks go from a panel together, behind nothing, by the light of their edges', async ({ page }) => {
  await open(page, 'sg020', 'table', 4);
  const dark = (await shownAt(page, 360, 153))[1]!;
  await page.keyboard.press('x');
  await around(page, square(360, 153, 11));
  const dialog = page.getByRole('dialog', { name: 'Remove this' });
  await dialog.getByRole('button', { name: 'Draw another' }).click();
  await around(page, square(649, 163, 11));
  await expect(dialog.getByText(/2 outlines on frame 1/)).toBeVisible();
  await choose(page, 'In its place', 'The light of its edge');
  await dialog.getByRole('button', { name: 'Remove it' }).click();
  await jobsDone(page);
  for (const frame of [1, 4]) {
    await goToAndSee(page, frame);
    const board = (await shownAt(page, 420, 200))[1]!;
    await expect(async () => {
      for (const [x, y] of [
        [frame === 1 ? 360 : 358, frame === 1 ? 153 : 147],
        [frame === 1 ? 649 : 650, frame === 1 ? 163 : 160],
      ] as const) {
        const here = (await shownAt(page, x, y))[1]!;
        expect(here).toBeGreaterThan(dark + 30);
        expect(Math.abs(here - board)).toBeLessThan(40);
      }
    }).toPass({ timeout: 60_000 });
  }
});

test('strokes that clone, heal and reveal follow the wall; one is changed later; another frame shows through', async ({ page }) => {
  await open(page, 'sg040', 'wall', 5);
  // The wall is followed, by a plane beside the mark.
  await page.keyboard.press('Shift+T');
  await around(page, [
    [330, 60],
    [620, 60],
    [620, 210],
    [330, 210],
  ]);
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByText('1–5 of 1–5')).toBeVisible({ timeout: 60_000 });
  await settled(page, 1);
  await page.getByTestId('lane wall').locator('.chip').first().click();
  await addStep(page, 'Paint');
  const controls = page.getByRole('region', { name: 'Controls' });
  await controls.getByRole('button', { name: 'Brush on the stage' }).click();
  const brushes = controls.getByRole('group', { name: 'Brushes' });
  await brushes.getByRole('button', { name: 'Colour' }).click();
  await page.getByLabel('Brush colour').fill('#20d040');
  await choose(page, 'New strokes follow', 'Plane 1');
  await choose(page, 'Frames of new strokes', 'Every frame');
  await menusGone(page);
  const green = async (x: number, y: number): Promise<number> => {
    const [r, g] = await shownAt(page, x, y);
    return g! - r!;
  };
  await drag(page, await stagePoint(page, 420, 120), await stagePoint(page, 480, 120));
  await expect(async () => expect(await green(450, 120)).toBeGreaterThan(80)).toPass();
  // It goes along: about seven pixels up on the fifth frame.
  await goToAndSee(page, 5);
  await expect(async () => expect(await green(450, 113)).toBeGreaterThan(80)).toPass();
  expect(await green(450, 138)).toBeLessThan(40);
  await goToAndSee(page, 1);

  // Cloned from the stroke: what an earlier one made can be copied.
  await brushes.getByRole('button', { name: 'Clone' }).click();
  const source = await stagePoint(page, 450, 120);
  await page.keyboard.down('Alt');
  await page.mouse.click(source.x, source.y);
  await page.keyboard.up('Alt');
  await drag(page, await stagePoint(page, 450, 260), await stagePoint(page, 451, 260));
  await expect(async () => expect(await green(450, 260)).toBeGreaterThan(80)).toPass();
  await expect(page.getByTestId('chosen stroke')).toContainText('Clone');

  // Healed by a larger brush: stone from beside in the light of its new surroundings, and the green is gone.
  await brushes.getByRole('button', { name: 'Heal' }).click();
  await setNumber(page, 'Brush size value', 76);
  const stone = await stagePoint(page, 590, 262);
  await page.keyboard.down('Alt');
  await page.mouse.click(stone.x, stone.y);
  await page.keyboard.up('Alt');
  await drag(page, await stagePoint(page, 450, 260), await stagePoint(page, 451, 260));
  await expect(async () => expect(await green(450, 260)).toBeLessThan(30)).toPass();
  await setNumber(page, 'Brush size value', 40);

  // A stroke that is chosen is changed: half as large, its rim is wall again.
  await page.getByRole('listitem', { name: 'Stroke 1' }).click();
  expect(await green(450, 132)).toBeGreaterThan(20);
  await setNumber(page, 'Stroke size value', 12);
  await expect(async () => expect(await green(450, 132)).toBeLessThan(15)).toPass();
  expect(await green(450, 120)).toBeGreaterThan(80);
  await page.keyboard.press('Control+z');
  await expect(async () => expect(await green(450, 132)).toBeGreaterThan(20)).toPass();

  // The company mark goes under stone from beside; erase takes it back.
  const blue = async (): Promise<number> => {
    const [r, , b] = await shownAt(page, 262, 210);
    return b! - r!;
  };
  const mark = await blue();
  expect(mark).toBeGreaterThan(10);
  await brushes.getByRole('button', { name: 'Colour' }).click();
  await brushes.getByRole('button', { name: 'Clone' }).click();
  const beside = await stagePoint(page, 362, 214);
  await page.keyboard.down('Alt');
  await page.mouse.click(beside.x, beside.y);
  await page.keyboard.up('Alt');
  await drag(page, await stagePoint(page, 250, 210), await stagePoint(page, 276, 210));
  await expect(async () => expect(await blue()).toBeLessThan(5)).toPass();
  await brushes.getByRole('button', { name: 'Erase' }).click();
  await drag(page, await stagePoint(page, 250, 210), await stagePoint(page, 276, 210));
  await expect(async () => expect(Math.abs((await blue()) - mark)).toBeLessThan(6)).toPass();

  // Another frame is revealed in place: the passer-by as he stands later.
  await choose(page, 'Frames of new strokes', 'This frame');
  await choose(page, 'New strokes follow', 'Nothing');
  await menusGone(page);
  await brushes.getByRole('button', { name: 'Reveal' }).click();
  await setNumber(page, 'Reveal of frame', 5);
  await page.keyboard.press('Escape');
  await goToAndSee(page, 5);
  const later = await shownAt(page, 268, 400);
  await goToAndSee(page, 1);
  await controls.getByRole('button', { name: 'Brush on the stage' }).click();
  await drag(page, await stagePoint(page, 268, 398), await stagePoint(page, 268, 402));
  await expect(async () => (await shownAt(page, 268, 400)).forEach((v, c) => expect(Math.abs(v - later[c]!)).toBeLessThan(6))).toPass();
});

test('a formula is told what is wrong with it at the character, and the last right one stays', async ({ page }) => {
  await open(page, 'sg040', 'wall', 2);
  await page.getByTestId('lane wall').locator('.chip').first().click();
  await addStep(page, 'Formula');
  const red = page.getByRole('textbox', { name: 'Red' });
  await red.fill('G * 0');
  await red.press('Enter');
  await expect(async () => expect((await shownAt(page, 480, 120))[0]!).toBe(0)).toPass();
  await red.fill('G * (R +');
  await red.press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: /character 9/ })).toBeVisible();
  await red.fill('Gg');
  await expect(page.getByRole('alert').filter({ hasText: /“Gg” is not known/ })).toBeVisible();
  expect((await shownAt(page, 480, 120))[0]!).toBe(0);
  await red.press('Escape');
  await expect(red).toHaveValue('G * 0');
});
