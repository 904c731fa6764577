import { defineConfig } from '@playwright/test';
import { chromiumOptions, headlessShell } from './scripts/chromium.mjs';

const port = Number(process.env.PORT ?? 3210);

/** Drives the built application in Debian's Chromium. */
export default defineConfig({
  testDir: 'e2e',
  globalSetup: './e2e/profile.ts',
  projects: [
    { name: 'first visit', testMatch: 'first-visit.setup.ts' },
    // Their browsers hold what the first visit has brought in.
    { name: 'visits', dependencies: ['first visit'] },
  ],
  // No test is timed: these only end one that hangs, on the slowest of machines.
  timeout: 240_000,
  expect: { timeout: 60_000, toPass: { timeout: 60_000 } },
  // A test waits for the page about as long as it computes: two alone leave a small machine's cores idle.
  workers: 3,
  fullyParallel: true,
  reporter: [['list']],
  use: {
    baseURL: `http://localhost:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // The test of it lets it in.
    serviceWorkers: 'block',
    // Pages live for seconds, and three browsers share two cores: the collector has no helper threads, code is optimised later, and a
    // browser's pages are in one process.
    launchOptions: {
      ...chromiumOptions,
      executablePath: headlessShell,
      args: [...chromiumOptions.args, '--process-per-site', '--js-flags=--single-threaded-gc,--invocation-count-for-maglev=3000'],
    },
  },
  webServer: {
    command: `npx next start -H 127.0.0.1 -p ${port}`,
    url: `http://localhost:${port}`,
    reuseExistingServer: true,
    timeout: 60_000,
  },
});
