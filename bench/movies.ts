import { existsSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { build } from 'esbuild';
import type { MovieKind } from '@/engine/browser/movie-writer';
import { MOVIES } from '@/engine/browser/movie-writer';
import type { MovieFigures } from './movies-page';
import { chromiumOptions } from '@/scripts/chromium.mjs';
import { table } from './timing';

/** Writing and reading HD movies in Chromium, decoder and the way to RGB together, on one thread. */
export async function benchMovies(root: string): Promise<string> {
  if (!existsSync(chromiumOptions.executablePath)) return 'Not measured: there is no Chromium here.';
  const bundle = await build({
    entryPoints: [join(root, 'bench/movies-page.ts')],
    bundle: true,
    // A package asks for Node's files where it runs in Node, and is not called here.
    external: ['node:*'],
    write: false,
    format: 'esm',
    tsconfig: join(root, 'tsconfig.json'),
    logLevel: 'error',
  });
  const script = bundle.outputFiles[0]!.text;
  const server = createServer((request, response) => {
    const isScript = request.url === '/page.js';
    response.setHeader('content-type', isScript ? 'text/javascript' : 'text/html');
    response.end(isScript ? script : '<script type="module" src="/page.js"></script>');
  });
  await new Promise<void>((done) => void server.listen(0, done));
  const browser = await chromium.launch(chromiumOptions);
  try {
    const page = await browser.newPage();
    await page.goto(`http://localhost:${(server.address() as AddressInfo).port}/`);
    await page.waitForFunction(() => 'measure' in globalThis);
    const rows: string[][] = [];
    for (const kind of Object.keys(MOVIES) as MovieKind[]) {
      const f = await page.evaluate((k) => (globalThis as unknown as { measure(k: string): Promise<MovieFigures> }).measure(k), kind);
      rows.push([
        MOVIES[kind].title,
        f.megabytes.toFixed(2),
        f.encode.toFixed(1),
        f.forward.toFixed(1),
        f.jump.toFixed(0),
        f.fidelity.toFixed(1),
      ]);
    }
    return `48 HD frames in Chromium without a GPU: decoding, the way to 16 bit RGB included; a jump goes to the key frame before and on from there (one a second); the worst of three frames, luma.\n\n${table(['', 'MB', 'written, frames/s', 'read forward, frames/s', 'a jump, ms', 'PSNR, dB'], rows)}`;
  } finally {
    await browser.close();
    server.close();
  }
}
