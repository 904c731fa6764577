import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Download, Page } from '@playwright/test';
import { decode } from 'fast-png';
import { expect, test } from './fixtures';
import { bringIn, drag, exportZip, goTo, menusGone, newShot, openShot, settled, shownAt, stagePoint } from './helpers';

const chart = [1, 2, 3].map((n) => join(process.cwd(), `demo/media/sg070/chart.000${n}.jpg`));
const controls = (page: Page) => page.getByRole('region', { name: 'Controls' });
const figures = (page: Page) => page.getByTestId('lens-figures');

async function newLens(page: Page): Promise<void> {
  await page.getByRole('tab', { name: 'Readings' }).first().click();
  await page.getByRole('button', { name: 'New', exact: true }).click();
  await page.getByRole('menuitem', { name: /^A lens/ }).click();
  await menusGone(page);
}

async function downloaded(page: Page, button: string): Promise<Buffer> {
  const download = page.waitForEvent('download');
  await controls(page).getByRole('button', { name: button, exact: true }).click();
  return readFile(await ((await download) as Download).path());
}

interface LensFile {
  model: string;
  rms: number;
  corners: { frame: number; column: number; row: number; x: number; y: number; used: boolean }[];
}
const lensFile = async (page: Page): Promise<LensFile> => JSON.parse((await downloaded(page, 'Save as JSON')).toString()) as LensFile;

test('a lens from its chart: measured, crossings thrown out, moved and put back, straightened as the proof, taken along', async ({
  page,
}) => {
  await newShot(page);
  await bringIn(page, chart);
  await drag(page, page.getByTestId('source chart'), page.getByTestId('board'));
  await settled(page);
  await goTo(page, 1);
  await newLens(page);
  await controls(page).getByRole('button', { name: 'frames 1–3' }).click();
  await expect(figures(page)).toContainText('Radial and decentring', { timeout: 60_000 });
  await expect(page.getByTestId('chart 1')).toContainText(/12\d of 128 crossings/);
  const before = await lensFile(page);
  expect(before.rms).toBeLessThan(0.05);

  // A crossing that is dragged away snaps back to its place, and is held by hand.
  const c = before.corners.find((k) => k.frame === 1 && k.column === 7 && k.row === 4)!;
  const here = await stagePoint(page, c.x, c.y);
  await drag(page, here, { x: here.x + 4, y: here.y + 3 });
  await expect(async () => {
    const now = (await lensFile(page)).corners.find((k) => k.frame === 1 && k.column === 7 && k.row === 4)!;
    expect(Math.hypot(now.x - c.x, now.y - c.y)).toBeLessThan(0.05);
  }).toPass({ timeout: 20_000 });

  // Clicked and deleted it no longer counts; undone it does.
  const used = async (): Promise<number> => (await lensFile(page)).corners.filter((k) => k.frame === 1 && k.used).length;
  const all = await used();
  await page.mouse.click(here.x, here.y);
  await page.keyboard.press('Delete');
  await expect(async () => expect(await used()).toBe(all - 1)).toPass({ timeout: 20_000 });
  await page.keyboard.press('Control+z');
  await expect(async () => expect(await used()).toBe(all)).toPass({ timeout: 20_000 });

  // Around four of them at once, and back again.
  const square = async (): Promise<void> => {
    for (const [dx, dy] of [
      [-12, -12],
      [92, -12],
      [92, 92],
      [-12, 92],
    ] as const) {
      const p = await stagePoint(page, c.x + dx, c.y + dy);
      await page.mouse.click(p.x, p.y);
    }
    await page.keyboard.press('Enter');
  };
  await controls(page).getByRole('button', { name: 'Throw out around' }).click();
  await square();
  await expect(async () => expect(await used()).toBeLessThan(all - 2)).toPass({ timeout: 20_000 });
  await expect(page.getByTestId('crossing').first()).toContainText('column');
  await controls(page).getByRole('button', { name: 'Use again around' }).click();
  await square();
  await expect(async () => expect(await used()).toBe(all)).toPass({ timeout: 20_000 });

  // The proof: straightened, a row of the board is a straight line.
  await controls(page).getByRole('button', { name: 'Straighten a lane' }).click();
  await page.getByRole('menuitem', { name: 'chart' }).click();
  await menusGone(page);
  await page.getByTestId('reading Lens 1').click();
  await controls(page).getByRole('button', { name: 'Straightened' }).click();
  await settled(page, 1);
  await expect(page.getByTestId('lens-overlay')).toBeVisible();
  const map = await downloaded(page, 'ST map, straighten');
  expect(map.readUInt32LE(0)).toBe(20000630);
  // Residuals by radius are a chart of their own.
  await controls(page).getByRole('button', { name: 'By radius' }).click();
  await expect(page.getByRole('region', { name: 'Charts of Lens 1' })).toBeVisible();
});

