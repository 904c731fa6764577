import { join } from 'node:path';
import { RGBA } from '@/core/picture';
import { nodeHost, openShotFile } from '@/engine/node/host';

export interface Light {
  planes: [Float32Array, Float32Array, Float32Array];
  w: number;
  h: number;
}

/** R, G, B of frames of a demo shot's lane, from its start or after all of its steps. */
export async function lightOfFrames(root: string, shot: string, lane: string, frames: readonly number[], whole = false): Promise<Light[]> {
  const opened = await openShotFile(join(root, `demo/shots/${shot}.json`));
  const host = await nodeHost(opened.files);
  const out: Light[] = [];
  for (const frame of frames) {
    const tap = whole ? { lane } : { lane, after: '' };
    const { pixels, format } = await host.render(opened.shot, { tap, frame, scale: 1, channels: RGBA });
    const n = format.width * format.height;
    const planes = [0, 1, 2].map((c) => Float32Array.from({ length: n }, (_, i) => pixels[4 * i + c]!)) as Light['planes'];
    out.push({ planes, w: format.width, h: format.height });
  }
  return out;
}
