import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { decode } from 'fast-png';
import { deltaE2000, labOf } from '../core/colour/delta-e';
import type { Lab } from '../core/colour/delta-e';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, exportZip, goTo, menusGone, newShot, openShot, setNumber, settled, shownAt, stagePoint } from './helpers';

const media = join(process.cwd(), 'demo/media');
const basin = [1, 2, 3].flatMap((f) => [join(media, `sg080/basin.000${f}.jpg`), join(media, `sg080/ripples.000${f}.jpg`)]);
const controls = (page: Page) => page.getByRole('region', { name: 'Controls' });
const select = (page: Page, lane: string): Promise<void> =>
  page.getByTestId(`lane ${lane}`).getByText(lane, { exact: true }).first().click();

async function choose(page: Page, field: string, option: string): Promise<void> {
  await controls(page).getByRole('combobox', { name: field, exact: true }).click();
  await page.getByRole('option', { name: option }).click();
  await menusGone(page);
}
async function feed(page: Page, name: RegExp, lane: string): Promise<void> {
  await controls(page).getByRole('button', { name }).click();
  await page.getByRole('menuitem', { name: lane, exact: true }).click();
  await menusGone(page);
}
/** What a row of the meter says of the difference. */
const difference = (page: Page, row: string) => page.getByRole('cell', { name: `${row} difference` });
const number = async (page: Page, row: string): Promise<number> =>
  Number(/[+-]?\d+\.\d+/.exec((await difference(page, row).textContent())!)![0]);

test('from files to a seated buoy: matched by the meter, wrapped, mirrored, pushed by ripples, out of focus', async ({ page }) => {
  await newShot(page);
  await bringIn(page, [...basin, join(media, 'sg080/buoy.exr')]);
  for (const name of ['basin', 'buoy', 'ripples']) {
    await drag(page, page.getByTestId(`source ${name}`), page.getByTestId('board'));
    await expect(page.getByTestId(`lane ${name}`)).toBeVisible();
    await goTo(page, 2);
  }
  // The buoy over the basin; ripples are no picture of it.
  await select(page, 'basin');
  await controls(page).getByRole('button', { name: 'See this lane' }).click();
  const chips = page.getByTestId('lane basin').getByTestId(/^chip/);
  await expect(chips).toHaveCount(2);
  await chips.last().click();
  await page.keyboard.press('Delete');
  await expect(chips).toHaveCount(1);
  await settled(page);

  // The meter: white and black in their turn, each below its error afterwards.
  await select(page, 'buoy');
  await page.getByRole('tab', { name: 'Meter' }).click();
  await page.getByRole('combobox', { name: 'Frames' }).click();
  await page.getByRole('option', { name: 'This frame' }).click();
  await page.getByRole('button', { name: 'Read', exact: true }).click();
  await expect(difference(page, 'White')).toBeVisible({ timeout: 60_000 });
  const before = Math.abs(await number(page, 'White'));
  await page.getByRole('button', { name: 'Match white' }).click();
  await expect(async () => expect(Math.abs(await number(page, 'White'))).toBeLessThan(0.2 * before)).toPass({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Match black' }).click();
  await expect(difference(page, 'Black')).toContainText('✓', { timeout: 60_000 });
  await page.getByRole('tab', { name: 'Lanes' }).click();
  await expect(page.getByTestId('lane buoy').getByTestId('chip Match to plate')).toBeVisible();
  // Undone, both are.
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('lane buoy').getByTestId('chip Match to plate')).toHaveCount(0);
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByTestId('lane buoy').getByTestId('chip Match to plate')).toBeVisible();

  // The wrap finds what is behind by itself.
  await select(page, 'buoy');
  await addStep(page, 'Light wrap');
  await expect(controls(page).getByRole('button', { name: /^Background: found: basin/ })).toBeVisible();
  await setNumber(page, 'Amount', 2);
  await settled(page);

  // A reflection: another lane of the buoy, turned over about its waterline, pushed by the ripples, farther away from it farther.
  await page.getByTestId('lane buoy').getByRole('button', { name: 'Menu of lane buoy' }).click();
  await page
    .getByRole('menuitem', { name: /^New lane from/ })
    .first()
    .click();
  await menusGone(page);
  await addStep(page, 'Transform');
  await setNumber(page, 'Scale x, y y', -1);
  await setNumber(page, 'Pivot y', 52);
  await addStep(page, 'Displace');
  await feed(page, /^Driver/, 'ripples');
  await setNumber(page, 'Amount x, y x', 60);
  await setNumber(page, 'Amount x, y y', 100);
  await addStep(page, 'Defocus');
  await choose(page, 'Varies', 'Along a ramp');
  // Its two places are dragged on the picture.
  await page.getByTestId('chip Defocus').click();
  await page.keyboard.press('v');
  await expect(page.getByTestId('places-handle')).toBeVisible();
  const from = await stagePoint(page, 480, 270);
  const to = await stagePoint(page, 480, 380);
  await drag(page, from, to);
  await expect(async () => {
    const y = Number(await controls(page).getByRole('textbox', { name: 'Sharp at y', exact: true }).inputValue());
    expect(Math.abs(y - 110)).toBeLessThan(6);
  }).toPass();
});

