import { execFileSync } from 'node:child_process';
import { mkdtemp, readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Download, Page } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { readExr } from '../core/formats/exr/read';
import { nodeKernels } from '../engine/node/host';
import { expect, test } from './fixtures';
import { bringIn, drag, exportZip, menusGone, newShot, openLibrary, openShot, settled, shownAt, stagePoint } from './helpers';

const controls = (page: Page) => page.getByRole('region', { name: 'Controls' });
const part = (page: Page, name: string) => page.getByTestId(`part ${name}`);

async function add(page: Page, name: string): Promise<void> {
  await controls(page).getByRole('button', { name: 'Add a thing' }).click();
  await page.getByRole('menuitem', { name, exact: true }).first().click();
  await menusGone(page);
}

async function placeAt(page: Page, name: string, x: number, y: number): Promise<void> {
  await part(page, name).getByRole('button', { name: 'Place', exact: true }).click();
  const at = await stagePoint(page, x, y);
  await expect(page.getByTestId('thing-pick')).toBeVisible();
  await page.mouse.move(at.x, at.y);
  await page.mouse.click(at.x, at.y);
  await expect(page.getByTestId('thing-pick')).toHaveCount(0);
}

const numbers = async (page: Page, name: string, field: string): Promise<number[]> =>
  Promise.all(['red', 'green', 'blue'].map(async (c) => Number(await part(page, name).getByLabel(`${field} ${c}`).inputValue())));

async function saved(page: Page, button: string): Promise<Buffer> {
  const download = page.waitForEvent('download');
  await controls(page).getByRole('button', { name: button }).click();
  return readFile(await ((await download) as Download).path());
}

/** How many pixels of the room's canvas are brighter than its background. */
const drawnIn = (page: Page, than = 120): Promise<number> =>
  page.getByTestId('room').evaluate(async (room, least) => {
    const canvas = room.querySelector('canvas')!;
    for (let i = 0; i < 4; i++) await new Promise(requestAnimationFrame);
    const copy = document.createElement('canvas');
    [copy.width, copy.height] = [300, 200];
    const c = copy.getContext('2d')!;
    const bitmap = await createImageBitmap(canvas);
    c.drawImage(bitmap, 0, 0, 300, 200);
    const { data } = c.getImageData(0, 0, 300, 200);
    let n = 0;
    for (let i = 0; i < data.length; i += 4) if (data[i]! + data[i + 1]! + data[i + 2]! > least) n++;
    return n;
  }, than);

