import { join } from 'node:path';
import type { Gray } from '@/core/readings/gray';
import { nodeHost, openShotFile } from '@/engine/node/host';
import { picturesOf } from '@/engine/reading-pictures';

/** Frames of a demo shot's lane, from its start, as luma that is seen; each is made once. */
export async function lumaOf(root: string, shot: string, lane: string): Promise<(frame: number) => Promise<Gray>> {
  const opened = await openShotFile(join(root, `demo/shots/${shot}.json`));
  const pictures = picturesOf(await nodeHost(opened.files), opened.shot, { lane, after: '' });
  const kept = new Map<number, Promise<Gray>>();
  return (frame) => {
    let made = kept.get(frame);
    if (!made) kept.set(frame, (made = pictures.frame(frame).then((f) => f.read(0, 0, f.width, f.height))));
    return made;
  };
}