test('a piece of the harbour, filmed otherwise, goes back into it by the meter alone', async ({ page }) => {
  await newShot(page);
  await bringIn(page, [join(media, 'sg010/harbour.png'), join(media, 'elements/quay-piece.exr')]);
  for (const name of ['harbour', 'quay-piece']) {
    await drag(page, page.getByTestId(`source ${name}`), page.getByTestId('board'));
    await expect(page.getByTestId(`lane ${name}`)).toBeVisible();
  }
  await settled(page);
  const asLaid = await exportZip(page, 'PNG, 16 bit', { first: 1, last: 1 });
  // Measured against the quay on its other side.
  await page.keyboard.press('p');
  await drag(page, await stagePoint(page, 20, 236), await stagePoint(page, 330, 404));
  await select(page, 'quay-piece');
  await page.getByRole('tab', { name: 'Meter' }).click();
  await page.getByRole('combobox', { name: 'Plate' }).click();
  await page.getByRole('option', { name: 'The probed box' }).click();
  await page.getByRole('button', { name: 'Read', exact: true }).click();
  await expect(difference(page, 'White')).toBeVisible({ timeout: 60_000 });
  for (const row of ['white', 'black']) {
    await page.getByRole('button', { name: `Match ${row}` }).click();
    await expect(page.getByText('reading …')).toHaveCount(0, { timeout: 60_000 });
  }
  await page.getByRole('tab', { name: 'Lanes' }).click();
  await settled(page);
  const seated = await exportZip(page, 'PNG, 16 bit', { first: 1, last: 1 });
  const [harbour, before, after] = [
    await readFile(join(media, 'sg010/harbour.png')),
    ...[asLaid, seated].map((f) => f['out.0001.png']!),
  ].map(colours);
  // Where the piece lies: there it is another picture before it is matched.
  const pixels = harbour!.flatMap((_, i) => (deltaE2000(harbour![i]!, before![i]!) > 1 ? [i] : []));
  const apart = (made: readonly Lab[]): number => pixels.reduce((sum, i) => sum + deltaE2000(harbour![i]!, made[i]!), 0) / pixels.length;
  expect(pixels.length).toBeGreaterThan(5000);
  expect(apart(before!)).toBeGreaterThan(5);
  expect(apart(after!)).toBeLessThan(0.75 * apart(before!));
});

/** The colours of a picture, every fourth pixel. */
function colours(file: Uint8Array): Lab[] {
  const { data, channels, depth } = decode(file);
  const linear = (v: number): number => {
    const s = v / (2 ** depth - 1);
    return s <= 0.04045 ? s / 12.92 : ((s + 0.055) / 1.055) ** 2.4;
  };
  return Array.from({ length: data.length / channels / 4 }, (_, i) => {
    const at = 4 * i * channels;
    return labOf(linear(data[at]!), linear(data[at + 1]!), linear(data[at + 2]!));
  });
}

