import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import sharp from 'sharp';
import { deltaE2000, labOf } from '@/core/colour/delta-e';
import { SRGB } from '@/core/colour/transfer';
import { invert } from '@/core/geometry/fit';
import { applyHomography, mapPoint } from '@/core/geometry/homography';
import { PANEL, SG020, renderTable, renderTide, tableAt } from '@/demo/sg020';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, exportZip, goTo, menusGone, newShot, openShot, setNumber, settled, stagePoint } from './helpers';

const media = (shot: string, name: string, frames: readonly number[], ending: string): string[] =>
  frames.map((f) => join(process.cwd(), `demo/media/${shot}/${name}.${String(f).padStart(4, '0')}.${ending}`));
const frames = [20, 21, 22, 23, 24, 25, 26, 27, 28];

/** The panel on frame 1, and a region around its frame. */
const corners = PANEL.map(([x, y]) => mapPoint(tableAt(1), x, y));
const AROUND = [
  [280, 70],
  [730, 90],
  [725, 420],
  [280, 420],
] as const;

async function openBegun(page: Page): Promise<void> {
  await openShot(page, 'sg020-begun');
  // As it came: nothing that another test did to it.
  await expect(page.getByTestId(/^lane /)).toHaveCount(1);
  await goTo(page, 1);
  await settled(page, 1);
}

async function drawShape(page: Page, shape: readonly (readonly [number, number])[]): Promise<void> {
  for (const [x, y] of shape) {
    const p = await stagePoint(page, x, y);
    await page.mouse.click(p.x, p.y);
  }
  await page.keyboard.press('Enter');
}

/** Measures the plane from frame 1 to another. */
async function measureTo(page: Page, last: number): Promise<void> {
  await setNumber(page, 'Last frame measured', last);
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByTestId('reading Plane 1')).toContainText(`1–${last} of 1–${last}`, { timeout: 120_000 });
}

test('a plate is steadied: a point is clicked and measured, the frame is filled, and what goes out stands still', async ({ page }) => {
  await newShot(page);
  await bringIn(page, media('sg060', 'mooring', frames, 'jpg'));
  await drag(page, page.getByTestId('source mooring'), page.getByTestId('board'));
  await settled(page);
  await page.getByRole('tab', { name: 'Readings' }).click();
  await page.getByRole('button', { name: 'New', exact: true }).click();
  await page.getByRole('menuitem', { name: /^A point/ }).click();
  await menusGone(page);
  const at = await stagePoint(page, 608, 266);
  await page.mouse.click(at.x, at.y);
  await expect(page.getByTestId('reading Point 1')).toContainText('not measured');
  await expect(page.getByTestId('pattern-view')).toBeVisible();
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByTestId('reading Point 1')).toContainText('20–28 of 20–28', { timeout: 60_000 });
  await expect(page.getByTestId('reading Point 1')).toContainText(/confidence (9\d|100) %/);

  // The charts, and a click on one goes to its frame.
  await page.getByRole('tab', { name: 'Readings', exact: true }).last().click();
  const chart = page.getByTestId('chart Motion, px');
  await expect(chart).toBeVisible();
  const box = (await chart.locator('svg').first().boundingBox())!;
  const end = [box.x + box.width - 14, box.y + box.height / 2] as const;
  await page.mouse.move(...end);
  await expect(chart.getByText('frame 28')).toBeVisible();
  await page.mouse.click(...end);
  await expect(page.getByRole('textbox', { name: 'Frame', exact: true })).toHaveValue('0028');

  // Held still: a way of looking that adds no step.
  await page.getByRole('button', { name: 'Hold the detail still' }).click();
  await expect(page.getByText('held still ×')).toBeVisible();
  await page.getByText('held still ×').click();

  await page.getByRole('button', { name: 'Steady this plate' }).click();
  await expect(page.getByTestId('chip Steady')).toBeVisible();
  await expect(page.getByTestId('fill-scale')).toContainText(/×1\.\d/);
  // Over the steadied picture the path would be off: it is not drawn there, and says where it is.
  await page.getByTestId('reading Point 1').click();
  await expect(page.getByTestId('point-overlay')).toBeVisible();
  await page.getByRole('button', { name: /^What is seen/ }).click();
  await page.getByRole('menuitem', { name: 'Result' }).click();
  await expect(page.getByTestId('point-overlay')).toHaveCount(0);
  await page.getByRole('button', { name: /was measured before this picture was moved/ }).click();
  await expect(page.getByTestId('point-overlay')).toBeVisible();
  // Frames that are thrown away are measured again one by one.
  await goTo(page, 26);
  await page.getByRole('button', { name: 'one ›' }).click();
  await expect(page.getByRole('textbox', { name: 'Frame', exact: true })).toHaveValue('0027');
  await expect(page.getByTestId('reading Point 1')).toContainText('20–28 of 20–28');
  await settled(page);
  const files = await exportZip(page, 'PNG, 8 bit');
  const folder = mkdtempSync(join(tmpdir(), 'steady-'));
  for (const [name, bytes] of Object.entries(files)) {
    writeFileSync(join(folder, name), bytes);
    // No edge shows: the border is as covered as the middle.
    const { data, info } = await sharp(bytes).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
    const alphaAt = (x: number, y: number): number => data[4 * (y * info.width + x) + 3]!;
    const border = [
      ...Array.from({ length: info.width }, (_, x) => [alphaAt(x, 0), alphaAt(x, info.height - 1)]),
      ...Array.from({ length: info.height }, (_, y) => [alphaAt(0, y), alphaAt(info.width - 1, y)]),
    ].flat();
    expect(Math.min(...border), name).toBe(255);
  }
  const read = execFileSync(
    process.execPath,
    ['scripts/run.mjs', 'cli/main.ts', 'read', 'point', join(folder, 'out.####.png'), '--at', '608,266', '--frame', '24', '--json'],
    { encoding: 'utf8' },
  );
  const found = (JSON.parse(read) as { frames: { x: number; y: number }[] }).frames;
  const off = found.map((f) => Math.hypot(f.x - 608, f.y - 266));
  expect(Math.sqrt(off.reduce((s, v) => s + v * v, 0) / off.length)).toBeLessThan(0.15);
});

