import { execFileSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { decode } from 'fast-png';
import { expect, test } from './fixtures';
import {
  addStep,
  bringIn,
  drag,
  expectShown,
  exportZip,
  menusGone,
  newShot,
  openLibrary,
  openShot,
  setNumber,
  settled,
  shownAt,
  stagePoint,
} from './helpers';

const MEDIA = 'demo/media/sg010';
const PLATE = readdirSync(MEDIA)
  .filter((f) => f.endsWith('.jpg'))
  .slice(0, 3)
  .map((f) => join(MEDIA, f));

test('the demo shot opens finished, and its parts can be looked at', async ({ page }) => {
  await openLibrary(page);
  await page.getByTestId('shot SG010 keeper').click();
  await settled(page, 24);
  await expect(page.getByTestId('chip Screen key')).toBeVisible();
  // The keeper's coat is opaque over the night harbour, and no green is left at the frame's top.
  const [r, g, b] = await shownAt(page, 300, 60);
  expect(g!).toBeLessThan(Math.max(r!, b!) + 20);
  await page.getByTestId('chip Screen key').click();
  await expect(page.getByRole('region', { name: 'Controls' })).toContainText('Takes the screen out');
  await page.keyboard.press('v');
  await page.keyboard.press('a');
  await expectShown(page, 470, 400, [255, 255, 255], 3);
  await expectShown(page, 860, 470, [0, 0, 0], 3);
  await page.keyboard.press('v');
  await page.keyboard.press('a');
});

test('from files to finished frames: bring in, key, despill, join, grade, blur, place, play, undo, close, export', async ({ page }) => {
  await newShot(page);
  await bringIn(page, PLATE);
  await expect(page.getByTestId('source keeper')).toContainText('JPEG · 1–3');
  await bringIn(page, join(MEDIA, 'harbour.png'));

  // The harbour first: the first lane becomes the result; the plate is joined over it.
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await expect(page.getByTestId('lane harbour')).toContainText('result');
  await drag(page, page.getByTestId('source keeper'), page.getByTestId('board'));
  await expect(page.getByTestId('lane keeper')).toContainText('over ▸ harbour');
  await settled(page);
  await expect(async () => {
    const [r, g] = await shownAt(page, 760, 300);
    expect(g!).toBeGreaterThan(r! + 30);
  }).toPass();

  // Key: click the green on the stage.
  await page.getByTestId('lane keeper').getByText('keeper', { exact: true }).first().click();
  await addStep(page, 'Screen key');
  await page.getByRole('button', { name: 'Pick Screen colour' }).click();
  const green = await stagePoint(page, 760, 300);
  await page.mouse.click(green.x, green.y);
  await expect(page.getByText(/Picked 0\.\d+ 0\.2\d+/)).toBeVisible();
  await setNumber(page, 'Balance', 1);
  await setNumber(page, 'Empty below', 0.3);
  await settled(page);
  await page.keyboard.press('v');
  await page.keyboard.press('a');
  await expectShown(page, 760, 300, [0, 0, 0], 2);
  await expectShown(page, 470, 420, [255, 255, 255], 40);
  await page.keyboard.press('a');
  await page.keyboard.press('v');
  await addStep(page, 'Despill');
  await addStep(page, 'Transform');

  // Place the keeper by its handle on the stage: one undo a drag.
  await settled(page);
  // Its handle is loaded when it is first wanted.
  await expect(page.locator('.konvajs-content').first()).toBeVisible();
  await drag(page, await stagePoint(page, 200, 440), await stagePoint(page, 260, 440));
  const moved = page.getByRole('textbox', { name: 'Move x' });
  await expect(async () => expect(Math.abs(Number(await moved.inputValue()) - 60)).toBeLessThan(2)).toPass();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('textbox', { name: 'Move x' })).toHaveValue('0.0');
  await page.keyboard.press('Control+Shift+z');
  await setNumber(page, 'Move x', 40);

  // Grade and blur the background, before the join.
  await page.getByTestId('lane harbour').getByRole('button', { name: 'harbour', exact: true }).first().click();
  await page.getByTestId('chip Join').click();
  await addStep(page, 'Grade');
  await setNumber(page, 'Exposure (stops)', -0.5);
  await addStep(page, 'Blur');
  await setNumber(page, 'Size (px)', 3);
  await expectDraggedAtPointer(page, page.getByTestId('chip Blur'));
  await drag(page, page.getByTestId('chip Blur'), await before(page, 'chip Join'));
  await expect(page.getByTestId('lane harbour')).toContainText(/Blur.*over.*Grade/s);

  // Scrub and play.
  await page.keyboard.press('Home');
  await settled(page, 1);
  await page.keyboard.press('ArrowRight');
  await settled(page, 2);
  await page.keyboard.press('Space');
  await expect(page.getByTestId('ready')).toContainText('3/3 ready', { timeout: 60_000 });
  await page.keyboard.press('Space');

  // Close the tab; all is found again.
  await expect(page.getByTestId('saved')).toHaveText('Saved');
  await page.reload();
  await expect(page.getByTestId('chip Despill')).toBeVisible();
  await page.getByTestId('chip Transform').click();
  await expect(page.getByRole('textbox', { name: 'Move x' })).toHaveValue('40.0');
  await settled(page);

  // Export, and compare with what the command line makes of the same shot.
  const files = await exportZip(page, 'PNG, 8 bit');
  expect(Object.keys(files)).toEqual(['out.0001.png', 'out.0002.png', 'out.0003.png']);
  const bundle = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await page.getByRole('button', { name: 'Shot as bundle' }).click();
  const folder = await mkdtemp(join(tmpdir(), 'ostracon-e2e-'));
  const path = join(folder, 'shot.ostracon');
  await (await bundle).saveAs(path);
  execFileSync('npm', ['run', '-s', 'ostracon', '--', 'render', path, '--out', join(folder, 'cli.####.png')], { stdio: 'pipe' });
  for (const f of ['0001', '0003']) {
    const ours = decode(files[`out.${f}.png`]!);
    const theirs = decode(readFileSync(join(folder, `cli.${f}.png`)));
    expect([ours.width, ours.height]).toEqual([960, 540]);
    let worst = 0;
    for (let i = 0; i < ours.data.length; i++) worst = Math.max(worst, Math.abs(ours.data[i]! - theirs.data[i]!));
    expect(worst).toBeLessThanOrEqual(1);
  }
  await page.keyboard.press('Escape');

  // The bundle opens again as a shot of its own.
  await page.getByRole('link', { name: 'Library' }).click();
  await page.getByLabel('Bundle file').setInputFiles(path);
  await expect(page.getByTestId('shot New shot 2')).toBeVisible();
});