test('SG050 from its solved camera: a model placed on the picture, moved, lit, with its shadow; seen in the room; taken along', async ({
  page,
}) => {
  test.setTimeout(240_000);
  await openShot(page, 'sg050');
  await page.getByRole('tab', { name: 'Readings' }).first().click();
  await page.getByText('The dolly').first().click();
  await controls(page).getByRole('button', { name: 'Put things in' }).click();
  await expect(controls(page)).toContainText('Nothing is in it yet');

  // On the ground, in the open before the rails.
  const before = await shownAt(page, 700, 430);
  await add(page, 'brass marker');
  await placeAt(page, 'brass marker', 700, 470);
  await settled(page);
  const stood = await numbers(page, 'brass marker', 'Place');
  expect(Math.abs(stood[1]!)).toBeLessThan(0.3);
  await expect(async () => {
    const now = await shownAt(page, 700, 430);
    expect(Math.max(...now.map((v, i) => Math.abs(v - before[i]!)))).toBeGreaterThan(12);
  }).toPass({ timeout: 30_000 });
  // A light of its own, and what catches its shadow.
  await add(page, 'Light');
  await add(page, 'Shadow catcher');
  await placeAt(page, 'Shadow catcher', 700, 470);
  await settled(page);

  // A card of the fog on the plane of a group.
  await controls(page).getByRole('button', { name: 'Add a thing' }).click();
  await page.getByRole('menuitem', { name: 'fog bank', exact: true }).click();
  await menusGone(page);
  await part(page, 'fog bank').getByRole('combobox', { name: 'Stands at' }).click();
  await page.getByRole('option', { name: 'On the plane of Ground' }).click();
  await menusGone(page);
  await settled(page);

  // Moved by its arrow upward: only its height changes.
  await part(page, 'brass marker').getByRole('button', { name: 'brass marker' }).first().click();
  const from = await numbers(page, 'brass marker', 'Place');
  const stage = (await page.getByTestId('stage').boundingBox())!;
  const [x, y] = (await page.getByTestId('things').getAttribute('data-chosen'))!.split(',').map(Number) as [number, number];
  const foot = { x: stage.x + x, y: stage.y + y };
  await drag(page, { x: foot.x, y: foot.y - 40 }, { x: foot.x, y: foot.y - 80 });
  await expect(async () => {
    const to = await numbers(page, 'brass marker', 'Place');
    expect(to[1]! - from[1]!).toBeGreaterThan(0.05);
    expect(Math.abs(to[0]! - from[0]!)).toBeLessThan(0.02);
  }).toPass({ timeout: 15_000 });
  await page.keyboard.press('Control+z');
  await expect(async () => expect(await numbers(page, 'brass marker', 'Place')).toEqual(from)).toPass({ timeout: 15_000 });

  // The room shows the same, and a thing chosen there is chosen here.
  await controls(page).getByRole('button', { name: 'See the room' }).click();
  await expect(page.getByTestId('room').locator('canvas')).toBeVisible();
  await expect(async () => expect(await drawnIn(page)).toBeGreaterThan(400)).toPass({ timeout: 30_000 });
  await page.getByRole('toolbar', { name: 'Room' }).getByRole('button', { name: 'Through the camera' }).click();
  await expect(async () => expect(await drawnIn(page)).toBeGreaterThan(20_000)).toPass({ timeout: 30_000 });
  await controls(page).getByRole('button', { name: 'See the picture' }).click();
  await expect(page.getByTestId('room')).toHaveCount(0);

  const glb = await saved(page, 'Save .glb');
  const report = await validateBytes(new Uint8Array(glb));
  expect(report.issues.numErrors).toBe(0);
  const usda = (await saved(page, 'Save .usda')).toString();
  expect(usda).toContain('def Camera');
  expect(usda).toContain('def Xform "brass_marker"');
  expect(usda).toContain('def Xform "fog_bank"');
  expect(usda).toContain('def DistantLight');

  // Of the camera itself, points are chosen from anywhere by drawing around them.
  await page
    .getByRole('tab', { name: /^Readings/ })
    .first()
    .click();
  await page.getByTestId('reading The dolly').click();
  await controls(page).getByRole('button', { name: 'See the room' }).click();
  await page.getByRole('toolbar', { name: 'Room' }).getByRole('button', { name: 'Draw around points' }).click();
  const room = (await page.getByTestId('room-lasso').boundingBox())!;
  const [mx, my] = [room.x + room.width / 2, room.y + room.height / 2];
  await page.mouse.move(mx - 200, my - 130);
  await page.mouse.down();
  for (const [dx, dy] of [
    [200, -130],
    [200, 130],
    [-200, 130],
    [-200, -130],
  ] as const)
    await page.mouse.move(mx + dx, my + dy, { steps: 3 });
  await page.mouse.up();
  await expect(controls(page).getByRole('button', { name: 'Choose none' })).toBeVisible();
  await page.mouse.click(mx, my);
  await expect(controls(page).getByRole('button', { name: 'Choose none' })).toBeVisible();
});

