import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import type { BrowserContext, BrowserContextOptions, BrowserType, FullConfig, LaunchOptions } from '@playwright/test';
import { openLibrary } from './helpers';

/** The variable that names the folder of a browser's storage which holds the demo film and nothing else. */
export const PROFILE = 'OSTRACON_PROFILE';

export const folder = (name: string): Promise<string> => mkdtemp(join(tmpdir(), `ostracon-${name}-`));

type Used = BrowserContextOptions & { launchOptions?: LaunchOptions };

export const launch = (browser: BrowserType, dir: string, { launchOptions, ...options }: Used): Promise<BrowserContext> =>
  browser.launchPersistentContext(dir, { ...launchOptions, ...options });

/** Brings the demo film in, once for all tests. */
export default async function makeProfile(config: FullConfig): Promise<() => Promise<void>> {
  const dir = await folder('profile');
  const { launchOptions, baseURL } = config.projects[0]!.use;
  const context = await launch(chromium, dir, {
    ...(launchOptions && { launchOptions }),
    ...(baseURL && { baseURL }),
    serviceWorkers: 'block',
  });
  await openLibrary(await context.newPage());
  await context.close();
  process.env[PROFILE] = dir;
  return () => rm(dir, { recursive: true, force: true });
}