/** A place on the wire just before a chip. */
async function before(page: Page, chip: string): Promise<{ x: number; y: number }> {
  const b = (await page.getByTestId(chip).boundingBox())!;
  return { x: b.x - 7, y: b.y + b.height / 2 };
}

test('a grade goes out as a CDL file and comes back', async ({ page }) => {
  await openShot(page, 'sg010', 24);
  await page.getByTestId('chip Lift').click();
  await page.getByRole('button', { name: 'Write CDL' }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: '.ccc' }).click();
  const path = await (await download).path();
  await page.getByRole('button', { name: 'Reset step' }).click();
  await expect(page.getByRole('textbox', { name: 'Slope red' })).toHaveValue('1.000');
  await page.getByLabel('CDL file').setInputFiles(path);
  // Exposure +0.25 is a slope of 1.189.
  await expect(page.getByRole('textbox', { name: 'Slope red' })).toHaveValue('1.189');
  await expect(page.getByRole('textbox', { name: 'Saturation', exact: true })).toHaveValue('1.05');
});

test('two tabs: the second only looks', async ({ page, context }) => {
  await openShot(page, 'sg010', 24);
  const second = await context.newPage();
  await second.goto('/shot/sg010');
  await expect(second.getByTestId('saved')).toContainText('Read only');

  // The one that looks has an old copy by now; leaving it must not put that over the other's work.
  await page.getByTestId('chip Lift').click();
  await addStep(page, 'Clamp');
  await expect(page.getByTestId('saved')).toHaveText('Saved');
  await second.getByRole('link', { name: 'Library' }).click();
  await expect(second.getByTestId('shot SG010 keeper')).toBeVisible();
  await page.reload();
  await expect(page.getByTestId('chip Clamp')).toBeVisible();
});