test('work without the lens: a picture lands on straight pixels of a crate, and what it does not cover goes out as filmed', async ({
  page,
}) => {
  test.setTimeout(240_000);
  await openShot(page, 'sg050');
  // The plate as it was before the work.
  for (const chip of ['Bend back', 'fog over', 'marker over', 'over', 'Straighten']) {
    await page.getByTestId(`chip ${chip}`).click();
    await page.keyboard.press('Delete');
  }
  await goTo(page, 60);
  await settled(page, 60);
  const plate = decode((await exportZip(page, 'PNG, 16 bit', { first: 60, last: 60 }))['out.0060.png']!);
  await page.getByRole('tab', { name: 'Readings' }).first().click();
  await page.getByTestId('reading The slipway lens').click();
  await controls(page).getByRole('button', { name: 'Work without the lens' }).click();
  await page.getByRole('menuitem', { name: 'slipway' }).click();
  await menusGone(page);
  await expect(page.getByTestId('chip Bend back')).toBeVisible();
  await settled(page, 60);
  // A plane on the crate, drawn on straight pixels and followed a few frames.
  await page.keyboard.press('Shift+T');
  const corners = [
    [490, 312],
    [636, 307],
    [636, 404],
    [492, 421],
  ] as const;
  for (const [x, y] of corners) {
    const p = await stagePoint(page, x, y);
    await page.mouse.click(p.x, p.y);
  }
  await page.keyboard.press('Enter');
  await page.getByTestId('reading Plane 1').click();
  await controls(page).getByRole('button', { name: 'one ›' }).click();
  await expect(page.getByTestId('reading Plane 1')).toContainText('60–61', { timeout: 60_000 });
  await controls(page).getByRole('button', { name: 'Pin a picture here' }).click();
  await page.getByRole('menuitem', { name: 'tide table' }).click();
  await menusGone(page);
  // New work stands before the bend.
  const chips = await page.getByTestId('lane slipway').locator('.chip').allInnerTexts();
  expect(chips.map((t) => t.split('\n')[0]!.trim().split(' ')[0])).toEqual(['slipway', 'Straighten', 'over', 'Bend']);
  await goTo(page, 60);
  await settled(page, 60);
  const made = decode((await exportZip(page, 'PNG, 16 bit', { first: 60, last: 60 }))['out.0060.png']!);
  let [same, changed] = [0, 0];
  let [x0, x1] = [Infinity, 0];
  for (let i = 0; i < made.width * made.height; i++) {
    const equal = [0, 1, 2].every((k) => made.data[i * made.channels + k] === plate.data[i * plate.channels + k]);
    if (equal) same++;
    else {
      changed++;
      x0 = Math.min(x0, i % made.width);
      x1 = Math.max(x1, i % made.width);
    }
  }
  // About a crate's face, and nothing else: untouched pixels are the plate's to the bit.
  expect(changed).toBeGreaterThan(8000);
  expect(changed).toBeLessThan(30_000);
  expect(same).toBeGreaterThan(450_000);
  expect(x0).toBeGreaterThan(440);
  expect(x1).toBeLessThan(680);
  // The pale paper is where the planks were.
  const [r, g, b] = await shownAt(page, 560, 330);
  expect(Math.min(r!, g!, b!)).toBeGreaterThan(90);
});

test('straight lines instead of a chart: drawn along edges, solved, and a ruler tells its bend; a picture without a chart is told so', async ({
  page,
}) => {
  await openShot(page, 'sg050');
  await goTo(page, 1);
  await page.getByTestId('lane slipway').locator('.chip').first().click();
  await settled(page, 1);
  await page.getByRole('tab', { name: 'Readings' }).first().click();
  await page.getByTestId('reading Lines of the slipway').click();
  await settled(page, 1);
  await newLens(page);
  await controls(page).getByRole('button', { name: 'Measure this frame' }).click();
  await expect(page.getByText(/no chart was found on frame 1/)).toBeVisible({ timeout: 60_000 });
  const line = async (button: string, places: readonly (readonly [number, number])[]): Promise<void> => {
    await controls(page).getByRole('button', { name: button }).click();
    for (const [x, y] of places) {
      const p = await stagePoint(page, x, y);
      await page.mouse.click(p.x, p.y);
    }
    await page.keyboard.press('Enter');
  };
  await line('Draw a straight line', [
    [256, 84],
    [400, 79],
    [600, 84],
    [748, 97],
  ]);
  await expect(page.getByTestId('straight 1')).toContainText('line:', { timeout: 30_000 });
  await line('Draw a straight line', [
    [60, 172],
    [300, 155],
    [560, 153],
    [800, 167],
    [930, 183],
  ]);
  await expect(page.getByTestId('straight 2')).toContainText('→', { timeout: 30_000 });
  await line('Lay a ruler', [
    [258, 96],
    [400, 92],
    [600, 97],
    [740, 107],
  ]);
  const ruler = page.getByTestId('straight 3');
  await expect(ruler).toContainText(/ruler: .* → /, { timeout: 30_000 });
  const [bend, left] = /([\d.]+) px → ([\d.]+) px/
    .exec(await ruler.innerText())!
    .slice(1)
    .map(Number) as [number, number];
  expect(bend).toBeGreaterThan(4);
  expect(left).toBeLessThan(0.25 * bend);
});
