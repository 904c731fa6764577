import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import { addStep, drag, expectShown, goTo, openLibrary, openShot, setNumber, settled, shownAt, stagePoint } from './helpers';

/** The shot as it lies in this browser's storage. */
const stored = (page: Page, id: string): Promise<string> =>
  page.evaluate(
    (of) =>
      new Promise<string>((done, fail) => {
        const open = indexedDB.open('ostracon');
        open.onerror = () => fail(open.error);
        open.onsuccess = () => {
          const get = open.result.transaction('shots').objectStore('shots').get(of);
          get.onsuccess = () => {
            open.result.close();
            done(JSON.stringify((get.result as { shot: unknown }).shot));
          };
        };
      }),
    id,
  );

test('one area alone is worked out, and the whole frame again', async ({ page }) => {
  await openShot(page, 'sg010');
  const outside = await shownAt(page, 700, 450);
  const within = await shownAt(page, 150, 120);
  await page.keyboard.press('Shift+O');
  await drag(page, await stagePoint(page, 60, 60), await stagePoint(page, 300, 200));
  await expectShown(page, 700, 450, [43, 43, 43], 3);
  await expectShown(page, 150, 120, within as [number, number, number], 2);
  await page.getByRole('button', { name: 'Area ×' }).click();
  await expectShown(page, 700, 450, outside as [number, number, number], 2);
});

test('lanes: solo passes the other joins by, a locked lane refuses, the overview leads to a step', async ({ page }) => {
  await openShot(page, 'sg010');
  const menu = (lane: string) => page.getByRole('button', { name: `Menu of lane ${lane}`, exact: true });
  await menu('keeper').click();
  await page.getByRole('menuitem', { name: 'Lock against changes' }).click();
  await page.getByTestId('chip Screen key').click();
  await page.keyboard.press('q');
  await expect(page.getByText('is locked; unlock it')).toBeVisible();
  await menu('keeper').click();
  await page.getByRole('menuitem', { name: 'Unlock' }).click();

  await menu('keeper').click();
  await page.getByRole('menuitem', { name: /^Solo/ }).click();
  await expect(page.getByRole('button', { name: /solo: keeper/ })).toBeVisible();
  await page.getByRole('button', { name: /solo: keeper/ }).click();

  await page.getByRole('button', { name: 'Overview of the board' }).click();
  const overview = page.getByRole('group', { name: 'Overview' });
  await overview.locator('rect', { hasText: 'Despill' }).first().click();
  await expect(page.getByRole('region', { name: 'Controls' }).getByText('Despill').first()).toBeVisible();
  await expect(overview).toHaveCount(0);
});

test('a key is changed on the shortcuts page, refuses one that is taken, and stays changed', async ({ page }) => {
  await openShot(page, 'sg010');
  await page.keyboard.press('?');
  await page.getByRole('button', { name: 'Key of: Filmstrip' }).click();
  await page.keyboard.press('q');
  await expect(page.getByText('Q is taken by "Step or zone on or off"')).toBeVisible();
  await page.getByRole('button', { name: 'Key of: Filmstrip' }).click();
  await page.keyboard.press('y');
  await expect(page.getByRole('button', { name: 'Key of: Filmstrip' })).toHaveText('Y');
  await page.getByRole('button', { name: 'Close', exact: true }).last().click();
  await page.reload();
  await settled(page);
  await page.keyboard.press('y');
  await expect(page.getByRole('group', { name: 'Filmstrip' })).toBeVisible();
});

test('an export goes on while other work is done, and can be stopped from the top bar', async ({ page }) => {
  await openShot(page, 'sg010');
  await page.keyboard.press('Control+e');
  await page.getByRole('button', { name: 'Export zip' }).click();
  await page.getByRole('button', { name: 'Go on with other work' }).click();
  const jobs = page.getByRole('button', { name: 'Work under way' });
  await expect(jobs).toContainText('Exporting');
  await goTo(page, 5);
  await settled(page, 5);
  await jobs.click();
  await page.getByRole('dialog', { name: 'Work under way' }).getByRole('button', { name: 'Stop' }).click();
  await expect(page.getByText('The export was stopped')).toBeVisible();
  await expect(jobs).toHaveCount(0);
});

