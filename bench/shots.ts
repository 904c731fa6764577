import { join } from 'node:path';
import type { Shot } from '@/core/document/types';
import { RGBA } from '@/core/picture';
import { DEFAULT_OUTPUT } from '@/core/formats/output';
import { nodeHost, openShotFile } from '@/engine/node/host';
import { workerRows } from './by-workers';
import { median, ms, table } from './timing';

const FRAMES = 24;
/** Frames of each worker before those, on which the engine settles. */
const SETTLING = 8;

/** The demo shot: a whole frame, a change at the key's threshold, and its export by one and by two workers. */
export async function benchShots(root: string, entry: URL): Promise<string> {
  const { shot, files } = await openShotFile(join(root, 'demo/shots/sg010.json'));
  const host = await nodeHost(files);
  const request = (frame: number) => ({ tap: { lane: shot.result! }, frame, scale: 1, channels: RGBA });
  const whole: number[] = [];
  for (let f = 1; f <= 16; f++) whole.push((await host.render(shot, request(f))).milliseconds);
  const changed: number[] = [];
  for (let i = 0; i < 16; i++) changed.push((await host.render(withThreshold(shot, 0.05 + i * 0.003), request(16))).milliseconds);
  const scaled: number[] = [];
  for (let f = 1; f <= 8; f++) scaled.push((await host.render(shot, { ...request(f), scale: 0.5 })).milliseconds);

  const settings = DEFAULT_OUTPUT;
  const exports = await workerRows(`export as half EXR, after ${SETTLING} frames a worker on which the engine settles`, {
    shot,
    files,
    entry,
    settings,
    settling: SETTLING,
    frames: FRAMES,
  });
  return table(
    ['SG010, 960×540, five lanes', 'figure'],
    [
      ['a frame, one core, nothing cached but the background still: median', `${ms(median(whole.slice(4)))} ms`],
      ["the same frame after a change at the key's threshold, one core: median", `${ms(median(changed.slice(2)))} ms`],
      ['a frame at half scale, with the decoding of its plate: median', `${ms(median(scaled.slice(2)))} ms`],
      ...exports,
    ],
  );
}

function withThreshold(shot: Shot, low: number): Shot {
  const [first] = shot.lanes[0]!.steps;
  const edit = (s: Shot['lanes'][number]['steps'][number]) => (s.id === first!.id ? { ...s, params: { ...s.params, low } } : s);
  return { ...shot, lanes: shot.lanes.map((l) => ({ ...l, steps: l.steps.map(edit) })) };
}
