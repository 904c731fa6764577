import { execFileSync } from 'node:child_process';
import { cp, mkdir, mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, goTo, newShot, settled, shownAt } from './helpers';

const ostracon = (...args: string[]): string =>
  execFileSync(process.execPath, ['scripts/run.mjs', 'cli/main.ts', ...args], { encoding: 'utf8' });
const folderFor = (name: string): Promise<string> => mkdtemp(join(tmpdir(), `saltgate-${name}-`));

interface Report {
  container: string;
  layers: string[];
  ids: { name: string; objects: string[] }[];
  channels: { name: string; type: string; min: number; max: number; crc32: string }[];
}
const inspect = (path: string): Report => (JSON.parse(ostracon('inspect', path, '--json')) as Report[])[0]!;

/** Frames of flat grey, each of its own: frame n has the code value 10·n. */
async function greys(folder: string, count: number): Promise<string[]> {
  const paths: string[] = [];
  for (let n = 1; n <= count; n++) {
    // Binary Radiance is the plainest of all formats to write: flat pixels, exponent 128.
    const light = 10 * n;
    const head = `#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 36 +X 64\n`;
    const pixels = Buffer.concat(Array.from({ length: 36 * 64 }, () => Buffer.from([light, light, light, 128])));
    const path = join(folder, `grey.${String(n).padStart(3, '0')}.hdr`);
    await writeFile(path, Buffer.concat([Buffer.from(head), pixels]));
    paths.push(path);
  }
  return paths;
}

const chooseIn = async (page: Page, label: string, option: string | RegExp): Promise<void> => {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  await page.getByRole('option', { name: option }).click();
};

/** Opens the export dialog, lets it be filled in, and returns what comes down. */
async function exported(page: Page, button: string, fill: () => Promise<void>): Promise<Uint8Array> {
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await fill();
  const download = page.waitForEvent('download');
  await page.getByRole('dialog', { name: 'Export' }).getByRole('button', { name: button }).click();
  return new Uint8Array(await readFile(await (await download).path()));
}