test('two versions are wiped against each other; a note is dragged along the time strip', async ({ page }) => {
  await openShot(page, 'sg010');
  const keep = async (name: string): Promise<void> => {
    await page.keyboard.press('Control+s');
    await page.getByRole('textbox', { name: 'Name of the version' }).fill(name);
    await page.keyboard.press('Enter');
    await expect(page.getByTestId(`version ${name}`)).toBeVisible();
  };
  await keep('as it came');
  await page.getByRole('button', { name: 'Close', exact: true }).last().click();
  await page.getByTestId('lane harbour').getByText('harbour', { exact: true }).first().click();
  await addStep(page, 'Exposure');
  await setNumber(page, 'Exposure (stops)', 2);
  await settled(page);
  await keep('brighter');
  await page.getByRole('button', { name: 'Close', exact: true }).last().click();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+s');
  await page.getByTestId('version as it came').getByRole('button', { name: 'with another' }).click();
  await page.getByTestId('version brighter').getByRole('button', { name: 'With as it came' }).click();
  // The wipe stands in the middle: the chosen version at the right, the other in the place of what is seen.
  await expect(async () => {
    const [left, right] = [await shownAt(page, 60, 60), await shownAt(page, 900, 60)];
    expect(right[2]! - left[2]!).toBeGreaterThan(20);
  }).toPass();

  await page.getByRole('tab', { name: /Notes/ }).click();
  await goTo(page, 10);
  await page.getByRole('button', { name: /^Note at frame/ }).click();
  await page.getByRole('tab', { name: /Lanes/ }).click();
  const mark = page.getByTestId('note mark 10');
  const box = (await mark.boundingBox())!;
  const strip = (await page.getByTestId('ruler').boundingBox())!;
  const at = { x: box.x + 1, y: box.y + 2 };
  await drag(page, at, { x: at.x + (strip.width * 12) / 48, y: at.y });
  await expect(page.getByTestId('note mark 22')).toBeVisible();
});

test('what was shown a second before the page was killed is there', async ({ page, context }) => {
  test.setTimeout(240_000);
  await openLibrary(page);
  let seed = 20261123;
  const random = (): number => (seed = (seed * 48271) % 2147483647) / 2147483647;
  for (let turn = 0; turn < 6; turn++) {
    const tab = await context.newPage();
    // As when it is killed, nothing is done on leaving.
    await tab.addInitScript(() => {
      const listen = EventTarget.prototype.addEventListener;
      EventTarget.prototype.addEventListener = function (type: string, ...rest: [never]) {
        if (!['pagehide', 'visibilitychange', 'beforeunload', 'unload'].includes(type)) listen.call(this, type, ...rest);
      };
    });
    await tab.goto('/shot/sg010');
    // Its picture may still be on its way.
    const chip = tab.getByTestId(/^chip (Screen key|Key \d)/).first();
    await expect(chip).toBeVisible();
    await expect(tab.getByText('Read only')).toHaveCount(0);
    const seen: { at: number; name: string }[] = [];
    const end = Date.now() + 1200 + 1800 * random();
    for (let i = 0; Date.now() < end; i++) {
      const name = `Key ${turn}.${i}`;
      await chip.dblclick();
      await tab.keyboard.press('Control+a');
      await tab.keyboard.type(name);
      await tab.keyboard.press('Enter');
      await expect(tab.getByTestId(`chip ${name}`)).toBeVisible();
      seen.push({ at: Date.now(), name });
    }
    const killed = Date.now();
    await tab.close();
    const due = seen.filter((s) => s.at <= killed - 1000).length - 1;
    const kept = await stored(page, 'sg010');
    const name = /"(Key \d+\.\d+)"/.exec(kept)?.[1];
    expect(
      seen.findIndex((s) => s.name === name),
      `killed with ${seen.length} changes shown, ${name} kept`,
    ).toBeGreaterThanOrEqual(due);
  }
});

