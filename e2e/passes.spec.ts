import { execFileSync } from 'node:child_process';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, exportZip, goTo, menusGone, newShot, openShot, setNumber, settled, shownAt, stagePoint } from './helpers';

const media = join(process.cwd(), 'demo/media/sg030');
const frames = [1, 2].flatMap((f) => [join(media, `diver.000${f}.exr`), join(media, `quay.000${f}.jpg`)]);
const controls = (page: Page) => page.getByRole('region', { name: 'Controls' });
const part = (page: Page, name: string) => controls(page).getByRole('group', { name, exact: true });

async function fromGrid(page: Page, command: string): Promise<void> {
  await page.getByTestId('source diver').click();
  await page.getByRole('button', { name: '18 layers' }).click();
  await page.getByRole('dialog', { name: 'Layers of diver' }).getByRole('button', { name: command, exact: true }).click();
  await menusGone(page);
}

async function clickAt(page: Page, x: number, y: number): Promise<void> {
  await expect(page.getByTestId('datapick')).toHaveAttribute('data-ready', 'true', { timeout: 20_000 });
  const at = await stagePoint(page, x, y);
  await page.mouse.move(at.x, at.y);
  await page.mouse.click(at.x, at.y);
}

const light = async (page: Page, x: number, y: number): Promise<number> => {
  await settled(page);
  return (await shownAt(page, x, y)).reduce((s, v) => s + v, 0);
};
/** Waits until a place has become brighter, or darker, than it was. */
async function changes(page: Page, at: readonly [number, number], was: number, by: number): Promise<void> {
  await expect(async () => {
    const now = await light(page, ...at);
    if (by > 0) expect(now).toBeGreaterThan(was + by);
    else expect(now).toBeLessThan(was + by);
  }).toPass({ timeout: 30_000 });
}

/** Of the frame: the chest, the corselet, the bollard. */
const [CHEST, CORSELET, BOLLARD]: readonly (readonly [number, number])[] = [
  [470, 230],
  [480, 185],
  [352, 420],
];

