import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { chromiumOptions } from '@/scripts/chromium.mjs';
import { table } from './timing';

const PORT = 3297;
const MINUTES = Number(process.env.MINUTES ?? 10);

/** Resident megabytes of a process, as the kernel counts them. */
const residentOf = (pid: number): number => {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;
  } catch {
    return 0;
  }
};

/** Minutes of scrubbing and editing the demo shot: what the page's process holds, minute by minute, as a table. */
export async function measureMemory(root: string): Promise<string> {
  const server = spawn(process.execPath, [join(root, 'node_modules/next/dist/bin/next'), 'start', '-H', '127.0.0.1', '-p', String(PORT)], {
    cwd: root,
    stdio: 'ignore',
  });
  const browser = await chromium.launch(chromiumOptions);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    for (let i = 0; ; i++) {
      const up = await page.goto(`http://localhost:${PORT}/`).then(
        () => true,
        () => false,
      );
      if (up) break;
      if (i > 100) throw new Error('the server does not start');
      await page.waitForTimeout(200);
    }
    await page.getByTestId('shot SG060 mooring').waitFor({ timeout: 120_000 });
    await page.getByText('Bringing in the demo film').waitFor({ state: 'detached', timeout: 120_000 });
    const session = await browser.newBrowserCDPSession();
    await page.goto(`http://localhost:${PORT}/shot/sg010`);
    await page.getByTestId('chip Screen key').click();
    const ruler = (await page.getByTestId('ruler').boundingBox())!;
    const budget = await page.evaluate(() =>
      Math.min(2048, Math.round((((navigator as { deviceMemory?: number }).deviceMemory ?? 4) * 1024) / 4)),
    );
    const resident = async (): Promise<number> => {
      const { processInfo } = await session.send('SystemInfo.getProcessInfo');
      return Math.max(...processInfo.filter((p) => p.type === 'renderer').map((p) => residentOf(p.id)));
    };
    const rows: string[][] = [];
    const started = Date.now();
    for (let minute = 1; minute <= MINUTES; minute++) {
      let most = 0;
      for (let turn = 0; Date.now() < started + minute * 60_000; turn++) {
        // The playhead goes over the whole strip and back.
        await page.mouse.move(ruler.x + 2, ruler.y + 12);
        await page.mouse.down();
        for (let i = 0; i <= 40; i++) await page.mouse.move(ruler.x + 2 + ((ruler.width - 4) * (i <= 20 ? i : 40 - i)) / 20, ruler.y + 12);
        await page.mouse.up();
        await page.waitForTimeout(250);
        // Every turn is another key: none of its frames is known.
        const field = page.getByRole('textbox', { name: 'Balance', exact: true });
        await field.click();
        await field.fill(String((0.3 + ((turn * 7 + minute) % 40) / 100).toFixed(2)));
        await field.press('Enter');
        await page.keyboard.press('Escape');
        await page.waitForTimeout(150);
        most = Math.max(most, await resident());
      }
      const shown = await page.getByRole('button', { name: 'Caches' }).innerText();
      rows.push([String(minute), `${Math.round(await resident())} MB`, `${Math.round(most)} MB`, shown.trim()]);
      process.stderr.write(`minute ${rows.at(-1)!.join(' · ')}\n`);
    }
    return [
      `${MINUTES} minutes of scrubbing and editing SG010 in Chromium; the caches' budget is ${budget} MB.`,
      '',
      table(['minute', 'resident at its end', 'most within it', 'what the page says it holds'], rows),
    ].join('\n');
  } finally {
    await browser.close();
    server.kill();
  }
}