test('bad input is named and loses nothing', async ({ page }) => {
  await newShot(page);
  const whole = readFileSync(PLATE[0]!);
  const png = readFileSync(join(MEDIA, 'harbour.png'));
  const file = (name: string, buffer: Buffer) => ({ name, mimeType: 'application/octet-stream', buffer });
  await bringIn(page, [
    file('cut.png', png.subarray(0, 20)),
    file('note.exr', Buffer.from('a note about the harbour')),
    file('half.0001.jpg', whole.subarray(0, 9000)),
  ]);
  await expect(page.getByRole('alert').filter({ hasText: 'cut.png: the file is cut short' })).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'note.exr: it is named .exr but its contents are not OpenEXR' })).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'half.0001.jpg: the file is cut short' })).toBeVisible();
  await expect(page.getByTestId('source cut')).toHaveCount(0);

  // A sequence with a gap and a frame of another size: both are told, the other frames work.
  const small = await page.evaluate(async () => {
    const c = new OffscreenCanvas(32, 18);
    c.getContext('2d')!.fillRect(0, 0, 32, 18);
    return [...new Uint8Array(await (await c.convertToBlob({ type: 'image/jpeg' })).arrayBuffer())];
  });
  await bringIn(page, [file('wall.0001.jpg', whole), file('wall.0002.jpg', Buffer.from(small)), file('wall.0004.jpg', whole)]);
  await expect(page.getByText('wall: frame 3 is missing between 1 and 4')).toBeVisible();
  await expect(page.getByText(/wall\.0002\.jpg is 32×18; the others are 960×540/)).toBeVisible();
  await drag(page, page.getByTestId('source wall'), page.getByTestId('board'));
  await page.keyboard.press('Home');
  await settled(page, 1);
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('alert').filter({ hasText: 'wall.0002.jpg: it is 32×18' })).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('alert').filter({ hasText: '"wall" has no frame 3' })).toBeVisible();
  await page.getByTestId('source wall').click();
  await page.getByRole('combobox', { name: 'Missing' }).click();
  await page.getByRole('option', { name: 'Black' }).click();
  await settled(page, 3);

  // A feed that would be a ring is not offered.
  await page.getByTestId('lane wall').getByText('wall', { exact: true }).first().click();
  await addStep(page, 'Combine mattes');
  await page.getByRole('button', { name: 'Other: none' }).click();
  await expect(page.getByRole('menuitem', { name: 'wall', exact: true })).toBeDisabled();
  await expect(page.getByRole('menuitem', { name: '▸ start' })).toBeEnabled();
  await page.keyboard.press('Escape');
  await menusGone(page);
  await expect(page.getByRole('button', { name: 'Other: none' })).toBeVisible();

  // A drag of a slider is one undo.
  await addStep(page, 'Exposure');
  const slider = (await page.locator('.MuiSlider-root').first().boundingBox())!;
  const middle = { x: slider.x + slider.width / 2, y: slider.y + slider.height / 2 };
  await drag(page, middle, { x: middle.x + 30, y: middle.y });
  const stops = page.getByRole('textbox', { name: 'Exposure (stops)' });
  await expect(stops).not.toHaveValue('0.00');
  await page.keyboard.press('Control+z');
  await expect(stops).toHaveValue('0.00');

  // A number out of range is refused beside its field.
  await addStep(page, 'Screen key');
  const field = page.getByRole('textbox', { name: 'Balance', exact: true });
  await field.click();
  await field.fill('7');
  await field.press('Enter');
  await expect(page.getByText('Balance is at most 1')).toBeVisible();

  // A bundle with a wrong document changes nothing.
  await page.getByRole('link', { name: 'Library' }).click();
  const folder = await mkdtemp(join(tmpdir(), 'ostracon-e2e-'));
  await writeFile(join(folder, 'bad.ostracon'), 'no zip at all');
  const { zipSync, strToU8 } = await import('fflate');
  await writeFile(join(folder, 'wrong.ostracon'), zipSync({ 'shot.json': strToU8('{"schema":"ostracon/1","lanes":[]}') }));
  // The demo film's shots, and the new one.
  const shots = readdirSync('demo/shots').length + 1;
  await expect(page.getByTestId(/^shot /)).toHaveCount(shots);
  await page.getByLabel('Bundle file').setInputFiles([join(folder, 'bad.ostracon'), join(folder, 'wrong.ostracon')]);
  await expect(page.getByRole('alert').filter({ hasText: 'bad.ostracon: this is not a whole bundle' })).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'wrong.ostracon: its shot.json cannot be used' })).toBeVisible();
  await expect(page.getByTestId(/^shot /)).toHaveCount(shots);
});

test('no screen scrolls at 1280×800', async ({ page }) => {
  await openLibrary(page);
  const scrolls = (): Promise<boolean> =>
    page.evaluate(() => document.documentElement.scrollHeight > innerHeight || document.documentElement.scrollWidth > innerWidth);
  expect(await scrolls()).toBe(false);
  await page.getByTestId('shot SG010 keeper').click();
  await settled(page, 24);
  expect(await scrolls()).toBe(false);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Shortcuts' })).toContainText('Add a step after the selected');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+k');
  await page.getByRole('textbox', { name: 'Search steps' }).fill('night grade');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Controls' })).toContainText('Night grade');
});

/** While a chip is dragged its picture is a chip's size and lies under the pointer; dropped where it was it changes nothing. */
async function expectDraggedAtPointer(page: Page, chip: Locator): Promise<void> {
  const box = (await chip.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 20, y - 200, { steps: 4 });
  const dragged = page.locator('span.chip.selected');
  await expect(dragged).toBeVisible();
  await expect(async () => {
    const at = (await dragged.boundingBox())!;
    expect(at.width).toBeLessThan(2 * box.width);
    expect(Math.abs(at.x - x - 20)).toBeLessThan(30);
    expect(Math.abs(at.y - y + 200)).toBeLessThan(30);
  }).toPass();
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(dragged).toHaveCount(0);
}