test('the room shows what a render shows, and its camera goes out', async ({ page }) => {
  await openShot(page, 'sg030');
  await page.getByTestId('lane diver').getByTestId(/^chip/).last().click();
  await controls(page).getByRole('button', { name: 'See the room' }).click();
  // The render's points, not only what was placed in it.
  await expect(async () => expect(await drawnIn(page)).toBeGreaterThan(1500)).toPass({ timeout: 60_000 });
  const usda = (await saved(page, 'Save .usda')).toString();
  expect(usda).toContain('def Camera');
  expect(usda).toMatch(/xformOp:transform|xformOp:translate/);
  // A thing of points without a render says so; with one it stands in the room beside what it was made of.
  const before = await drawnIn(page, 75);
  await add(page, 'Points');
  await part(page, 'Points').getByLabel('Points of').click();
  await page.getByRole('option', { name: 'A render' }).click();
  await page.getByRole('tab', { name: /^Checks/ }).click();
  await expect(page.getByText(/Points has no places: connect a render/)).toBeVisible();
  await controls(page).getByRole('button', { name: 'Render: none' }).click();
  const after = page.getByRole('menuitem', { name: '▸ Rebuild beauty' });
  await page.getByRole('menuitem', { name: '▸ start' }).nth(2).click();
  await expect(after).toHaveCount(0);
  await expect(page.getByText(/Points has no places/)).toHaveCount(0);
  await part(page, 'Points').getByLabel('Place red').fill('-1');
  await part(page, 'Points').getByLabel('Place red').press('Enter');
  await expect(async () => expect(await drawnIn(page, 75)).toBeGreaterThan(before + 300)).toPass({ timeout: 60_000 });
});

test('models come in with what lies beside them; what is broken is told and loses nothing', async ({ page }) => {
  await openLibrary(page);
  await newShot(page);
  const corners = Buffer.from(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0).buffer);
  const gltf = {
    asset: { version: '2.0' },
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    buffers: [{ uri: 'leaf.bin', byteLength: 36 }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
  };
  const file = (name: string, buffer: Buffer) => ({ name, mimeType: 'application/octet-stream', buffer });
  await bringIn(page, [file('leaf.gltf', Buffer.from(JSON.stringify(gltf))), file('leaf.bin', corners)]);
  await expect(page.getByTestId('source leaf')).toContainText('1 triangles');
  await bringIn(page, [file('lone.gltf', Buffer.from(JSON.stringify(gltf)))]);
  await expect(page.getByText(/it needs leaf\.bin beside it/)).toBeVisible();
  await bringIn(page, [file('broken.glb', Buffer.from('no model at all, only words'))]);
  await expect(page.getByText(/broken\.glb: it is no glTF 2\.0 file/)).toBeVisible();
  const packed = { ...gltf, extensionsRequired: ['KHR_draco_mesh_compression'] };
  await bringIn(page, [file('packed.gltf', Buffer.from(JSON.stringify(packed))), file('leaf.bin', corners)]);
  await expect(page.getByText(/its geometry is compressed/)).toBeVisible();
  await expect(page.getByTestId('source leaf')).toHaveCount(1);
});

test('the same pixels in the browser as on the command line, to the bit', async ({ page }) => {
  test.setTimeout(120_000);
  await openShot(page, 'sg050');
  const files = await exportZip(page, 'OpenEXR, float', { first: 30, last: 30 });
  const folder = await mkdtemp(join(tmpdir(), 'things-'));
  execFileSync('node', [
    'scripts/run.mjs',
    'cli/main.ts',
    'render',
    'demo/shots/sg050.json',
    '--frames',
    '30-30',
    '--float',
    '--out',
    join(folder, 'cli.####.exr'),
  ]);
  const kernels = await nodeKernels();
  const [here, there] = [files['out.0030.exr']!, new Uint8Array(await readFile(join(folder, 'cli.0030.exr')))].map((b) =>
    readExr(b, 'x', kernels),
  );
  for (const c of ['R', 'G', 'B', 'A']) {
    const [a, b] = [here!.planes[c]!, there!.planes[c]!];
    let differ = 0;
    for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) differ++;
    expect(differ, `pixels of ${c} that differ`).toBe(0);
  }
});
