// npm run screenshots: one PNG of each main view from the demo film into docs/screenshots. Starts the built application by itself.
import { spawn } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { root } from './stages.mjs';

const port = 3299;
const out = join(root, 'docs/screenshots');
mkdirSync(out, { recursive: true });
const server = spawn(process.execPath, ['node_modules/next/dist/bin/next', 'start', '-p', String(port)], { cwd: root, stdio: 'ignore' });
const url = `http://localhost:${port}/`;
while (
  !(await fetch(url).then(
    (r) => r.ok,
    () => false,
  ))
)
  await new Promise((done) => setTimeout(done, 100));

const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const take = (name) => page.screenshot({ path: join(out, `${name}.png`) });
  /** The stage is at full size, and the small pictures have had their turn. */
  const settled = async () => {
    await page.locator('[data-testid="stage"] > canvas[data-scale="1"]').waitFor();
    await page.waitForFunction(() => !document.querySelector('.busy'));
    await page.waitForTimeout(4000);
  };
  await page.goto(url);
  await page.getByTestId('shot SG010 keeper').locator('img').waitFor({ timeout: 60_000 });
  await page.waitForFunction(() => !document.body.textContent.includes('Bringing in'));
  await take('library');
  await page.getByTestId('shot SG010 keeper').click();
  await settled();
  await page.getByTestId('chip Place').click();
  await settled();
  await take('workbench-composite');
  await page.getByTestId('chip Screen key').click();
  await page.keyboard.press('v');
  await page.keyboard.press('a');
  await settled();
  await take('workbench-matte');
  await page.keyboard.press('v');
  await page.keyboard.press('a');
  await settled();
  await page.getByRole('button', { name: 'Caches' }).click();
  await page.waitForTimeout(1500);
  await take('caches');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await page.waitForTimeout(600);
  await take('export');
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Library' }).click();
  await page.getByTestId('shot SG030 brass diver').click();
  await settled();
  await page.getByTestId('source diver passes').click();
  await settled();
  await take('workbench-passes');
  await page.getByRole('button', { name: '17 layers' }).click();
  await page.waitForTimeout(6000);
  await take('layers');
} finally {
  await browser.close();
  server.kill();
}
