import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { chromium } from '@playwright/test';
import { chromiumOptions } from '@/scripts/chromium.mjs';
import { table } from './timing';

const PORT = 3298;

/** Long tasks (over 50 ms) of the page's thread since the last look, the longest first. */
async function longTasks(page: Page): Promise<number[]> {
  await page.waitForTimeout(1500);
  const tasks = await page.evaluate(() => (window as unknown as { tasks: number[] }).tasks.splice(0));
  return tasks.sort((a, b) => b - a);
}

async function watch(page: Page): Promise<void> {
  await page.evaluate(() => {
    const tasks: number[] = [];
    Object.assign(window, { tasks });
    new PerformanceObserver((list) => list.getEntries().forEach((e) => tasks.push(Math.round(e.duration)))).observe({
      entryTypes: ['longtask'],
    });
  });
  await page.waitForTimeout(2000);
  await longTasks(page);
}

/** Moves the pointer with its button down, a move every 30 ms. */
async function sweep(page: Page, from: { x: number; y: number }, dx: number): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  for (let i = 1; i <= 40; i++) {
    await page.mouse.move(from.x + (dx * i) / 40, from.y);
    await page.waitForTimeout(30);
  }
  await page.mouse.up();
}

/** Puts a shot of so many lanes of ten steps, each joined over the one before, beside the demo shot. */
async function makeLarge(page: Page, lanes: number): Promise<void> {
  await page.evaluate(
    (count) =>
      new Promise<void>((done, fail) => {
        const open = indexedDB.open('ostracon');
        open.onerror = () => fail(open.error);
        open.onsuccess = () => {
          const t = open.result.transaction('shots', 'readwrite');
          const store = t.objectStore('shots');
          const had = store.get('sg010');
          had.onsuccess = () => {
            const row = had.result as { shot: Record<string, unknown> & { sources: { id: string; kind: string }[] } };
            const source = row.shot.sources.find((s) => s.kind === 'still')!.id;
            const types = ['exposure', 'grade', 'blur', 'transform', 'crop'];
            const step = (l: number, k: number) => {
              const join = k === 9 && l > 0;
              const feeds = join ? { front: { lane: `l${l - 1}` } } : {};
              return { id: `s${l} ${k}`, type: join ? 'join' : types[k % 5], name: `Step ${k}`, on: true, mix: 1, params: {}, feeds };
            };
            const list = Array.from({ length: count }, (_, l) => ({
              id: `l${l}`,
              name: `Lane ${l}`,
              start: { source },
              steps: Array.from({ length: 10 }, (_, k) => step(l, k)),
              muted: false,
              collapsed: false,
            }));
            store.put({
              ...row,
              id: 'large',
              name: 'Large board',
              shot: { ...row.shot, id: 'large', name: 'Large board', lanes: list, result: `l${count - 1}` },
            });
          };
          t.oncomplete = () => done();
          t.onerror = () => fail(t.error);
        };
      }),
    lanes,
  );
}

/** Milliseconds from the key press that changes a number to the changed picture, at full size, on the stage: of several, sorted. */
async function edits(page: Page, field: string, count: number): Promise<number[]> {
  const input = page.getByRole('region', { name: 'Controls' }).getByLabel(field, { exact: true }).first();
  await input.focus();
  await page.evaluate(() => {
    const canvas = document.querySelector<HTMLElement>('[data-testid="stage"] > canvas')!;
    const times: number[] = [];
    let pressed = 0;
    let changed = false;
    document.addEventListener('keydown', () => ([pressed, changed] = [performance.now(), false]), true);
    new MutationObserver(() => {
      const { drawn, scale } = canvas.dataset;
      if (drawn === 'no') changed = true;
      else if (pressed && changed && scale === '1') {
        times.push(performance.now() - pressed);
        pressed = 0;
      }
    }).observe(canvas, { attributes: true });
    Object.assign(window, { editTimes: times });
  });
  for (let i = 0; i < count; i++) {
    await page.keyboard.press('ArrowUp');
    await page.waitForTimeout(900);
  }
  const times = await page.evaluate(() => (window as unknown as { editTimes: number[] }).editTimes);
  return times.sort((a, b) => a - b);
}

/** How long the page's thread is held up while somebody works, in the built application. */
export async function benchPage(root: string): Promise<string> {
  if (!existsSync(chromiumOptions.executablePath) || !existsSync(join(root, '.next/BUILD_ID')))
    return 'Not measured: it needs Chromium and a build (npm run build).';
  const server = spawn(process.execPath, ['node_modules/next/dist/bin/next', 'start', '-p', String(PORT)], { cwd: root, stdio: 'ignore' });
  const url = `http://localhost:${PORT}`;
  const up = (): Promise<boolean> =>
    fetch(url).then(
      (r) => r.ok,
      () => false,
    );
  while (!(await up())) await new Promise((done) => setTimeout(done, 100));
  const browser = await chromium.launch(chromiumOptions);
  const rows: string[][] = [];
  const row = (what: string, tasks: readonly number[]): void =>
    void rows.push([what, String(tasks.length), tasks.length ? `${tasks[0]} ms` : 'none']);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(url);
    await page.getByTestId('shot SG010 keeper').waitFor({ timeout: 60_000 });
    await page.waitForFunction(() => !document.body.textContent?.includes('Bringing in'), null, { timeout: 60_000 });
    await page.getByTestId('shot SG010 keeper').click();
    await page.getByTestId('chip Screen key').click();
    await page.waitForTimeout(4000);
    await watch(page);
    const edited = await edits(page, 'Empty below', 24);
    await longTasks(page);
    row('SG010, nothing done', await longTasks(page));
    const ruler = (await page.getByTestId('ruler').boundingBox())!;
    await sweep(page, { x: ruler.x + 40, y: ruler.y + 10 }, 240);
    row('SG010, scrubbing over 40 frames', await longTasks(page));
    const slider = (await page.getByRole('region', { name: 'Controls' }).locator('.MuiSlider-root').first().boundingBox())!;
    await sweep(page, { x: slider.x + slider.width * 0.5, y: slider.y + slider.height / 2 }, slider.width * 0.4);
    row('SG010, dragging a slider of the key', await longTasks(page));
    const chip = (await page.getByTestId('chip Despill').boundingBox())!;
    await sweep(page, { x: chip.x + 10, y: chip.y + 10 }, 160);
    row('SG010, dragging a chip', await longTasks(page));

    await page.goto(url);
    await makeLarge(page, 60);
    const started = performance.now();
    await page.goto(`${url}/shot/large`);
    await page.getByTestId('lane Lane 59').waitFor();
    const opened = performance.now() - started;
    await page.waitForTimeout(3000);
    await watch(page);
    const first = (await page.getByTestId('lane Lane 2').getByTestId('chip Step 3').boundingBox())!;
    await sweep(page, { x: first.x + 10, y: first.y + 10 }, 160);
    row('60 lanes of 10 steps, dragging a chip', await longTasks(page));
    return `The built application in Chromium without a GPU, whose drawing and two workers share two cores with the page: tasks of the page's thread over 50 ms.\n\n${table(['', 'tasks over 50 ms', 'the longest'], rows)}\n\nA shot of 60 lanes and 600 steps shows its board ${(opened / 1000).toFixed(1)} s after its address was opened.\n\nFrom a key press at SG010's key (Empty below) to the changed picture at full size on the stage, ${edited.length} edits: median ${Math.round(edited[edited.length >> 1]!)} ms, least ${Math.round(edited[0]!)}, most ${Math.round(edited.at(-1)!)}.`;
  } finally {
    await browser.close();
    server.kill();
  }
}
