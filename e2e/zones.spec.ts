import { join } from 'node:path';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, expectShown, menusGone, newShot, openLibrary, setNumber, settled, shownAt, stagePoint } from './helpers';

const harbour = join(process.cwd(), 'demo/media/sg010/harbour.png');

test('an adjustment in its place: steps gathered into a zone, its box dragged, off and on, moved, mixed, dissolved', async ({ page }) => {
  await newShot(page);
  await bringIn(page, [harbour]);
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await settled(page);
  const [inside, outside] = [await shownAt(page, 600, 300), await shownAt(page, 80, 60)] as [number[], number[]];
  const corner = (await shownAt(page, 720, 470)) as [number, number, number];
  await addStep(page, 'Exposure');
  await setNumber(page, 'Exposure (stops)', 2);
  await addStep(page, 'Blur');
  await page.getByTestId('chip Exposure').click();
  await page.getByTestId('chip Blur').click({ modifiers: ['Shift'] });
  await page.keyboard.press('Shift+G');
  const zone = page.getByTestId('zone Zone');
  await expect(zone.locator('.chip')).toHaveText(['Exposure', 'Blur']);
  // In the box in the middle it is brighter, outside it is what it was.
  await expect(async () => {
    expect((await shownAt(page, 480, 300))[2]!).toBeGreaterThan(60);
  }).toPass();
  await expectShown(page, 80, 60, outside as [number, number, number], 1);

  // The box goes by the hand: from the middle to the left top.
  await settled(page);
  // Handles come when they are first wanted.
  await expect(page.locator('.konvajs-content').first()).toBeVisible();
  await drag(page, await stagePoint(page, 480, 270), await stagePoint(page, 280, 170));
  await expect(page.getByRole('textbox', { name: 'Box x', exact: true })).not.toHaveValue('240.0');
  /** The left top as it is within the box, once it is. */
  const brightened = async (): Promise<number[]> => {
    let now: number[] = [];
    await expect(async () => {
      now = await shownAt(page, 80, 60);
      expect(Math.max(...now.map((v, i) => v - outside[i]!))).toBeGreaterThan(15);
    }).toPass();
    return now;
  };
  await brightened();
  await expectShown(page, 720, 470, corner, 1);
  await page.keyboard.press('q');
  await expectShown(page, 80, 60, outside as [number, number, number], 1);
  await page.keyboard.press('q');

  // Half of it is between.
  const full = await brightened();
  await setNumber(page, 'Mix', 0.5);
  await expect(async () => {
    const half = await shownAt(page, 80, 60);
    expect(half[2]!).toBeLessThan(full[2]! - 3);
    expect(half[2]!).toBeGreaterThan(outside[2]! + 3);
  }).toPass();

  // It moves as one, by its name, behind a further step; then its steps act everywhere.
  await addStep(page, 'Invert');
  await expect(page.getByTestId('lane harbour').locator('.chip:not(.start)')).toHaveText(['Exposure', 'Blur', 'Invert']);
  const last = (await page.getByTestId('chip Invert').boundingBox())!;
  await drag(page, zone.locator('.zone-name'), { x: last.x + last.width + 6, y: last.y + last.height / 2 });
  await expect(page.getByTestId('lane harbour').locator('.chip:not(.start)')).toHaveText(['Invert', 'Exposure', 'Blur']);
  await expect(zone.locator('.chip')).toHaveText(['Exposure', 'Blur']);
  await page.getByTestId('chip Invert').click();
  await page.keyboard.press('Delete');
  await zone.locator('.zone-name').click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Dissolve: its steps stay' }).click();
  await menusGone(page);
  await expect(zone).toHaveCount(0);
  await expect(async () => {
    const now = await shownAt(page, 600, 300);
    expect(now[2]!).toBeGreaterThan(inside[2]!);
  }).toPass();
  await page.keyboard.press('Control+z');
  await expect(zone).toBeVisible();
});

test('clouds from nothing, evolving; held at a frame; a curve bent on its panel', async ({ page }) => {
  await openLibrary(page);
  await page.getByRole('button', { name: 'New shot', exact: true }).click();
  await expect(page.getByText('Drop a folder of frames')).toBeVisible();
  // Without any lane a generator stands on one of its own.
  await addStep(page, 'Noise');
  await expect(page.getByTestId('lane empty')).toContainText('result');
  await setNumber(page, 'Evolves (/s)', 4);
  await settled(page);
  const at = async (): Promise<number[]> => [
    ...(await shownAt(page, 300, 200)),
    ...(await shownAt(page, 500, 300)),
    ...(await shownAt(page, 700, 400)),
  ];
  await page.keyboard.press('Home');
  await settled(page, 1);
  const first = await at();
  await page.keyboard.press('Shift+ArrowRight');
  await settled(page, 11);
  const later = await at();
  expect(later).not.toEqual(first);
  await addStep(page, 'Hold');
  await settled(page, 11);
  await expect(async () => expect((await at()).every((v, i) => Math.abs(v - first[i]!) <= 1)).toBe(true)).toPass();

  await addStep(page, 'Curves');
  const panel = (await page.getByRole('group', { name: 'Curves: all' }).boundingBox())!;
  await drag(
    page,
    { x: panel.x + panel.width / 2, y: panel.y + panel.height / 2 },
    { x: panel.x + panel.width / 2, y: panel.y + panel.height * 0.15 },
  );
  await expect(page.getByRole('textbox', { name: 'Point out' })).toHaveValue(/0\.8/);
  await expect(async () => {
    const bright = await at();
    expect(bright.filter((v, i) => v > first[i]! + 20).length).toBeGreaterThan(4);
  }).toPass();
});

test('a mask is drawn where it is wanted: shapes on the picture that the step gets, one undo for all of it', async ({ page }) => {
  await newShot(page);
  await bringIn(page, [harbour]);
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await settled(page);
  const outside = (await shownAt(page, 80, 60)) as [number, number, number];
  const inside = await shownAt(page, 480, 300);
  await addStep(page, 'Exposure');
  await setNumber(page, 'Exposure (stops)', 2);
  await page.getByRole('button', { name: /^Mask: none/ }).click();
  await page.getByRole('menuitem', { name: 'Draw shapes for it' }).click();
  await expect(page.getByTestId('lane Mask shapes').locator('.chip.selected')).toHaveText('Roto');
  await expect(page.locator('.konvajs-content').first()).toBeVisible();
  await settled(page);
  for (const [x, y] of [
    [300, 200],
    [660, 200],
    [660, 400],
    [300, 400],
    [300, 200],
  ] as const) {
    const at = await stagePoint(page, x, y);
    await page.mouse.click(at.x, at.y);
  }
  await expect(page.getByText('Shape 1')).toBeVisible();
  // Back to the result: the exposure acts in the shape alone.
  await page.getByTestId('chip Exposure').click();
  await page.getByRole('button', { name: /^What is seen/ }).click();
  await page.getByRole('menuitem', { name: 'Result', exact: true }).click();
  await menusGone(page);
  await settled(page);
  await expectShown(page, 80, 60, outside, 1);
  await expect(async () => {
    const now = await shownAt(page, 480, 300);
    expect(Math.max(...now.map((v, i) => v - inside[i]!))).toBeGreaterThan(20);
  }).toPass();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('lane Mask shapes')).toHaveCount(0);
});
