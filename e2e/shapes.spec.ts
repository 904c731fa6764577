import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import { decode } from 'fast-png';
import { addStep, bringIn, drag, exportZip, goTo, menusGone, newShot, openShot, settled, shownAt, stagePoint, takePen } from './helpers';

const wall = (last: number): string[] =>
  Array.from({ length: last }, (_, i) => join(process.cwd(), `demo/media/sg040/wall.${String(i + 1).padStart(4, '0')}.jpg`));

async function open(page: Page, last: number): Promise<void> {
  await newShot(page);
  await bringIn(page, wall(last));
  await drag(page, page.getByTestId('source wall'), page.getByTestId('board'));
  await settled(page);
}
const click = async (page: Page, x: number, y: number): Promise<void> => {
  const p = await stagePoint(page, x, y);
  await page.mouse.click(p.x, p.y);
};
const goToAndSee = async (page: Page, frame: number): Promise<void> => {
  await goTo(page, frame);
  await settled(page, frame);
};
/** Frame 5 of what goes out: 16 bits a channel, and channels a pixel. */
async function exported(page: Page): Promise<{ data: ArrayLike<number>; channels: number }> {
  const files = await exportZip(page, 'PNG, 16 bit', { first: 5, last: 5 });
  await page.keyboard.press('Escape');
  await menusGone(page);
  return decode(files['out.0005.png']!);
}
/** Around the checked coat on frame 1. */
const COAT = [
  [220, 238],
  [240, 262],
  [262, 330],
  [266, 446],
  [166, 446],
  [172, 330],
  [196, 262],
] as const;

test('a passer-by is rotoed from nothing: a plane on the coat, an outline that follows it, a correction, a soft shoulder, frozen and freed', async ({
  page,
}) => {
  await open(page, 9);
  await goToAndSee(page, 1);
  // The coat is followed.
  await page.keyboard.press('Shift+T');
  for (const [x, y] of [
    [190, 312],
    [246, 312],
    [254, 400],
    [182, 400],
  ] as const)
    await click(page, x, y);
  await page.keyboard.press('Enter');
  await page.getByRole('combobox', { name: 'Motion model' }).click();
  await page.getByRole('option', { name: /affine/i }).click();
  await menusGone(page);
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByText('1–9 of 1–9')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/Measuring/)).toHaveCount(0);
  await settled(page, 1);
  await page.getByTestId('lane wall').locator('.chip').first().click();
  await addStep(page, 'Roto');
  await takePen(page);
  for (const [x, y] of COAT) await click(page, x, y);
  await click(page, ...COAT[0]);
  const row = page.getByRole('listitem', { name: 'Shape 1' });
  await expect(row).toBeVisible();
  await page.getByRole('combobox', { name: 'Follows' }).click();
  await page.getByRole('option', { name: /Plane 1/ }).click();
  await page.keyboard.press('Escape');
  await menusGone(page);
  await page.getByRole('button', { name: 'Alpha: the matte (A)' }).click();
  const matteAt = async (x: number, y: number, wanted: number): Promise<void> =>
    expect(async () => expect(Math.abs((await shownAt(page, x, y))[0]! - wanted)).toBeLessThan(8)).toPass();
  await matteAt(216, 360, 255);
  await matteAt(300, 360, 0);
  // It went along, nine frames on, without a key there.
  await goToAndSee(page, 9);
  await matteAt(292, 370, 255);
  await matteAt(190, 370, 0);
  await expect(page.getByText('one key: 1')).toBeVisible();

  // A correction here is a key here; undo is by act.
  await row.click();
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByText('2 keys: 1, 9')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('one key: 1')).toBeVisible();
  await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByText('2 keys: 1, 9')).toBeVisible();

  // Its key is dragged on the time strip, one frame back and on again.
  const key = page.getByTestId('key 9');
  const at = (await key.boundingBox())!;
  const apart = (at.x - (await page.getByTestId('key 1').boundingBox())!.x) / 8;
  const middle = { x: at.x + at.width / 2, y: at.y + at.height / 2 };
  await drag(page, middle, { x: middle.x - apart, y: middle.y });
  await expect(page.getByText('2 keys: 1, 8')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('2 keys: 1, 9')).toBeVisible();
  await goToAndSee(page, 9);

  // Frozen it has a key a frame; freed it has its own again.
  await page.getByRole('button', { name: 'Freeze to keys' }).click();
  await expect(page.getByText('9 keys')).toBeVisible();
  await expect(page.getByRole('combobox', { name: 'Follows' })).toHaveText('Nothing');
  await page.getByRole('button', { name: 'Unfreeze' }).click();
  await expect(page.getByText('2 keys: 1, 9')).toBeVisible();

  // The shoulder gets a feather of its own, by its grip.
  await goToAndSee(page, 1);
  await page.keyboard.press('Escape');
  const before = (await shownAt(page, 252, 250))[0]!;
  await click(page, ...COAT[1]);
  const from = await stagePoint(page, ...COAT[1]);
  await page.waitForTimeout(300);
  const grip = { x: from.x + 22 * 0.95, y: from.y - 22 * 0.32 };
  await drag(page, grip, { x: grip.x + 22, y: grip.y - 8 });
  await expect(async () => expect((await shownAt(page, 252, 250))[0]!).toBeGreaterThan(before + 25)).toPass();

  // Delete takes the chosen point, neither the shape nor the step.
  await page.keyboard.press('Delete');
  await expect(page.getByTestId('chip Roto')).toBeVisible();
  await expect(row).toBeVisible();
  await page.keyboard.press('Control+z');

  // A box over the outline chooses, wherever it ends.
  const [over, below] = [await stagePoint(page, 120, 200), await stagePoint(page, 216, 448)];
  await drag(page, over, below);
  await page.keyboard.press('Delete');
  await expect(row).toBeVisible();
  await page.keyboard.press('Control+z');

  // Snapped, every frame between has a key with its confidence.
  await page.getByRole('button', { name: 'Snap between keys' }).click();
  await expect(page.getByRole('button', { name: 'Remove 7 snapped' })).toBeVisible({ timeout: 60_000 });
  await goToAndSee(page, 5);
  await expect(page.getByText(/Found in the picture, confidence \d+ %/)).toBeVisible();
});

