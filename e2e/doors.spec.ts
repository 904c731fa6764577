import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import {
  addStep,
  bringIn,
  drag,
  expectShown,
  goTo,
  menusGone,
  newShot,
  openLibrary,
  openShot,
  setNumber,
  settled,
  shownAt,
} from './helpers';

/** Puts something in the place of a shot as the browser keeps it. */
const spoil = (page: Page, id: string, change: Record<string, unknown>): Promise<void> =>
  page.evaluate(
    ([key, fields]) =>
      new Promise<void>((done, fail) => {
        const open = indexedDB.open('ostracon');
        open.onerror = () => fail(open.error);
        open.onsuccess = () => {
          const store = open.result.transaction('shots', 'readwrite').objectStore('shots');
          const get = store.get(key);
          get.onsuccess = () => {
            const row = get.result as { shot: object };
            store.put({ ...row, shot: { ...row.shot, ...fields } }).onsuccess = () => done();
          };
        };
      }),
    [id, change] as const,
  );

test('what a parameter follows is deleted: it keeps the value, says so, and lets go; the page lives', async ({ page }) => {
  await newShot(page);
  await bringIn(page, 'demo/media/sg010/harbour.png');
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await page.getByTestId('lane harbour').getByText('harbour').first().click();
  await addStep(page, 'Choke');
  await setNumber(page, 'Radius (px)', 7);
  await addStep(page, 'Blur');
  const controls = page.getByRole('region', { name: 'Controls' });
  await controls.locator('label', { hasText: 'Size' }).first().click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Follow another parameter…' }).click();
  await page.getByRole('option', { name: 'harbour ▸ Choke ▸ Radius' }).click();
  await menusGone(page);
  const size = page.getByRole('textbox', { name: 'Size (px)', exact: true });
  await expect(size).toHaveValue(/^7(\.0+)?$/);
  await page.getByTestId('chip Choke').click();
  await page.getByTestId('chip Choke').press('Delete');
  await expect(page.getByTestId('chip Choke')).toHaveCount(0);
  await page.getByTestId('chip Blur').click();
  await expect(controls.getByText('What it followed is gone')).toBeVisible();
  await expect(size).toHaveValue(/^7(\.0+)?$/);
  await expect(page.getByTestId('saved')).toHaveText('Saved');
  // As it was saved it opens again, and what was done is undone.
  await page.reload();
  await page.getByTestId('chip Blur').click();
  await expect(controls.getByText('What it followed is gone')).toBeVisible();
  await controls.getByRole('button', { name: 'Unlink' }).click();
  await expect(controls.getByText('What it followed is gone')).toHaveCount(0);
  await expect(size).toHaveValue(/^7(\.0+)?$/);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByTestId('chip Choke')).toBeVisible();
});

test('a shot that cannot be opened says what is wrong, is taken out as it is, and repaired', async ({ page }) => {
  await openLibrary(page);
  await spoil(page, 'sg010', { frameRate: 'fast', name: 'x'.repeat(260) });
  await page.goto('/shot/sg010');
  await expect(page.getByRole('heading', { name: /cannot be opened as it is/ })).toBeVisible();
  await expect(page.getByRole('alert').first()).toContainText('frameRate');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Take it out as JSON' }).click();
  expect((await download).suggestedFilename()).toMatch(/\.json$/);
  await page.getByRole('button', { name: 'Repair and open' }).click();
  await settled(page);
  await expect(page.getByTestId('lane harbour')).toBeVisible();
  await page.getByRole('button', { name: 'Versions', exact: true }).click();
  await expect(page.getByText('Before the repair')).toBeVisible();
});

test('the demo film is reset only when asked, with what it replaces kept, and a shot is renamed from its menu', async ({ page }) => {
  await openLibrary(page);
  await page.getByRole('button', { name: 'Menu of SG030 brass diver' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Deep dive');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('shot Deep dive')).toBeVisible();
  await page.getByTestId('shot SG010 keeper').click();
  await settled(page);
  await page.getByTestId('lane harbour').getByText('harbour').first().click();
  await addStep(page, 'Invert');
  await expect(page.getByTestId('saved')).toHaveText('Saved');
  await page.goto('/');
  await page.getByRole('button', { name: 'More of the Library' }).click();
  await page.getByRole('menuitem', { name: 'Reset the demo film…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Reset the demo film' });
  await expect(dialog.getByRole('listitem').filter({ hasText: 'SG010 keeper was changed' })).toBeVisible();
  await expect(dialog.getByRole('listitem').filter({ hasText: 'SG060' })).toContainText('is as it was');
  await dialog.getByRole('button', { name: 'Reset' }).click();
  await expect(page.getByText('what it replaced stays as versions')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByTestId('shot SG010 keeper').click();
  await settled(page);
  await expect(page.getByTestId('chip Invert')).toBeVisible();
  await page.getByRole('button', { name: 'Versions', exact: true }).click();
  await expect(page.getByText('Before the reset')).toBeVisible();
});

test('pages keep what is not theirs out, and say nothing wrong of themselves', async ({ page, request, baseURL }) => {
  const problems: string[] = [];
  page.on('console', (m) => void (/Content Security Policy|Refused to/.test(m.text()) && problems.push(m.text())));
  await openShot(page, 'sg010');
  expect(problems).toEqual([]);
  const loose = await page.locator('script:not([src])').evaluateAll((all) => all.filter((s) => !(s as HTMLScriptElement).nonce).length);
  expect(loose).toBe(0);
  const answer = await request.get('/');
  const policy = answer.headers()['content-security-policy']!;
  expect(policy).toContain("frame-ancestors 'none'");
  expect(/script-src[^;]*/.exec(policy)![0]).not.toContain('unsafe-inline');
  expect(answer.headers()).toMatchObject({ 'x-content-type-options': 'nosniff', 'referrer-policy': 'no-referrer' });
  for (const path of ['/api/demo/%ZZ', '/%E0%A4%A']) expect((await fetch(`${baseURL!}${path}`)).status).toBe(400);
  expect((await request.get('/_next/image?url=%2Ficon.svg&w=64&q=75')).status()).toBe(404);
  expect((await request.get('/api/demo/media/..%2F..%2Fpackage.json')).status()).toBe(404);
});

test('workers that do not load are given up after three tries, in words', async ({ page }) => {
  await openLibrary(page);
  let asked = 0;
  await page.route(
    (url) => /worker/.test(url.pathname) && !/draw/.test(url.pathname),
    (route) => {
      asked++;
      return route.fulfill({ status: 404, body: 'gone' });
    },
  );
  await page.goto('/shot/sg010');
  await expect(page.getByText(/The computation cannot be started.*Load the page again/).first()).toBeVisible({ timeout: 30_000 });
  const before = asked;
  await page.waitForTimeout(1500);
  expect(asked).toBe(before);
});

test.describe('a browser of its own', () => {
  test.use({ own: true });
  test('the graphics context goes away and comes back: the picture is there again', async ({ page, context }) => {
    await newShot(page);
    await bringIn(page, 'demo/media/sg010/harbour.png');
    await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
    await settled(page);
    const before = await shownAt(page, 480, 400);
    const killer = await context.newPage();
    await killer.goto('chrome://gpucrash').catch(() => undefined);
    await killer.close();
    await goTo(page, 1);
    await expectShown(page, 480, 400, before as [number, number, number]);
  });
});
