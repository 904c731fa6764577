import { nodeKernels } from '@/engine/node/host';
import type { GrayFrame } from '../readings/gray';
import { seenThrough } from '../readings/testing';
import type { FoundTrack } from './camera-parts';
import { FIND_SETTINGS } from './camera-parts';
import { foundTracks } from './find-tracks';

const [width, height, frames] = [240, 160, 12];
/** The scene goes right and down by fractions of a pixel, and grows a little. */
const scale = (f: number): number => 1 + 0.004 * (f - 1);
const at = (f: number, u: number, v: number): [number, number] => [scale(f) * u + 1.37 * (f - 1), scale(f) * v + 0.61 * (f - 1)];
const picture = (f: number): GrayFrame => {
  const s = 1 / scale(f);
  return seenThrough([s, 0, -1.37 * (f - 1) * s, 0, s, -0.61 * (f - 1) * s, 0, 0, 1], width, height, { noise: 0.006, seed: f });
};

async function found(settings: Partial<typeof FIND_SETTINGS> = {}, matte?: (x: number, y: number) => number): Promise<FoundTrack[]> {
  const gray = (): { width: number; height: number; data: Float32Array } => ({
    width,
    height,
    data: Float32Array.from({ length: width * height }, (_, i) => matte!(i % width, Math.floor(i / width))),
  });
  return foundTracks(
    await nodeKernels(),
    { first: 1, last: frames },
    { ...FIND_SETTINGS, count: 40, ...settings },
    { frame: (f) => Promise.resolve(picture(f)), ...(matte && { matte: () => Promise.resolve(gray()) }) },
  );
}

describe('found tracks', () => {
  it('follow the scene to a tenth of a pixel, forward and back, over all frames that see them', async () => {
    const tracks = await found();
    expect(tracks.length).toBeGreaterThan(30);
    const errors = tracks.flatMap((t) => {
      // From where a track is on its first frame, where its detail is on the others.
      const [x, y] = t.at as unknown as [number, number];
      const [u, v] = [(x - 1.37 * (t.first - 1)) / scale(t.first), (y - 0.61 * (t.first - 1)) / scale(t.first)];
      return Array.from({ length: t.at.length / 2 }, (_, i) => {
        const [tx, ty] = at(t.first + i, u, v);
        return Math.hypot(t.at[2 * i]! - tx, t.at[2 * i + 1]! - ty);
      });
    });
    errors.sort((a, b) => a - b);
    expect(errors[errors.length >> 1]!).toBeLessThan(0.05);
    expect(errors[Math.floor(0.95 * errors.length)]!).toBeLessThan(0.15);
    // Those in the middle are there from the first frame to the last, also where they were found later.
    expect(tracks.filter((t) => t.first === 1 && t.at.length === 2 * frames).length).toBeGreaterThan(20);
  });

  it('give back what they keep in the kernels’ memory', async () => {
    const kernels = await nodeKernels();
    const used = kernels.used;
    await found();
    expect(kernels.used).toBe(used);
  });

  it('lie apart from each other, keep clear of the edges and out of mattes, and last', async () => {
    const tracks = await found({ margin: 20, least: 10 }, (x) => (x < 90 ? 1 : 0));
    expect(tracks.length).toBeGreaterThan(10);
    for (const t of tracks) {
      expect(t.at.length / 2).toBeGreaterThanOrEqual(10);
      t.at.forEach((v, i) => {
        expect(v).toBeGreaterThanOrEqual(i % 2 ? 20 : 90);
        expect(v).toBeLessThanOrEqual((i % 2 ? height : width) - 20);
      });
    }
    const first = tracks.filter((t) => t.first === 1).map((t) => [t.at[0]!, t.at[1]!] as const);
    first.forEach((a, i) => first.slice(i + 1).forEach((b) => expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeGreaterThan(15)));
  });

  it('are none where a matte covers everything, and the same again from the same pictures', async () => {
    expect(await found({}, () => 1)).toEqual([]);
    expect(await found()).toEqual(await found());
  });
});
