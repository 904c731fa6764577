import { execFileSync } from 'node:child_process';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { expect, test } from './fixtures';
import { bringIn, drag, newShot, settled, shownAt } from './helpers';

const ostracon = (...args: string[]): string =>
  execFileSync(process.execPath, ['scripts/run.mjs', 'cli/main.ts', ...args], { encoding: 'utf8' });

test('a file says what its colours are, a guess is shown as one and changed in a click, and DPX comes out', async ({ page }) => {
  const folder = await mkdtemp(join(tmpdir(), 'saltgate-files-'));
  ostracon('convert', 'demo/media/sg010/harbour.png', join(folder, 'harbour.exr'), '--to', 'ACEScg', '--compression', 'PIZ');
  await newShot(page);
  await bringIn(page, join(folder, 'harbour.exr'));
  const source = page.getByTestId('source harbour');
  await expect(source).toContainText('OpenEXR');
  await source.click();
  await expect(page.getByRole('combobox', { name: 'Colour' })).toContainText('ACEScg');
  await expect(page.getByText('A guess: its header names these chromaticities.')).toBeVisible();

  await drag(page, source, page.getByTestId('board'));
  await expect(page.getByTestId('stage').locator('> canvas')).toHaveAttribute('data-frame', /\d/);
  await settled(page);
  const right = await shownAt(page, 760, 300);
  // Read as what it is not, its colours are others; read as what it is again, they are back.
  await source.click();
  await page.getByRole('combobox', { name: 'Colour' }).click();
  await page.getByRole('option', { name: 'Linear Rec.2020' }).click();
  await expect(page.getByText(/^A guess/)).toHaveCount(0);
  await expect(async () => expect((await shownAt(page, 760, 300)).join()).not.toBe(right.join())).toPass();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(async () =>
    (await shownAt(page, 760, 300)).forEach((v, i) => expect(Math.abs(v - right[i]!)).toBeLessThanOrEqual(1)),
  ).toPass();

  await page.getByRole('button', { name: 'Export', exact: true }).click();
  const dialog = page.getByRole('dialog', { name: 'Export' });
  await dialog.getByRole('combobox', { name: 'Files' }).click();
  await page.getByRole('option', { name: 'DPX, 10 bit' }).click();
  await expect(dialog.getByRole('combobox', { name: 'Colour' })).toContainText('Rec.709 camera');
  await dialog.locator('#export-name').fill('out.####');
  const [first, last] = [dialog.getByLabel('First frame'), dialog.getByLabel('Last frame')];
  await first.fill('1');
  await last.fill('1');
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Export zip' }).click();
  const files = unzipSync(new Uint8Array(await readFile(await (await download).path())));
  expect(Object.keys(files)).toEqual(['out.0001.dpx']);
  const path = join(folder, 'out.dpx');
  await writeFile(path, files['out.0001.dpx']!);
  const [report] = JSON.parse(ostracon('inspect', path, '--json')) as {
    container: string;
    channels: { type: string; max: number; crc32: string }[];
  }[];
  expect(report).toMatchObject({ container: 'DPX', format: { width: 960, height: 540 } });
  expect(report!.channels[0]!.type).toBe('10 bit');
  expect(report!.channels[0]!.max).toBeGreaterThan(0.5);
});
