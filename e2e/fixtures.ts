import { cp, link, mkdir, mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { expect, test as base } from '@playwright/test';

export { expect };

const folder = (name: string): Promise<string> => mkdtemp(join(tmpdir(), `ostracon-${name}-`));

/** Media lie in files that are written once: those are linked, all else of a browser's storage is copied. */
async function copyProfile(from: string, to: string): Promise<void> {
  const isMedia = (path: string): boolean => /\.indexeddb\.blob\//.test(path);
  await cp(from, to, {
    recursive: true,
    filter: async (source, target) => {
      if (!isMedia(source) || (await stat(source)).isDirectory()) return true;
      await mkdir(dirname(target), { recursive: true });
      await link(source, target);
      return false;
    },
  });
}

/**
 * Each test has a browser of its own whose storage holds the demo film already, a copy of one that was brought in once: bringing
 * it in takes longer than most tests. With `visited: false` it is a first visit.
 */
export const test = base.extend<{ visited: boolean }, { profile: string }>({
  visited: [true, { option: true }],

  profile: [
    async ({ playwright }, use, worker) => {
      const dir = await folder('profile');
      const { launchOptions, baseURL } = worker.project.use;
      const context = await playwright.chromium.launchPersistentContext(dir, {
        ...launchOptions,
        ...(baseURL && { baseURL }),
        serviceWorkers: 'block',
      });
      const page = await context.newPage();
      await page.goto('/');
      await expect(page.getByTestId('shot SG010 keeper')).toBeVisible({ timeout: 60_000 });
      await expect(page.getByText('Bringing in the demo film')).toHaveCount(0, { timeout: 120_000 });
      await context.close();
      await use(dir);
      await rm(dir, { recursive: true, force: true });
    },
    { scope: 'worker', timeout: 180_000 },
  ],

  context: async ({ playwright, profile, visited, launchOptions, baseURL, viewport, acceptDownloads, serviceWorkers }, use) => {
    const dir = await folder('test');
    if (visited) await copyProfile(profile, dir);
    const context = await playwright.chromium.launchPersistentContext(dir, {
      ...launchOptions,
      ...(baseURL && { baseURL }),
      viewport,
      acceptDownloads,
      serviceWorkers,
    });
    await use(context);
    await context.close();
    await rm(dir, { recursive: true, force: true });
  },
});
