// npm run accuracy: measures the demo shots against the generator's truth and writes docs/accuracy.md.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { SG010, renderKeeper } from '@/demo/sg010';
import type { Shot, Step } from '@/core/document/types';
import { nodeHost, openShotFile } from '@/engine/node/host';
import type { MatteErrors } from './matting';
import { matteErrors, partialBand } from './matting';

const FRAMES = [1, 8, 16, 24, 32, 40, 48];
const root = process.env.OSTRACON_ROOT ?? '.';

const { shot, files } = await openShotFile(join(root, 'demo/shots/sg010.json'));
const host = await nodeHost(files);

async function alphaAt(doc: Shot, lane: string, after: string, frame: number): Promise<Float32Array> {
  const { pixels } = await host.render(doc, { tap: { lane, after }, frame, scale: 1, channels: ['R', 'G', 'B', 'A'] });
  return Float32Array.from({ length: pixels.length / 4 }, (_, i) => pixels[4 * i + 3]!);
}

/** The plate with one screen key that has the shot's screen colour and nothing else. */
function bare(low: number, high: number): Shot {
  const key: Step = {
    id: 'bare',
    type: 'screenKey',
    name: 'bare',
    on: true,
    mix: 1,
    feeds: {},
    params: { screenColour: [0.047, 0.256, 0.075], low, high },
  };
  const lane = { ...shot.lanes.find((l) => l.id === 'keeper')!, steps: [key] };
  return { ...shot, lanes: [lane], result: lane.id };
}

interface Row {
  name: string;
  whole: MatteErrors;
  band: MatteErrors;
}
const zero = (): MatteErrors => ({ sad: 0, mse: 0, gradient: 0 });
const add = (a: MatteErrors, b: MatteErrors, share: number): void => {
  a.sad += b.sad * share;
  a.mse += b.mse * share;
  a.gradient += b.gradient * share;
};

const truths = FRAMES.map((frame) => {
  process.stdout.write(`truth of frame ${frame}\n`);
  return { frame, alpha: renderKeeper(frame, SG010).alpha };
});
const { width, height } = SG010;

async function measure(name: string, matte: (frame: number) => Promise<Float32Array>): Promise<Row> {
  const row: Row = { name, whole: zero(), band: zero() };
  for (const { frame, alpha } of truths) {
    const got = await matte(frame);
    add(row.whole, matteErrors(got, alpha, width, height), 1 / FRAMES.length);
    add(row.band, matteErrors(got, alpha, width, height, partialBand(alpha, width, height, 3)), 1 / FRAMES.length);
  }
  return row;
}

const rows: Row[] = [await measure("the demo shot's matte", (f) => alphaAt(shot, 'keeper', 'keeper-key', f))];
rows.push(await measure('bare key, thresholds 0 and 1', (f) => alphaAt(bare(0, 1), 'keeper', 'bare', f)));
let best = { mse: Infinity, low: 0, high: 1 };
const middle = truths[3]!;
for (const low of [0, 0.05, 0.1, 0.15, 0.2, 0.3, 0.4]) {
  for (const high of [0.6, 0.7, 0.8, 0.9, 1]) {
    const e = matteErrors(await alphaAt(bare(low, high), 'keeper', 'bare', middle.frame), middle.alpha, width, height);
    if (e.mse < best.mse) best = { mse: e.mse, low, high };
  }
}
rows.push(
  await measure(`bare key, best constant thresholds (${best.low}, ${best.high})`, (f) =>
    alphaAt(bare(best.low, best.high), 'keeper', 'bare', f),
  ),
);

const n = (v: number): string => v.toPrecision(3);
const table = [
  '| matte | SAD, whole | MSE, whole | gradient, whole | SAD, band | MSE, band | gradient, band |',
  '|---|---|---|---|---|---|---|',
  ...rows.map((r) => `| ${r.name} | ${[r.whole, r.band].flatMap((e) => [n(e.sad), n(e.mse), n(e.gradient)]).join(' | ')} |`),
].join('\n');
const text = `# Accuracy

Measured by \`npm run accuracy\` against the generator's truth; figures are what they are.

## SG010 keeper: the matte, mean of frames ${FRAMES.join(', ')}

SAD in thousands of pixels, MSE per pixel, gradient error in thousands (derivatives of a Gaussian, σ 1.4). The band is every pixel of partial true
coverage grown by 3 px. The stand and the tape are not part of the true matte, so a key that keeps them is charged for them.

${table}
`;
writeFileSync(join(root, 'docs/accuracy.md'), text);
process.stdout.write(`\n${table}\n`);
