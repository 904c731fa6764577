// npm run bench: measures kernels, filters, the evaluation, the demo shot and memory, and writes docs/bench.md.
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { cpus, totalmem } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { isMainThread, workerData } from 'node:worker_threads';
import { isPartner, serveTraining } from '@/engine/node/training';
import { nodeKernels } from '@/engine/node/host';
import { serveFrames } from '@/engine/node/workers';
import { benchEngine } from './engine';
import { benchFilters } from './filters';
import { benchFormats } from './formats';
import { benchKernels } from './kernels';
import { benchKeys } from './keys';
import { benchMovies } from './movies';
import { benchPage } from './page';
import { benchReadings } from './readings';
import { benchShapeMattes } from './shapes';
import { benchShots } from './shots';
import { benchLearning } from './learning';
import { benchLens } from './lens';
import { benchLight } from './light';
import { benchSpace } from './space';
import { benchThings } from './things';
import { benchPasses } from './passes';
import { benchCleaning } from './cleaning';
import { measureMemory } from './memory';
import { stress } from './stress';
import { table } from './timing';

const root = process.env.OSTRACON_ROOT ?? '.';

function memory(): string {
  const run = spawnSync(process.execPath, ['--no-warnings', fileURLToPath(import.meta.url), 'stress'], { encoding: 'utf8' });
  if (run.status !== 0) return `The stress shot failed: ${run.stderr.slice(-400)}`;
  const { resident, seconds, budget } = JSON.parse(run.stdout) as { resident: number[]; seconds: number; budget: number };
  const at = [1, 10, 25, 50, 75, 100].map((f) => [String(f), `${resident[f - 1]} MB`]);
  const peak = Math.max(...resident);
  return [
    `A stress shot, HD, ten lanes of eight steps, 100 frames rendered by one process with a cache of ${budget} MB: at most ${peak} MB resident, that is ${peak - budget} MB beside the cache's budget; ${(seconds / 100).toFixed(2)} s a frame.`,
    table(['after frame', 'resident'], at),
  ].join('\n\n');
}

async function main(): Promise<void> {
  const kernels = await nodeKernels();
  const parts: [string, () => string | Promise<string>][] = [
    ['Kernels', () => benchKernels(kernels)],
    ['Filters', () => benchFilters(kernels)],
    ['Evaluation', () => benchEngine(kernels)],
    ['Files', () => benchFormats(kernels)],
    ['Movies', () => benchMovies(root)],
    ['The demo shot', () => benchShots(root, new URL(import.meta.url))],
    ['Keys', () => benchKeys(root, new URL(import.meta.url), kernels)],
    ['Readings', () => benchReadings(root, kernels)],
    ['Shapes', () => benchShapeMattes(kernels)],
    ['Cleaning', () => benchCleaning(kernels)],
    ['The lens', () => benchLens(kernels)],
    ['Passes', () => benchPasses(kernels)],
    ['Time, air, light', () => benchLight(kernels)],
    ['Space', () => benchSpace(root)],
    ['Things', () => benchThings(kernels)],
    ['Learning', () => benchLearning(root, new URL(import.meta.url))],
    ['The page', () => benchPage(root)],
    ['Memory', memory],
    ['Ten minutes of work', () => measureMemory(root)],
  ];
  const [only] = process.argv.slice(2);
  const file = join(root, 'docs/bench.md');
  const wanted = parts.filter(([title]) => !only || title.toLowerCase().includes(only.toLowerCase()));
  const about = `${cpus().length} cores of ${cpus()[0]!.model.trim()}, ${Math.round(totalmem() / 2 ** 30)} GB, Node ${process.versions.node}`;
  const intro = `# Bench\n\nWritten by \`npm run bench\` (a part of it by \`npm run bench -- filters\`): ${about}. The ratios within a table are what counts; machines differ, and this one's neighbours are noisy. What is missed, and why, is said in [engine.md](engine.md).\n`;
  const old = new Map(
    (existsSync(file) ? readFileSync(file, 'utf8') : '')
      .split(/^## /m)
      .slice(1)
      .map((t) => [t.slice(0, t.indexOf('\n')), t]),
  );
  for (const [title, run] of wanted) {
    const part = `${title}\n\n${await run()}\n`;
    process.stdout.write(`\n## ${part}`);
    old.set(title, `${part}\n`);
  }
  const text = parts.map(([title]) => (old.has(title) ? `## ${old.get(title)!.trimEnd()}\n` : '')).filter(Boolean);
  writeFileSync(file, [intro, ...text].join('\n'));
}

if (isPartner(workerData)) await serveTraining();
else if (!isMainThread) await serveFrames();
else if (process.argv[2] === 'stress') await stress();
else await main();
