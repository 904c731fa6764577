import { cp, link, mkdir, rm, stat } from 'node:fs/promises';
import { dirname } from 'node:path';
import { expect, test as base } from '@playwright/test';
import type { BrowserContext } from '@playwright/test';
import { PROFILE, folder, launch } from './profile';

export { expect };

/** A page of the application's origin on which nothing of it runs. */
const STILL_PAGE = '/offline.js';

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
 * Runs in the browser: puts its storage back to what it was when this was called with `keep`. False where media are missing, which
 * are not kept a second time.
 */
async function putBack(keep: boolean): Promise<boolean> {
  // A page that was closed may still be writing what it had to: it holds its shot's lock until it is gone.
  for (let tries = 0; (await navigator.locks.query()).held?.length; tries++) {
    if (tries === 200) return false;
    await new Promise((next) => setTimeout(next, 50));
  }
  const done = <T>(request: IDBRequest<T>): Promise<T> =>
    new Promise((resolve, reject) => {
      request.onsuccess = () => resolve(request.result);
      request.onerror = () => reject(request.error!);
    });
  const all = (store: IDBObjectStore): Promise<[IDBValidKey[], unknown[]]> => Promise.all([done(store.getAllKeys()), done(store.getAll())]);
  const [shots, media] = await Promise.all(['ostracon', 'ostracon-media'].map((name) => done(indexedDB.open(name))));
  const opening = indexedDB.open('kept');
  opening.onupgradeneeded = () => opening.result.createObjectStore('kept');
  const kept = await done(opening);
  try {
    const names = [...shots!.objectStoreNames];
    const mediaKeys = await done(media!.transaction('media').objectStore('media').getAllKeys());
    if (keep) {
      const rows = await Promise.all(names.map(async (name) => [name, await all(shots!.transaction(name).objectStore(name))] as const));
      await done(kept.transaction('kept', 'readwrite').objectStore('kept').put({ rows, mediaKeys }, 'all'));
      return true;
    }
    const before = (await done(kept.transaction('kept').objectStore('kept').get('all'))) as {
      rows: [string, [IDBValidKey[], unknown[]]][];
      mediaKeys: string[];
    };
    const wanted = JSON.stringify(before.rows.find(([name]) => name === 'shots')![1][1]);
    for (let tries = 0, same = false; !same; tries++) {
      // What a page that is gone had begun may still come after this: it is looked at once more.
      if (tries === 10) return false;
      const writing = shots!.transaction(names, 'readwrite');
      await Promise.all(
        before.rows.flatMap(([name, [, values]]) => {
          const store = writing.objectStore(name);
          return [done(store.clear()), ...values.map((v) => done(store.put(v)))];
        }),
      );
      await new Promise((next) => setTimeout(next, 150));
      same = JSON.stringify((await all(shots!.transaction('shots').objectStore('shots')))[1]) === wanted;
    }
    const files = media!.transaction(['media', 'proxies'], 'readwrite');
    await Promise.all([
      ...mediaKeys.filter((k) => !before.mediaKeys.includes(String(k))).map((k) => done(files.objectStore('media').delete(k))),
      done(files.objectStore('proxies').clear()),
    ]);
    localStorage.clear();
    sessionStorage.clear();
    const root = await navigator.storage.getDirectory();
    for await (const name of (root as unknown as { keys(): AsyncIterable<string> }).keys())
      await root.removeEntry(name, { recursive: true });
    return before.mediaKeys.every((k) => mediaKeys.includes(k));
  } finally {
    for (const d of [shots, media, kept]) d!.close();
  }
}

/** On the page that a browser begins with, which no test uses. */
async function inStorage(context: BrowserContext, keep: boolean): Promise<boolean> {
  const page = context.pages()[0]!;
  if (!page.url().endsWith(STILL_PAGE)) await page.goto(STILL_PAGE);
  return page.evaluate(putBack, keep);
}

/** A browser that one test after the other works in, its storage put back between them. */
class SharedBrowser {
  private context: BrowserContext | null = null;
  private dir = '';

  constructor(private readonly start: (dir: string) => Promise<BrowserContext>) {}

  async take(profile: string): Promise<BrowserContext> {
    if (this.context && !(await inStorage(this.context, false).catch(() => false))) await this.end();
    if (!this.context) {
      this.dir = await folder('shared');
      await copyProfile(profile, this.dir);
      this.context = await this.start(this.dir);
      await inStorage(this.context, true);
    }
    return this.context;
  }

  /** Closes what a test has opened. */
  async leave(): Promise<void> {
    const [, ...opened] = this.context?.pages() ?? [];
    for (const page of opened) {
      // A page that goes keeps what it has not yet kept: that is to come before its storage is put back, not after.
      await page.goto(STILL_PAGE, { timeout: 30_000 }).catch(() => undefined);
      await page.close();
    }
  }

  async end(): Promise<void> {
    await this.context?.close();
    this.context = null;
    if (this.dir) await rm(this.dir, { recursive: true, force: true });
  }
}

/**
 * Each test has a browser whose storage holds the demo film already and nothing else: bringing the film in takes longer than most
 * tests, and so does starting a browser. A test that ends its browser, or needs other settings, has one of its `own`.
 */
export const test = base.extend<{ own: boolean }, { profile: string; shared: SharedBrowser }>({
  own: [false, { option: true }],

  // Made once for all workers, before the first test.
  profile: [process.env[PROFILE] ?? '', { option: true, scope: 'worker' }],

  shared: [
    async ({ playwright }, use, worker) => {
      const { launchOptions, baseURL, viewport, acceptDownloads } = worker.project.use;
      const shared = new SharedBrowser((dir) =>
        launch(playwright.chromium, dir, {
          ...(launchOptions && { launchOptions }),
          ...(baseURL && { baseURL }),
          ...(viewport && { viewport }),
          ...(acceptDownloads !== undefined && { acceptDownloads }),
          serviceWorkers: 'block',
          // Frames of what moves for its own sake are drawn on the same two cores.
          reducedMotion: 'reduce',
        }),
      );
      await use(shared);
      await shared.end();
    },
    { scope: 'worker' },
  ],

  context: async ({ playwright, profile, shared, own, launchOptions, baseURL, viewport, acceptDownloads, serviceWorkers }, use, info) => {
    if (!own) {
      await use(await shared.take(profile));
      await shared.leave();
      // What a failed test leaves behind is nobody's trouble but its own.
      if (info.status !== info.expectedStatus) await shared.end();
      return;
    }
    const dir = await folder('test');
    await copyProfile(profile, dir);
    const context = await launch(playwright.chromium, dir, {
      launchOptions,
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
