import { mkdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Lane, Shot, Source, Step } from '@/core/document/types';
import { SCHEMA } from '@/core/document/types';
import { DEFAULT_OUTPUT } from '@/core/formats/output';
import { writeExr } from '@/core/formats/exr/write';
import { rect } from '@/core/geometry/rect';
import { nodeHost, nodeKernels } from '@/engine/node/host';

const FRAMES = 100;
const LANES = 10;
const FILES = 4;
const BUDGET = 256 * 2 ** 20;
const FORMAT = { width: 1920, height: 1080, pixelAspect: 1 };

const STEPS: readonly [string, Record<string, unknown>][] = [
  ['exposure', { stops: 0.2 }],
  ['grade', { slope: [1.1, 1, 0.9], saturation: 0.9 }],
  ['blur', { size: 5 }],
  ['clamp', { low: 0, high: 4 }],
  ['transform', { translate: [12.5, -3.25], uniform: 0.9 }],
  ['grade', { power: [1.1, 1, 1] }],
  ['crop', { left: 100, softness: 40 }],
];

/** HD, ten lanes of eight steps each, every lane with a sequence of its own that changes at every frame. */
function stressShot(): { shot: Shot; files: Map<string, string> } {
  const folder = join(tmpdir(), 'saltgate-stress');
  const files = new Map<string, string>();
  const source = (k: number): Source => ({
    id: `source ${k}`,
    name: `spray ${k}`,
    kind: 'sequence',
    frames: Array.from({ length: FRAMES }, (_, f) => {
      const hash = `${k}-${f}`.padStart(64, '0');
      files.set(hash, join(folder, `${(k + f) % FILES}.exr`));
      return { frame: f + 1, hash, name: `spray${k}.${f + 1}.exr` };
    }),
    format: FORMAT,
    channels: ['R', 'G', 'B', 'A'],
    container: 'OpenEXR',
    colourSpace: 'linear',
    alpha: 'premultiplied',
    missing: 'error',
    start: 1,
  });
  const step = (lane: number, i: number, type: string, params: Record<string, unknown>, feeds = {}): Step =>
    ({ id: `${lane}.${i}`, type, name: type, on: true, params, mix: 1, feeds }) as Step;
  const lanes = Array.from({ length: LANES }, (_, k): Lane => {
    const own = STEPS.map(([type, params], i) => step(k, i, type, params));
    if (k > 0) own.push(step(k, own.length, 'join', { operator: 'over' }, { front: { lane: `lane ${k - 1}` } }));
    else own.push(step(k, own.length, 'exposure', { stops: -0.1 }));
    return { id: `lane ${k}`, name: `spray ${k}`, start: { source: `source ${k}` }, muted: false, collapsed: false, steps: own };
  });
  const shot: Shot = {
    schema: SCHEMA,
    id: 'stress',
    name: 'stress',
    format: FORMAT,
    frameRate: 24,
    range: { first: 1, last: FRAMES },
    sources: Array.from({ length: LANES }, (_, k) => source(k)),
    lanes,
    result: `lane ${LANES - 1}`,
    readings: [],
    notes: [],
  };
  return { shot, files };
}

async function makeMedia(): Promise<void> {
  const folder = join(tmpdir(), 'saltgate-stress');
  mkdirSync(folder, { recursive: true });
  const kernels = await nodeKernels();
  for (let k = 0; k < FILES; k++) {
    const channels = ['R', 'G', 'B', 'A'].map((name, c) => {
      const plane = kernels.take(1920 * 1080);
      for (let i = 0; i < plane.length; i++) plane[i] = (((i % 1920) * (c + 2) + Math.floor(i / 1920) * (k + 3)) % 512) / 512;
      return { name, type: 'half' as const, plane };
    });
    writeFileSync(
      join(folder, `${k}.exr`),
      writeExr({ format: FORMAT, bounds: rect(0, 0, 1920, 1080), channels, compression: 'ZIPS' }, kernels),
    );
    channels.forEach((c) => kernels.give(c.plane));
  }
}

/** Renders the stress shot in this process and prints, as JSON, resident megabytes after each frame and seconds in all. */
export async function stress(): Promise<void> {
  await makeMedia();
  const { shot, files } = stressShot();
  const host = await nodeHost(files, BUDGET);
  const resident: number[] = [];
  const started = performance.now();
  for (let frame = 1; frame <= FRAMES; frame++) {
    await host.encode(shot, shot.result!, frame, 1, { ...DEFAULT_OUTPUT, compression: 'NONE' });
    resident.push(Math.round(process.memoryUsage().rss / 2 ** 20));
  }
  process.stdout.write(JSON.stringify({ resident, seconds: (performance.now() - started) / 1000, budget: BUDGET / 2 ** 20 }));
}
