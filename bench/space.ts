import { join } from 'node:path';
import { foundTracks } from '@/core/space/find-tracks';
import { CAMERA_SETTINGS } from '@/core/space/camera-parts';
import { suggestPrunes } from '@/core/space/prunes';
import { solvedCamera } from '@/core/space/solve';
import { CLIP_FORMAT, makeClip } from '@/core/space/testing';
import { nodeHost, nodeKernels, openShotFile } from '@/engine/node/host';
import { picturesOf } from '@/engine/reading-pictures';
import { table } from './timing';

const seconds = async <T>(run: () => T | Promise<T>): Promise<[T, string]> => {
  const started = performance.now();
  const made = await run();
  return [made, ((performance.now() - started) / 1000).toFixed(1)];
};

/** A camera's steps, once each, on one core: they take seconds. */
export async function benchSpace(root: string): Promise<string> {
  const clip = makeClip('dolly', { frames: 96, tracks: 400, noise: 0.15 });
  const input = { tracks: clip.tracks, range: clip.frames, format: CLIP_FORMAT, focal: 'found' as const, bend: false };
  const [made, first] = await seconds(() => solvedCamera(input));
  const [, known] = await seconds(() => solvedCamera({ ...input, focal: 780 }));
  const prune = suggestPrunes(made);
  const gone = new Set(prune?.tracks ?? clip.tracks.slice(0, 20).map((t) => t.id));
  const tracks = clip.tracks.filter((t) => !gone.has(t.id));
  const [, again] = await seconds(() => solvedCamera({ ...input, tracks, from: made }));
  const { shot, files } = await openShotFile(join(root, 'demo/shots/sg050.json'));
  const pictures = picturesOf(await nodeHost(files), shot, { lane: 'slipway', after: 'straighten' });
  const kernels = await nodeKernels();
  const [found, looked] = await seconds(() => foundTracks(kernels, { first: 1, last: 96 }, { ...CAMERA_SETTINGS, count: 110 }, pictures));
  return table(
    ['one core', 's', 'asked'],
    [
      [`solve 96 frames × ${clip.tracks.length} tracks, focal length found`, first, '20'],
      ['the same, focal length known', known, '20'],
      [`again after ${gone.size} tracks went`, again, '3'],
      [`find tracks: SG050, 96 frames, ${found.length} tracks`, looked, '30 on two'],
    ],
  );
}
