import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { BrowserContext, BrowserContextOptions, BrowserType, LaunchOptions } from '@playwright/test';

/** The variable that names the folder of a browser's storage which holds the demo film and nothing else. */
export const PROFILE = 'OSTRACON_PROFILE';

export const folder = (name: string): Promise<string> => mkdtemp(join(tmpdir(), `ostracon-${name}-`));

type Used = BrowserContextOptions & { launchOptions?: LaunchOptions };

export const launch = (browser: BrowserType, dir: string, { launchOptions, ...options }: Used): Promise<BrowserContext> =>
  browser.launchPersistentContext(dir, { ...launchOptions, ...options });

/** Makes the folder that the first visit fills and every later test begins with. */
export default async function makeProfile(): Promise<() => Promise<void>> {
  const dir = await folder('profile');
  process.env[PROFILE] = dir;
  return () => rm(dir, { recursive: true, force: true });
}