test('a folder of two sequences, a movie and a pass set is four sources; layers are seen, and chosen ones go out', async ({ page }) => {
  const folder = await folderFor('folder');
  const inside = join(folder, 'reel');
  await mkdir(join(inside, 'tiff'), { recursive: true });
  for (const n of ['0001', '0002', '0004']) await cp(`demo/media/sg010/keeper.${n}.jpg`, join(inside, `keeper.${n}.jpg`));
  ostracon('convert', 'demo/media/sg030/quay.####.jpg', join(inside, 'tiff', 'quay.####.tif'), '--frames', '1-2', '--bits', '8');
  for (const n of ['0001', '0002']) await cp(`demo/media/sg030/diver.${n}.exr`, join(inside, `diver.${n}.exr`));
  await newShot(page);
  await bringIn(page, await greys(folder, 3));
  await drag(page, page.getByTestId('source grey'), page.getByTestId('board'));
  const movie = await exported(page, 'Export movie', () => chooseIn(page, 'Files', 'Movie: WebM, VP9'));
  await writeFile(join(inside, 'reel.webm'), movie);

  await newShot(page);
  await page.locator('#choose-folder').setInputFiles(inside);
  await expect(page.getByText('Bringing in')).toHaveCount(0, { timeout: 60_000 });
  await expect(page.getByTestId(/^source /)).toHaveCount(4);
  await expect(page.getByTestId('source keeper')).toContainText('JPEG · 1–4');
  await expect(page.getByTestId('source quay')).toContainText('TIFF · 1–2');
  await expect(page.getByTestId('source reel')).toContainText('WebM · 1–3');
  await expect(page.getByTestId('source diver')).toContainText('18 layers');
  await expect(page.getByText('keeper: frame 3 is missing between 1 and 4')).toBeVisible();

  // A colour space that was guessed wrongly is put right.
  await page.getByTestId('source quay').click();
  await expect(page.getByText(/A guess: integer TIFF/)).toBeVisible();
  await chooseIn(page, 'Colour', 'Rec.709 camera');
  await expect(page.getByText(/^A guess/)).toHaveCount(0);

  // Gaps are told where the source is.
  await page.getByTestId('source keeper').click();
  await expect(page.getByRole('region', { name: 'Sources' }).getByText('3', { exact: true })).toBeVisible();

  // All layers, with pictures in them and the ranges of their channels.
  await drag(page, page.getByTestId('source diver'), page.getByTestId('board'));
  await page.getByTestId('source diver').click();
  await page.getByRole('button', { name: '18 layers' }).click();
  const grid = page.getByRole('dialog', { name: 'Layers of diver' });
  await expect(grid.getByTestId(/^layer /)).toHaveCount(19);
  await expect(grid.getByText('CryptoObject names 8 things: helmet, glass, suit, corselet, boots, lamp, hose, bollard.')).toBeVisible();
  await expect(grid.getByTestId('layer N').locator('td').nth(2)).toHaveText(/^(0\.99|1)/);
  for (const name of ['main', 'emission', 'light_rim', 'Z', 'N', 'objectId', 'CryptoObject00']) {
    await expect(async () => {
      const colours = await grid
        .getByTestId(`layer ${name}`)
        .locator('canvas')
        .evaluate((c: HTMLCanvasElement) => new Set(c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data).size);
      expect(colours, name).toBeGreaterThan(3);
    }).toPass();
  }
  await grid.getByTestId('layer light_lamp').getByRole('button', { name: 'Show' }).click();
  await settled(page);
  await expect(page.getByRole('button', { name: 'Layer: light_lamp' })).toBeVisible();

  // Out with three of the layers, and read again.
  const zip = await exported(page, 'Export zip', async () => {
    await chooseIn(page, 'Files', 'OpenEXR, half float');
    const dialog = page.getByRole('dialog', { name: 'Export' });
    await dialog.getByRole('button', { name: 'Main only' }).click();
    for (const layer of ['diffuse', 'CryptoObject00', 'CryptoObject01', 'objectId'])
      await dialog.getByLabel(layer, { exact: true }).check();
    await dialog.locator('#export-name').fill('chosen.####');
    // Numbers are those of the frames until others are given.
    await dialog.getByLabel('First frame').fill('2');
    await expect(dialog.getByText('as in chosen.0002.exr')).toBeVisible();
    await dialog.getByLabel('First frame').fill('1');
    await dialog.getByLabel('Numbers from').fill('1001');
  });
  const files = unzipSync(zip);
  expect(Object.keys(files)).toEqual(['chosen.1001.exr', 'chosen.1002.exr', 'chosen.1003.exr', 'chosen.1004.exr']);
  await writeFile(join(folder, 'chosen.exr'), files['chosen.1001.exr']!);
  const [out, original] = [inspect(join(folder, 'chosen.exr')), inspect(join(inside, 'diver.0001.exr'))];
  expect(out.layers).toEqual(['', 'CryptoObject00', 'CryptoObject01', 'diffuse', 'objectId']);
  expect(out.ids[0]!.objects).toHaveLength(8);
  const range = (r: Report, name: string) => {
    const { type, min, max } = r.channels.find((c) => c.name === name)!;
    return { type, min, max };
  };
  // Light, ids and counts came through to the bit, each stored as it was.
  for (const name of ['R', 'diffuse.G', 'CryptoObject00.R', 'objectId.Y']) expect(range(out, name)).toEqual(range(original, name));
});

test('movies: frames come out in order and are found again exactly, first, last and in between', async ({ page }) => {
  const folder = await folderFor('movies');
  await newShot(page);
  await bringIn(page, await greys(folder, 20));
  await drag(page, page.getByTestId('source grey'), page.getByTestId('board'));
  await settled(page, 20);
  const middle = async (): Promise<number> => (await shownAt(page, 480, 270))[1]!;
  const wanted: Record<number, number> = {};
  const frames = [1, 20, 7, 13, 8, 2, 19];
  for (const f of frames) {
    await goTo(page, f);
    await settled(page, f);
    wanted[f] = await middle();
  }
  for (const [kind, ending] of [
    ['Movie: MP4, H.264', 'mp4'],
    ['Movie: WebM, VP9', 'webm'],
    ['Movie: WebM, AV1', 'webm'],
  ] as const) {
    const movie = await exported(page, 'Export movie', async () => {
      await chooseIn(page, 'Files', kind);
      await chooseIn(page, 'Movie quality', /^Very high/);
    });
    const name = `${kind.slice(-4).replace(/\W/g, '')}.${ending}`;
    await writeFile(join(folder, name), movie);
    await bringIn(page, join(folder, name));
    const source = page.getByTestId(`source ${name.replace(/\.\w+$/, '')}`);
    await expect(source).toContainText('1–20');
    await drag(page, source, page.getByTestId('board'));
    for (const f of frames) {
      await goTo(page, f);
      await settled(page, f);
      // Neighbouring frames are a good six codes apart.
      expect(Math.abs((await middle()) - wanted[f]!), `${kind}, frame ${f}`).toBeLessThanOrEqual(2);
    }
  }
});

