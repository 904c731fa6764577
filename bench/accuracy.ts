// npm run accuracy: measures the demo shots against the generator's truth and writes docs/accuracy.md. One part by its name
// (`npm run accuracy -- readings`); keys on every fourth frame only by `npm run accuracy -- keys 4`.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { workerData } from 'node:worker_threads';
import { isPartner, serveTraining } from '@/engine/node/training';
import { cleaningAccuracy } from './cleaning-accuracy';
import { keyingAccuracy } from './keying-accuracy';
import { learningAccuracy } from './learning-accuracy';
import { lensAccuracy } from './lens-accuracy';
import { passAccuracy } from './pass-accuracy';
import { readingAccuracy } from './reading-accuracy';
import { seatingAccuracy } from './seating-accuracy';
import { spaceAccuracy } from './space-accuracy';
import { shapeAccuracy } from './shape-accuracy';
import { thingsAccuracy } from './things-accuracy';

// Started again as a training's second worker, it is nothing else.
if (isPartner(workerData)) await serveTraining();
else await measure();

async function measure(): Promise<void> {
  const file = join(process.env.OSTRACON_ROOT ?? '.', 'docs/accuracy.md');
  const [only, step] = process.argv.slice(2);
  const PARTS: readonly [title: string, run: () => Promise<string>][] = [
    ['Keys', () => keyingAccuracy(Number(step ?? 1))],
    ['Readings', readingAccuracy],
    ['Shapes', shapeAccuracy],
    ['Cleaning', cleaningAccuracy],
    ['Lens', lensAccuracy],
    ['Passes', passAccuracy],
    ['Space', spaceAccuracy],
    ['Things', thingsAccuracy],
    ['Seating', () => seatingAccuracy(process.env.OSTRACON_ROOT ?? '.')],
    ['Learning', () => learningAccuracy(process.env.OSTRACON_ROOT ?? '.', new URL(import.meta.url))],
  ];

  /** What was measured before, by part. */
  const parts = new Map(
    (existsSync(file) ? readFileSync(file, 'utf8') : '')
      .split(/^## /m)
      .slice(1)
      .map((t) => [t.slice(0, t.indexOf('\n')), t.slice(t.indexOf('\n')).trim()]),
  );
  for (const [title, run] of PARTS) {
    if (only && title.toLowerCase() !== only.toLowerCase()) continue;
    parts.set(title, await run());
    process.stdout.write(`\n## ${title}\n\n${parts.get(title)!}\n`);
  }
  const told = PARTS.flatMap(([title]) => (parts.has(title) ? [`## ${title}\n\n${parts.get(title)!}\n`] : []));
  const intro = "# Accuracy\n\nMeasured by `npm run accuracy` against the generator's truth; figures are what they are.\n";
  writeFileSync(file, [intro, ...told].join('\n'));
}