/** What the stage shows at some places, one after the other. */
async function lightAt(page: Page, places: readonly (readonly [number, number])[]): Promise<number[]> {
  await settled(page);
  const all: number[] = [];
  for (const [x, y] of places) all.push(...(await shownAt(page, x, y)));
  return all;
}
const apart = (a: readonly number[], b: readonly number[]): number => a.reduce((s, v, i) => s + Math.abs(v - b[i]!), 0);

/** In the buoy's reflection; on edges of the mooring's painted mark. */
const MIRRORED = [
  [566, 350],
  [548, 396],
  [584, 372],
  [570, 430],
] as const;
const MARKED = [
  [596, 246],
  [604, 254],
  [612, 262],
  [620, 270],
  [628, 262],
  [604, 274],
] as const;

test('the finished SG080: without its ripples the reflection is another', async ({ page }) => {
  await openShot(page, 'sg080');
  await page.getByTestId('chip Ripples').click();
  const seen = (): Promise<number[]> => lightAt(page, MIRRORED);
  const rippled = await seen();
  await page.keyboard.press('q');
  await expect(async () => {
    const now = await seen();
    expect(apart(now, rippled)).toBeGreaterThan(60);
  }).toPass({ timeout: 20_000 });
  await page.keyboard.press('q');
});

test('slower along the motion, with keyed speed; past the end of the source; trails by echo', async ({ page }) => {
  await openShot(page, 'sg060');
  await page.getByTestId('chip Steady').click();
  await page.keyboard.press('Delete');
  await select(page, 'mooring');
  await addStep(page, 'Retime');
  await goTo(page, 1);
  await setNumber(page, 'Speed (×)', 1);
  await controls(page).getByRole('button', { name: 'Key of Speed' }).click();
  await goTo(page, 21);
  await setNumber(page, 'Speed (×)', 0);
  await goTo(page, 10);
  await expect(controls(page).getByText(/Frame 10 shows/)).toContainText('8.58');
  const blend = await lightAt(page, MARKED);
  await choose(page, 'Between frames', 'Along the motion');
  await expect(async () => expect(apart(await lightAt(page, MARKED), blend)).toBeGreaterThan(12)).toPass({ timeout: 30_000 });
  // Frames that are not there are said.
  await choose(page, 'Given by', 'Source frame');
  await setNumber(page, 'Source frame', 500.5);
  await expect(controls(page).getByText('mooring plate has frames 1–48: its last one is held.')).toBeVisible();
  await setNumber(page, 'Source frame', 12.5);
  await settled(page);

  // Embers leave trails.
  await bringIn(
    page,
    [1, 2, 3, 4].map((f) => join(media, `elements/embers.000${f}.png`)),
  );
  await page.getByTestId('source embers').click();
  await drag(page, page.getByTestId('source embers'), page.getByTestId('board'));
  await select(page, 'embers');
  await controls(page).getByRole('button', { name: 'See this lane' }).click();
  await goTo(page, 4);
  await settled(page);
  const lit = (): Promise<number> =>
    page.evaluate(() => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="stage"] > canvas')!;
      const copy = document.createElement('canvas');
      [copy.width, copy.height] = [canvas.clientWidth, canvas.clientHeight];
      const context = copy.getContext('2d')!;
      context.drawImage(canvas, 0, 0);
      return context.getImageData(0, 0, copy.width, copy.height).data.filter((v, i) => i % 4 === 0 && v > 120).length;
    });
  const alone = await lit();
  await addStep(page, 'Echo frames');
  await setNumber(page, 'Echoes', 3);
  await expect(async () => {
    await settled(page);
    expect(await lit()).toBeGreaterThan(1.5 * alone);
  }).toPass({ timeout: 20_000 });
});