test('a colour table is a source: a step uses it, and the stage looks through it', async ({ page }) => {
  const folder = await folderFor('tables');
  const path = join(folder, 'inverse.cube');
  const rows = [0, 1].flatMap((b) => [0, 1].flatMap((g) => [0, 1].map((r) => `${1 - r} ${1 - g} ${1 - b}`)));
  await writeFile(path, ['TITLE "inverse"', 'LUT_3D_SIZE 2', ...rows].join('\n'));
  await newShot(page);
  await bringIn(page, 'demo/media/sg010/harbour.png');
  await bringIn(page, path);
  await expect(page.getByTestId('source inverse')).toContainText('cube of 2³');
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await settled(page, 24);
  const plain = await shownAt(page, 700, 420);
  // The table takes sRGB codes and the stage shows sRGB: what is seen through it is the negative.
  await page.getByRole('button', { name: /^How light becomes/ }).click();
  await page.getByRole('menuitem', { name: /^inverse/ }).click();
  await expect(async () =>
    (await shownAt(page, 700, 420)).forEach((v, i) => expect(Math.abs(v - (255 - plain[i]!))).toBeLessThanOrEqual(2)),
  ).toPass();
  await page.getByRole('button', { name: /^How light becomes/ }).click();
  await page.getByRole('menuitem', { name: /^sRGB/ }).click();
  await addStep(page, 'LUT');
  await chooseIn(page, 'Table', 'inverse');
  await chooseIn(page, 'It takes', 'sRGB');
  await chooseIn(page, 'It gives', 'sRGB');
  await expect(async () =>
    (await shownAt(page, 700, 420)).forEach((v, i) => expect(Math.abs(v - (255 - plain[i]!))).toBeLessThanOrEqual(2)),
  ).toPass();
  // A table that is used cannot be removed unnoticed.
  await page.getByRole('button', { name: 'Menu of source inverse' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect(page.getByText(/the step "LUT" of "harbour" uses this table/)).toBeVisible();
});

test('missing files are said and found again; another version takes a source’s place; files in the way are asked about', async ({
  page,
}) => {
  // The browser's own folder stands in for one that a user would pick.
  await page.addInitScript(() => Object.assign(window, { showDirectoryPicker: () => navigator.storage.getDirectory() }));
  const folder = await folderFor('relink');
  const paths = await greys(folder, 4);
  await newShot(page);
  await bringIn(page, paths);
  await drag(page, page.getByTestId('source grey'), page.getByTestId('board'));
  await settled(page, 4);
  // A page that is opened stands at the middle frame.
  await goTo(page, 2);
  await settled(page, 2);
  const shown = await shownAt(page, 489, 279);
  const forget = async (): Promise<void> => {
    await page.evaluate(
      () =>
        new Promise<void>((done, fail) => {
          const open = indexedDB.open('ostracon-media');
          open.onerror = () => fail(open.error);
          open.onsuccess = () => {
            const t = open.result.transaction('media', 'readwrite');
            t.objectStore('media').clear();
            t.oncomplete = () => done();
          };
        }),
    );
    await expect(page.getByTestId('saved')).toHaveText('Saved');
    await page.reload();
    await expect(page.getByText('4 of 4 files are missing')).toBeVisible();
    await expect(page.getByText(/is not in this browser's storage/).first()).toBeVisible();
  };
  await forget();
  // The very same files change nothing in the shot, but the picture comes back.
  await page.getByLabel('Files for grey').setInputFiles(paths);
  await expect(page.getByText('4 of 4 files of "grey" were found.')).toBeVisible();
  await expect(page.getByText(/is not in this browser's storage/)).toHaveCount(0);
  await expect(async () => expect(await shownAt(page, 489, 279)).toEqual(shown)).toPass();
  await forget();
  // One file is another than before: its name finds it, and that is said.
  await writeFile(paths[1]!, await readFile(paths[2]!));
  await page.getByLabel('Files for grey').setInputFiles(paths);
  await expect(page.getByText(/4 of 4 files of "grey" were found, 1 of them by name only/)).toBeVisible();
  await expect(page.getByText(/files are missing/)).toHaveCount(0);
  await settled(page);

  await page.getByRole('button', { name: 'Menu of source grey' }).click();
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('menuitem', { name: 'Replace with another version' }).click();
  await (await chooser).setFiles(['demo/media/sg030/quay.0001.jpg', 'demo/media/sg030/quay.0002.jpg']);
  await expect(page.getByTestId('source grey')).toContainText('JPEG · 1–2');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByTestId('source grey')).toContainText('Radiance · 1–4');

  const toFolder = async (): Promise<void> => {
    await page.getByRole('button', { name: 'Export', exact: true }).click();
    await chooseIn(page, 'Files', 'WebP');
    const dialog = page.getByRole('dialog', { name: 'Export' });
    await dialog.locator('#export-name').fill('look.##');
    await dialog.getByLabel('Step').fill('3');
    await dialog.getByRole('button', { name: 'To a folder' }).click();
  };
  await toFolder();
  await expect(page.getByText(/2 frames exported/)).toBeVisible();
  await toFolder();
  const asked = page.getByRole('alertdialog');
  await expect(asked).toContainText('2 of 2 files are in that folder already, the first being look.01.webp.');
  await asked.getByRole('button', { name: 'Keep them' }).click();
  await expect(page.getByText(/0 frames exported/)).toBeVisible();
});

test('linked files are read where they lie; proxies stand in at a smaller size; without room nothing is begun', async ({ page }) => {
  // The browser's own folder stands in for files that a user would pick, and its quota can be made small.
  await page.addInitScript(() => {
    const pick = async () => {
      const root = await navigator.storage.getDirectory();
      const found: FileSystemHandle[] = [];
      for await (const h of (root as unknown as { values(): AsyncIterable<FileSystemHandle> }).values()) found.push(h);
      return found.filter((h) => h.name.endsWith('.hdr'));
    };
    Object.assign(window, { showOpenFilePicker: pick });
    const estimate = navigator.storage.estimate.bind(navigator.storage);
    navigator.storage.estimate = async () => {
      const e = await estimate();
      return 'full' in window ? { usage: 900e6, quota: 1000e6 - 36e6 } : e;
    };
  });
  const folder = await folderFor('links');
  const paths = await greys(folder, 2);
  await newShot(page);
  for (const path of paths) {
    const bytes = [...(await readFile(path))];
    await page.evaluate(
      async ([name, data]) => {
        const file = await (await navigator.storage.getDirectory()).getFileHandle(name, { create: true });
        const out = await file.createWritable();
        await out.write(Uint8Array.from(data));
        await out.close();
      },
      [path.split('/').pop()!, bytes] as const,
    );
  }
  const full = (on: boolean) =>
    page.evaluate((v) => (v ? Object.assign(window, { full: true }) : delete (window as { full?: true }).full), on);
  await full(true);
  await bringIn(page, paths[0]!);
  await expect(page.getByText(/are needed and the browser has 0 B left. Nothing was brought in/)).toBeVisible();
  await expect(page.getByTestId(/^source /)).toHaveCount(0);

  // Links need no room.
  await page.getByRole('region', { name: 'Sources' }).getByRole('button', { name: 'Bring in' }).click();
  await page.getByRole('menuitem', { name: 'Link files where they are' }).click();
  await expect(page.getByTestId('source grey')).toContainText('1–2');
  await full(false);
  // The menu's backdrop takes the pointer until it has faded.
  await expect(page.locator('.MuiPopover-root')).toHaveCount(0);
  await drag(page, page.getByTestId('source grey'), page.getByTestId('board'));
  await goTo(page, 1);
  await settled(page, 1);
  // Off the lines that part single pixels at this zoom.
  const first = await shownAt(page, 489, 279);
  expect(first[0]).toBeGreaterThan(20);
  await page.getByRole('button', { name: 'Storage' }).click();
  await expect(page.getByRole('dialog', { name: 'Storage' })).toContainText('Files, linked2');
  await page.getByRole('button', { name: 'Close', exact: true }).click();

  await page.getByTestId('source grey').click();
  await page.getByRole('button', { name: '½ size' }).click();
  await expect(page.getByText(/2 frames of "grey" are kept at ½ size/)).toBeVisible();
  // The files change on disk: the whole picture says so, the proxy still has what it was made of.
  await page.evaluate(async () => {
    const file = await (await navigator.storage.getDirectory()).getFileHandle('grey.001.hdr');
    const out = await file.createWritable();
    await out.write(new Uint8Array(5));
    await out.close();
  });
  await expect(page.getByTestId('saved')).toHaveText('Saved');
  await page.reload();
  await expect(page.getByText(/the linked file has changed since it was brought in/).first()).toBeVisible();
  await page.getByRole('button', { name: /^Computed size/ }).click();
  await page.getByRole('menuitem', { name: /^Half/ }).click();
  // Half floats may round to the code beside it.
  await expect(async () =>
    (await shownAt(page, 489, 279)).forEach((v, i) => expect(Math.abs(v - first[i]!)).toBeLessThanOrEqual(1)),
  ).toPass({ timeout: 20_000 });
});