test('a mark is hidden by a command; blur and mosaic change places; outside nothing changes by a bit', async ({ page }) => {
  await open(page, 9);
  await goToAndSee(page, 9);
  const plate = await exported(page);
  await page.keyboard.press('h');
  for (const [x, y] of [
    [200, 165],
    [325, 165],
    [325, 292],
    [200, 292],
  ] as const)
    await click(page, x, y);
  await page.keyboard.press('Enter');
  const zone = page.getByTestId('zone Mark 1');
  await expect(zone.locator('.chip')).toHaveText(['Mosaic', 'Blur']);
  await expect(page.getByText(/Measuring/)).toHaveCount(0, { timeout: 60_000 });
  await goToAndSee(page, 5);
  await expect(page.getByRole('listitem', { name: 'Mark' })).toBeVisible();
  const hidden = await exported(page);
  type Picture = Awaited<ReturnType<typeof exported>>;
  const differs = (a: Picture, b: Picture, x0: number, y0: number, x1: number, y1: number): number => {
    let count = 0;
    for (let y = y0; y < y1; y++)
      for (let x = x0; x < x1; x++)
        if ([0, 1, 2].some((c) => a.data[(y * 960 + x) * a.channels + c] !== b.data[(y * 960 + x) * b.channels + c])) count++;
    return count;
  };
  expect(differs(plate, hidden, 230, 190, 290, 250)).toBeGreaterThan(3000);
  expect(differs(plate, hidden, 400, 0, 960, 540)).toBe(0);
  expect(differs(plate, hidden, 0, 330, 960, 540)).toBe(0);

  // The order of the two matters.
  const [first, second] = [page.getByTestId('chip Mosaic'), page.getByTestId('chip Blur')];
  const at = (await first.boundingBox())!;
  await drag(page, second, { x: at.x + 4, y: at.y + at.height / 2 });
  await expect(zone.locator('.chip')).toHaveText(['Blur', 'Mosaic']);
  const turned = await exported(page);
  expect(differs(hidden, turned, 230, 190, 290, 250)).toBeGreaterThan(1000);
  expect(differs(plate, turned, 400, 0, 960, 540)).toBe(0);

  // Its outline goes out as SVG and comes in again; what is no SVG is told.
  await zone.locator('.zone-name').click();
  await page.getByRole('listitem', { name: 'Mark' }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as SVG' }).click()]);
  await page.getByTestId('svg file').setInputFiles((await download.path())!);
  await expect(page.getByRole('listitem')).toHaveCount(2);
  await page
    .getByTestId('svg file')
    .setInputFiles({ name: 'bad.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('<svg><path d="M0 0 L5 banana"/></svg>') });
  await expect(page.getByText(/bad.svg: a path of it is broken/)).toBeVisible();
  await expect(page.getByRole('listitem')).toHaveCount(2);

  // The zone goes on to another shot of the library, which tells where it went and what is not there.
  await zone.locator('.zone-name').click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Carry on to other shots' }).click();
  const dialog = page.getByRole('dialog', { name: 'Carry this look on' });
  await dialog.getByRole('checkbox', { name: 'SG060 mooring' }).check();
  await dialog.getByRole('button', { name: 'Carry on' }).click();
  await expect(page.getByTestId('carried SG060 mooring')).toContainText(
    'Into mooring. What these follow or look through is not there: Mark 1.',
  );
  await dialog.getByRole('button', { name: 'Close' }).click();
  await openShot(page, 'sg060');
  await expect(page.getByTestId('zone Mark 1').locator('.chip')).toHaveText(['Blur', 'Mosaic']);
});
