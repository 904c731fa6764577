import { readFile } from 'node:fs/promises';
import { expect } from '@playwright/test';
import type { Locator, Page } from '@playwright/test';
import { unzipSync } from 'fflate';

/** Waits until the stage shows the given frame at full size with nothing under way. */
export async function settled(page: Page, frame?: number): Promise<void> {
  const canvas = page.getByTestId('stage').locator('> canvas');
  if (frame !== undefined) await expect(canvas).toHaveAttribute('data-frame', String(frame));
  await expect(canvas).toHaveAttribute('data-scale', '1');
  await expect(canvas).toHaveAttribute('data-drawn', 'yes');
  await expect(page.getByLabel('Computing')).toHaveCount(0);
}

/** What the stage shows at a place of the shot's frame, as 0..255, once it is near the wanted colour. */
export async function expectShown(
  page: Page,
  x: number,
  y: number,
  wanted: readonly [number, number, number],
  tolerance = 6,
): Promise<void> {
  await expect(async () => {
    const got = await shownAt(page, x, y);
    got.forEach((v, i) => expect(Math.abs(v - wanted[i]!), `shown ${got.join(' ')}`).toBeLessThanOrEqual(tolerance));
  }).toPass({ timeout: 20_000 });
}

/** The stage's pixel at a place of a 960×540 frame that is fitted. */
export async function shownAt(page: Page, x: number, y: number): Promise<number[]> {
  return page.evaluate(
    async ([px, py]) => {
      // What a worker has drawn reaches the page with one of its next frames.
      for (let i = 0; i < 3; i++) await new Promise(requestAnimationFrame);
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="stage"] > canvas')!;
      const copy = document.createElement('canvas');
      copy.width = canvas.clientWidth;
      copy.height = canvas.clientHeight;
      const fit = Math.min((copy.width - 44) / 960, (copy.height - 44) / 540);
      const context = copy.getContext('2d')!;
      context.drawImage(canvas, 0, 0);
      const at = [copy.width / 2 + (px! - 480) * fit, copy.height / 2 + (py! - 270) * fit].map(Math.round);
      return [...context.getImageData(at[0]!, at[1]!, 1, 1).data.slice(0, 3)];
    },
    [x, y],
  );
}

/** Where a place of the fitted 960×540 frame lies on the page. */
export async function stagePoint(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const box = (await page.getByTestId('stage').boundingBox())!;
  const fit = Math.min((box.width - 44) / 960, (box.height - 44) / 540);
  return { x: box.x + box.width / 2 + (x - 480) * fit, y: box.y + box.height / 2 + (y - 270) * fit };
}

/** A drag as a hand does it, in several moves. */
export async function drag(page: Page, from: Locator | { x: number; y: number }, to: Locator | { x: number; y: number }): Promise<void> {
  const centre = async (p: Locator | { x: number; y: number }): Promise<{ x: number; y: number }> => {
    if (!('boundingBox' in p)) return p;
    const b = (await p.boundingBox())!;
    return { x: b.x + b.width / 2, y: b.y + b.height / 2 };
  };
  const [a, b] = [await centre(from), await centre(to)];
  await page.mouse.move(a.x, a.y);
  await page.mouse.down();
  for (let i = 1; i <= 6; i++) await page.mouse.move(a.x + ((b.x - a.x) * i) / 6, a.y + ((b.y - a.y) * i) / 6);
  // What lies under the pointer is looked up by frames.
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
  await page.mouse.move(b.x, b.y);
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
  await page.mouse.up();
}

/** Opens the Library and waits for the demo film. */
export async function openLibrary(page: Page): Promise<void> {
  await page.goto('/');
  await expect(page.getByTestId('shot SG010 keeper')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText('Bringing in the demo film')).toHaveCount(0, { timeout: 180_000 });
}

/** Opens a shot of the demo film by its address, and waits for its picture. */
export async function openShot(page: Page, id: string, frame?: number): Promise<void> {
  await page.goto(`/shot/${id}`);
  await settled(page, frame);
}

export async function goTo(page: Page, frame: number): Promise<void> {
  const field = page.getByRole('textbox', { name: 'Frame', exact: true });
  await field.click();
  await field.fill(String(frame));
  await field.press('Enter');
}

/** Makes a new, empty shot. */
export async function newShot(page: Page): Promise<void> {
  await openLibrary(page);
  await page.getByRole('button', { name: 'New shot', exact: true }).click();
  await expect(page.getByText('Drop a folder of frames')).toBeVisible();
}

export const bringIn = async (page: Page, files: Parameters<Locator['setInputFiles']>[0]): Promise<void> => {
  await page.locator('#choose-files').setInputFiles(files);
  await expect(page.getByText('Bringing in')).toHaveCount(0, { timeout: 60_000 });
};

/** Adds a step by its name from the list that / opens. */
export async function addStep(page: Page, title: string): Promise<void> {
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Add a step' }).fill(title);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Controls' }).getByText(title, { exact: true }).first()).toBeVisible();
}

/** Types a number into a control, and leaves it. */
export async function setNumber(page: Page, label: string, value: number): Promise<void> {
  const field = page.getByRole('textbox', { name: label, exact: true });
  await field.click();
  await field.fill(String(value));
  await field.press('Enter');
  await field.blur();
}

/** Exports the whole range, or a part of it, as numbered files of a kind, out.####, and opens the zip. */
export async function exportZip(page: Page, kind: string, range?: { first: number; last: number }): Promise<Record<string, Uint8Array>> {
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  const dialog = page.getByRole('dialog', { name: 'Export' });
  await dialog.getByRole('combobox', { name: 'Files' }).click();
  await page.getByRole('option', { name: kind }).click();
  await dialog.locator('#export-name').fill('out.####');
  if (range) for (const end of ['first', 'last'] as const) await dialog.locator(`#export-${end}`).fill(String(range[end]));
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Export zip' }).click();
  return unzipSync(new Uint8Array(await readFile(await (await download).path())));
}

/** Takes the pen of a step with shapes: its overlay is loaded when it is first wanted. */
export async function takePen(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Pen', exact: true }).click();
  await expect(page.getByTestId('draw-shape').locator('canvas')).toBeVisible();
}

/** Menus leave the page slowly, and take what is clicked meanwhile. */
export const menusGone = (page: Page): Promise<void> => expect(page.locator('.MuiModal-root')).toHaveCount(0);