test('from the files of a render to a shot: rebuilt, re-lit with a flicker, seated by its data, out with its layers', async ({ page }) => {
  await newShot(page);
  await bringIn(page, frames);
  await expect(page.getByTestId('source diver')).toContainText('18 layers');
  await page.getByTestId('source quay').click();
  for (const name of ['quay', 'diver']) {
    await drag(page, page.getByTestId(`source ${name}`), page.getByTestId('board'));
    await expect(page.getByTestId(`lane ${name}`)).toBeVisible();
  }
  await see(page, 'diver');
  await goTo(page, 1);

  // What the passes are was found out, with why; one is put right by hand and back.
  await page.getByTestId('source diver').click();
  await page.getByRole('button', { name: '18 layers' }).click();
  const grid = page.getByRole('dialog', { name: 'Layers of diver' });
  await expect(grid.getByTestId('layer Z')).toContainText('goes with the distance of the positions along the view');
  await expect(grid.getByTestId('layer N')).toContainText("looks as the positions' surface does");
  await expect(grid.getByTestId('layer motion')).toContainText('leads from each pixel to the one that looks like it');
  await grid.getByTestId('layer Z').getByRole('combobox', { name: 'Z: is' }).click();
  await page.getByRole('option', { name: '0 far, 1 near' }).click();
  await expect(grid.getByTestId('layer Z')).toContainText('0 is, 1 is');
  await grid.getByRole('button', { name: 'Close' }).click();
  await menusGone(page);
  await page.keyboard.press('Control+z');

  // Two clicks to the parts; a part turned up is seen, and what the passes leave out is told.
  await fromGrid(page, 'Rebuild from these');
  await expect(controls(page).getByTestId('residual')).toContainText(/leave out 0\.0[67]/);
  const chest = await light(page, ...CHEST);
  await setNumberIn(page, 'diffuse', 'Gain (stops)', 1);
  await changes(page, CHEST, chest, 20);
  await part(page, 'diffuse').getByRole('switch', { name: 'diffuse on' }).click();
  await changes(page, CHEST, chest, -20);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');

  // The lamp flickers: a key at each frame.
  await fromGrid(page, 'Light mix');
  await part(page, 'light_lamp').getByRole('button', { name: 'Key of Gain' }).click();
  await goTo(page, 2);
  await setNumberIn(page, 'light_lamp', 'Gain (stops)', 2);
  const leg: readonly [number, number] = [530, 330];
  const bright = await light(page, ...leg);
  await goTo(page, 1);
  await changes(page, leg, bright, -12);

  // What lights a pixel: bars of parts and of lamps.
  await page.getByRole('button', { name: 'Probe' }).click();
  const at = await stagePoint(page, ...leg);
  await page.mouse.click(at.x, at.y);
  await expect(page.getByTestId('share light_lamp')).toContainText('%');
  await expect(page.getByTestId('share diffuse')).toContainText(/[5-9]\d %/);
  await page.getByRole('status', { name: 'Probe' }).getByRole('button', { name: 'Close' }).click();

  // A lamp is set before a surface, and dragged on the picture.
  await fromGrid(page, 'Relight');
  const stone = await light(page, ...BOLLARD);
  await controls(page).getByRole('button', { name: 'Set a lamp on the picture' }).click();
  await clickAt(page, ...BOLLARD);
  await expect(part(page, 'Lamp')).toBeVisible();
  await changes(page, BOLLARD, stone, 25);

  // A grade that acts on one thing: picked in place.
  await addStep(page, 'Grade');
  await setNumber(page, 'Exposure (stops)', -3);
  await settled(page);
  await controls(page).getByRole('button', { name: 'By ID' }).click();
  await clickAt(page, ...CORSELET);
  await expect(controls(page).getByTestId('thing corselet')).toBeVisible();
  await page.keyboard.press('Escape');
  await see(page, 'diver');
  await changes(page, CORSELET, await light(page, ...CHEST), -30);

  // Over the quay, with its data; the focus is picked on the picture.
  await see(page, 'quay');
  await page.getByTestId('lane quay').getByTestId(/^chip/).first().click();
  await page.keyboard.press('Delete');
  await see(page, 'quay');
  await addStep(page, 'Join by depth');
  await setNumber(page, 'Depth of this lane', 11);
  await controls(page).getByRole('button', { name: 'Other lane' }).click();
  await page.getByRole('menuitem', { name: 'diver', exact: true }).click();
  await menusGone(page);
  await addStep(page, 'Depth of field');
  await page.keyboard.press('v');
  await controls(page).getByRole('button', { name: 'Focus on the picture' }).click();
  await clickAt(page, ...CHEST);
  await expect(async () => {
    const focus = Number(await controls(page).getByRole('textbox', { name: 'Focus', exact: true }).inputValue());
    expect(focus).toBeGreaterThan(5.9);
    expect(focus).toBeLessThan(6.3);
  }).toPass();
  await expect(page.getByTestId('focus-overlay')).toBeVisible();
  await addStep(page, 'Vector blur');
  await settled(page);
});

/** Selects a lane and shows its end. */
async function see(page: Page, lane: string): Promise<void> {
  await page.getByTestId(`lane ${lane}`).getByText(lane, { exact: true }).first().click();
  await controls(page).getByRole('button', { name: 'See this lane' }).click();
  await settled(page);
}

async function setNumberIn(page: Page, name: string, label: string, value: number): Promise<void> {
  const field = part(page, name).getByRole('textbox', { name: label, exact: true });
  await field.click();
  await field.fill(String(value));
  await field.press('Enter');
  await field.blur();
}

test('the finished diver goes out with its layers, which are read again', async ({ page }, info) => {
  await openShot(page, 'sg030');
  // By ID, by name, and dropped again.
  await page.getByTestId('chip Lamp by ID').click();
  await expect(controls(page).getByTestId('thing lamp')).toBeVisible();
  await controls(page)
    .getByPlaceholder(/Add by name/)
    .click();
  await page.getByRole('option', { name: 'helmet' }).click();
  await expect(controls(page).getByTestId('thing helmet')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(controls(page).getByTestId('thing helmet')).toHaveCount(0);

  const files = await exportZip(page, 'OpenEXR, half float', { first: 20, last: 20 });
  const file = info.outputPath('finished.exr');
  await writeFile(file, Object.values(files)[0]!);
  const told = JSON.parse(execFileSync('node', ['scripts/run.mjs', 'cli/main.ts', 'inspect', file, '--json'], { encoding: 'utf8' })) as {
    layers: string[];
    channels: { name: string; min: number; max: number }[];
  }[];
  const [report] = Array.isArray(told) ? told : [told];
  const z = report!.channels.find((c) => c.name === 'Z')!;
  expect(z.min).toBeGreaterThan(5);
  expect(z.min).toBeLessThan(6.2);
  expect(report!.layers).toContain('motion');
});