test.describe('without a network', () => {
  test.use({ own: true, serviceWorkers: 'allow' });
  test('the application opens again, with the shot as it was left, and can be worked with', async ({ page, context }) => {
    await openLibrary(page);
    await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined));
    await context.setOffline(true);
    await page.goto('/shot/sg010');
    await settled(page);
    await page.getByTestId('lane harbour').getByText('harbour', { exact: true }).first().click();
    const before = await shownAt(page, 60, 60);
    await addStep(page, 'Exposure');
    await setNumber(page, 'Exposure (stops)', 2);
    await expect(async () => expect((await shownAt(page, 60, 60))[2]).toBeGreaterThan(before[2]! + 20)).toPass();
    await page.goto('/');
    await expect(page.getByTestId('shot SG010 keeper')).toBeVisible();
    await page.getByTestId('shot SG030 brass diver').click();
    await settled(page);
  });
});

test('nothing scrolls or is cut off from 1280×800 to 2560×1440', async ({ page }) => {
  await openShot(page, 'sg010');
  for (const [width, height] of [
    [1280, 800],
    [1920, 1080],
    [2560, 1440],
  ] as const) {
    await page.setViewportSize({ width, height });
    await settled(page);
    const sizes = await page.evaluate(() => {
      const { scrollWidth, scrollHeight } = document.documentElement;
      const stage = document.querySelector('[data-testid="stage"]')!.getBoundingClientRect();
      return { scrollWidth, scrollHeight, stage: (stage.width * stage.height) / (innerWidth * innerHeight) };
    });
    expect(sizes.scrollWidth).toBeLessThanOrEqual(width);
    expect(sizes.scrollHeight).toBeLessThanOrEqual(height);
    // The picture stays the largest thing.
    expect(sizes.stage).toBeGreaterThan(0.25);
    await expect(page.getByRole('button', { name: 'Export' })).toBeInViewport({ ratio: 1 });
  }
});

test('corners are pinned by grips and sides on the stage, each drag one undo', async ({ page }) => {
  await openShot(page, 'sg010');
  await page.getByTestId('lane harbour').getByText('harbour', { exact: true }).first().click();
  await addStep(page, 'Corner pin');
  await expect(page.getByTestId('corners-handle')).toBeVisible();
  await drag(page, await stagePoint(page, 0, 0), await stagePoint(page, 240, 120));
  const x = page.getByRole('textbox', { name: 'Top left x', exact: true });
  await expect(async () => expect(Math.abs(Number(await x.inputValue()) - 240)).toBeLessThan(6)).toPass();
  // Where the corner was there is nothing now but the checker behind.
  await expectShown(page, 60, 30, [88, 88, 88], 16);
  // The right side, both of its corners.
  await drag(page, await stagePoint(page, 960, 270), await stagePoint(page, 860, 270));
  for (const name of ['Top right x', 'Bottom right x'])
    await expect(async () =>
      expect(Number(await page.getByRole('textbox', { name, exact: true }).inputValue())).toBeLessThan(-80),
    ).toPass();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('textbox', { name: 'Top right x', exact: true })).toHaveValue('0.0');
  await expect(async () => expect(Math.abs(Number(await x.inputValue()) - 240)).toBeLessThan(6)).toPass();
});

test('a version is kept by itself after the minutes that the settings say', async ({ page }) => {
  await page.clock.install();
  await openLibrary(page);
  await page.getByTestId('shot SG010 keeper').click();
  await page.getByTestId('chip Screen key').click();
  await page.keyboard.press('Control+k');
  await page.getByRole('textbox', { name: /^Search/ }).fill('Settings');
  await page.keyboard.press('Enter');
  await setNumber(page, 'Version every (min)', 5);
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('q');
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeEnabled();
  await page.clock.fastForward('05:31');
  await page.clock.fastForward('00:31');
  await page.keyboard.press('Control+s');
  await expect(page.getByTestId(/^version By itself/)).toHaveCount(1);
});