test('the tide chart goes onto the panel: a region is drawn and measured, the picture pinned, frozen and freed again', async ({ page }) => {
  await openBegun(page);
  await page.getByRole('tab', { name: 'Readings' }).click();
  await page.getByRole('button', { name: 'New', exact: true }).click();
  await page.getByRole('menuitem', { name: /^A plane/ }).click();
  await menusGone(page);
  await drawShape(page, corners);
  await expect(page.getByTestId('reading Plane 1')).toBeVisible();
  // A further shape makes the frame around the panel part of the plane.
  await page.getByRole('button', { name: '+ shape' }).click();
  await drawShape(page, AROUND);
  await measureTo(page, 8);

  // Held still: the middle of its surface stays where it was on the reference frame.
  await page.getByRole('button', { name: 'Hold its middle still' }).click();
  await page.getByText('held still ×').click();

  await page.getByRole('button', { name: 'Pin a picture here' }).click();
  await page.getByRole('menuitem', { name: 'tide chart' }).click();
  await expect(page.getByTestId('lane tide chart insert')).toBeVisible();
  await goTo(page, 6);
  await settled(page, 6);
  // Paper of the chart on the panel: warmer than the bare board, and the wall as it was.
  const { colourAt } = await pictureOf(page, 6);
  const [r, , b] = colourAt(560, 200);
  expect(r! - b!).toBeGreaterThan(14);

  await page.getByTestId('chip Pin').click();
  await page.getByRole('button', { name: 'Freeze to keys' }).click();
  await expect(page.getByText('Stands on keys')).toBeVisible();
  const frozen = (await pictureOf(page, 6)).colourAt(560, 200);
  frozen.forEach((v, i) => expect(Math.abs(v - colourAt(560, 200)[i]!)).toBeLessThan(6));
  // What has no effect now is not shown: the reading's field is gone, the corners are there.
  const controls = page.getByRole('region', { name: 'Controls' });
  await expect(controls.getByRole('combobox', { name: 'Plane' })).toHaveCount(0);
  await expect(controls.getByText('Top left', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Unfreeze' }).click();
  await expect(controls.getByRole('combobox', { name: 'Plane' })).toBeVisible();
  await expect(page.getByText('Follows its reading live')).toBeVisible();
});

test('a chart stands on the panel with the arm in front, and what goes out is what the camera would have seen', async ({ page }) => {
  await openBegun(page);
  const box = async (x0: number, y0: number, x1: number, y1: number): Promise<void> =>
    drag(page, await stagePoint(page, x0, y0), await stagePoint(page, x1, y1));
  await page.keyboard.press('Shift+T');
  await drawShape(page, corners);
  await page.getByRole('button', { name: '+ shape' }).click();
  await drawShape(page, AROUND);
  await measureTo(page, 24);
  await page.getByRole('button', { name: 'Pin a picture here' }).click();
  await page.getByRole('menuitem', { name: 'tide chart' }).click();
  await expect(page.getByTestId('lane tide chart insert')).toBeVisible();

  // The arm: a key of its own from the plate's start, told from the board by samples.
  const controls = page.getByRole('region', { name: 'Controls' });
  await page.getByRole('button', { name: 'Menu of lane table', exact: true }).click();
  await page.getByRole('menuitem', { name: 'New lane from the start of this one' }).click();
  await menusGone(page);
  await goTo(page, 24);
  await page.getByTestId('lane table tap').getByText('table tap', { exact: true }).first().click();
  await addStep(page, 'Range key');
  await page.keyboard.press('v');
  await settled(page, 24);
  await controls.getByRole('button', { name: 'Mark screen' }).click();
  await box(345, 150, 480, 290);
  await expect(page.getByTestId('sample screen 24')).toBeVisible();
  await controls.getByRole('button', { name: 'Mark subject' }).click();
  await box(602, 287, 650, 320);
  await expect(page.getByTestId('sample subject 24')).toHaveCount(1);
  await box(522, 240, 550, 258);
  await expect(page.getByTestId('sample subject 24')).toHaveCount(2);
  await page.keyboard.press('Escape');
  await addStep(page, 'Tidy matte');
  await setNumber(page, 'Specks up to (px across)', 60);
  await page.getByTestId('chip Pin').click();
  await addStep(page, 'Combine mattes');
  await controls.getByRole('combobox', { name: 'Operation' }).click();
  await page.getByRole('option', { name: /^Subtraction/ }).click();
  await menusGone(page);
  await controls.getByRole('button', { name: /^Other: / }).click();
  await page.getByRole('menuitem', { name: /^table tap$/ }).click();
  await menusGone(page);
  // The board's light, as a grade.
  await page.getByTestId('chip Match the light').click();
  await setNumber(page, 'Exposure (stops)', -0.05);
  await page.getByRole('button', { name: /^What is seen/ }).click();
  await page.getByRole('menuitem', { name: 'Result' }).click();
  await menusGone(page);
  await settled(page, 24);

  const files = await exportZip(page, 'PNG, 8 bit', { first: 24, last: 24 });
  const { data } = await sharp(Object.values(files)[0]!).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  const light = (i: number): [number, number, number] =>
    [0, 1, 2].map((c) => SRGB.decode(data[3 * i + c]! / 255)) as [number, number, number];
  const { plate, front } = renderTable(24, { ...SG020, noise: 0 });
  const tide = renderTide(24, 480, 320);
  const back = invert(tableAt(24))!;
  let [chart, arm, charted, armed] = [0, 0, 0, 0];
  for (let y = 100; y < 400; y++) {
    for (let x = 300; x < 700; x++) {
      const [u, v] = applyHomography(back, x + 0.5, y + 0.5);
      const [s, t] = [(u - PANEL[0][0]) / 326, (v - PANEL[0][1]) / 220];
      const i = y * 960 + x;
      if (s < 0.05 || t < 0.05 || s > 0.95 || t > 0.95 || (front[i]! > 0 && front[i]! < 0.98)) continue;
      const there = [plate[3 * i]!, plate[3 * i + 1]!, plate[3 * i + 2]!] as const;
      if (front[i]! >= 0.98) {
        arm += deltaE2000(labOf(...light(i)), labOf(...there));
        armed++;
        continue;
      }
      const cross = Math.min(u - PANEL[0][0], PANEL[2][0] - u) < 34 && Math.min(v - PANEL[0][1], PANEL[2][1] - v) < 34;
      if (cross) continue;
      const at = 3 * (Math.floor(t * 320) * 480 + Math.floor(s * 480));
      const lit = [0, 1, 2].map((c) => (tide[at + c]! * there[c]!) / (0.4825 * [1, 0.97, 0.88][c]!)) as [number, number, number];
      chart += deltaE2000(labOf(...light(i)), labOf(...lit));
      charted++;
    }
  }
  // Measured: 2.9 on the chart, where one grade stands for the light's fall across the board; 1.2 on the arm, which is the plate's own.
  expect(arm / armed).toBeLessThan(2);
  expect(chart / charted).toBeLessThan(4);
});

test('four points, clicked in any order, hold a picture; one that was stopped goes on; the guide hatches where a fourth would not do', async ({
  page,
}) => {
  await openBegun(page);
  // The marks in the panel's corners, and an order that goes around nothing.
  const inset = [
    [20, 20],
    [-20, 20],
    [-20, -20],
    [20, -20],
  ] as const;
  const marks = PANEL.map(([x, y], i) => mapPoint(tableAt(1), x + inset[i]![0], y + inset[i]![1]));
  for (const [k, i] of [2, 0, 3, 1].entries()) {
    await page.keyboard.press('t');
    await expect(page.getByTestId('area-guide')).toHaveCount(k === 3 ? 1 : 0);
    const p = await stagePoint(page, ...marks[i]!);
    await page.mouse.click(p.x, p.y);
    const row = page.getByTestId(`reading Point ${k + 1}`);
    await expect(row).toContainText('not measured');
    await page.keyboard.press('Escape');
    await setNumber(page, 'Last frame measured', 2);
    await page.getByRole('button', { name: 'Measure', exact: true }).click();
    await expect(row).toContainText('1–2 of 1–2', { timeout: 60_000 });
    await setNumber(page, 'Last frame measured', 4);
    await page.getByRole('button', { name: 'Go on from 2' }).click();
    await expect(row).toContainText('1–4 of 1–4', { timeout: 60_000 });
    await expect(page.getByRole('button', { name: /^Go on/ })).toHaveCount(0);
  }
  // The guide is there for a point that stands, too, and speaks up where it stands badly.
  await goTo(page, 1);
  await page.getByRole('button', { name: 'Area guide' }).click();
  await expect(page.getByTestId('area-guide')).toBeVisible();
  await expect(page.getByText('a perspective needs four that span an area')).toHaveCount(0);
  await page.getByRole('button', { name: 'Area guide' }).click();

  await page.getByRole('button', { name: 'Pin a picture here' }).click();
  await page.getByRole('menuitem', { name: 'tide chart' }).click();
  await page.getByTestId('chip Pin').click();
  const controls = page.getByRole('region', { name: 'Controls' });
  for (const [field, point] of [
    ['Top left point', 'Point 2'],
    ['Top right point', 'Point 4'],
    ['Bottom right point', 'Point 1'],
    ['Bottom left point', 'Point 3'],
  ] as const)
    await expect(controls.getByRole('combobox', { name: field })).toHaveText(point);
  await goTo(page, 3);
  const { colourAt } = await pictureOf(page, 3);
  const [r, , b] = colourAt(560, 200);
  expect(r! - b!).toBeGreaterThan(14);
});

test('readings travel as tables; a damaged one is refused with its line; a used one is not deleted', async ({ page }) => {
  await openShot(page, 'sg060');
  await page
    .getByRole('tab', { name: /^Readings/ })
    .first()
    .click();
  const menu = async (item: string): Promise<void> => {
    await page.getByRole('button', { name: 'Menu of reading The painted seven' }).click();
    await page.getByRole('menuitem', { name: item }).click();
  };
  const download = page.waitForEvent('download');
  await menu('Save as CSV');
  const path = await (await download).path();
  await page.getByLabel('Readings from a file').setInputFiles({ name: 'again.csv', mimeType: 'text/csv', buffer: await readAll(path) });
  await expect(page.getByTestId('reading again')).toContainText('1–48');
  await page
    .getByLabel('Readings from a file')
    .setInputFiles({ name: 'bad.csv', mimeType: 'text/csv', buffer: Buffer.from('frame,x,y\n1,2,3\n2,oops,4\n') });
  await expect(page.getByText('line 3 is not a frame and two numbers')).toBeVisible();
  await menu('Delete');
  await expect(page.getByText('uses this reading')).toBeVisible();
  await expect(page.getByTestId('reading The painted seven')).toBeVisible();
});

const readAll = async (path: string): Promise<Buffer> => (await import('node:fs/promises')).readFile(path);

/** The stage as it is shown once the frame has settled. */
async function pictureOf(page: Page, frame: number): Promise<{ colourAt(x: number, y: number): number[] }> {
  await settled(page, frame);
  const png = await page.getByTestId('stage').screenshot();
  const { data, info } = await sharp(png).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  const fit = Math.min((info.width - 44) / 960, (info.height - 44) / 540);
  return {
    colourAt(x, y) {
      const [u, v] = [Math.round(info.width / 2 + (x - 480) * fit), Math.round(info.height / 2 + (y - 270) * fit)];
      return [0, 1, 2].map((c) => data[3 * (v * info.width + u) + c]!);
    },
  };
}
