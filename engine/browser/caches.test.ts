import type { Rendered } from '../host';
import { flat, testShot } from '@/core/testing/evaluate';
import { FrameBuffers } from './frame-buffers';
import { FrameCache } from './frame-cache';
import type { WorkerPool } from './pool';
import { ScaleGovernor } from './scale-governor';
import { Viewer } from './viewer';

const frame = (floats: number): Rendered => ({ pixels: new Float32Array(floats) }) as Rendered;

describe('the cache of frames', () => {
  test('over its budget the least recently used goes first', () => {
    const cache = new FrameCache(3 * 400);
    for (const key of ['a', 'b', 'c']) cache.set(key, frame(100));
    cache.get('a');
    cache.set('d', frame(100));
    expect(['a', 'b', 'c', 'd'].filter((k) => cache.has(k))).toEqual(['a', 'c', 'd']);
    expect(cache.figures).toMatchObject({ hits: 1, misses: 0, bytes: 1200 });
  });

  test('frames that the play range needs go after all others, however old they are', () => {
    const cache = new FrameCache(3 * 400);
    cache.want(new Set(['a', 'b']));
    for (const key of ['a', 'b', 'x', 'y', 'z']) cache.set(key, frame(100));
    expect(['a', 'b', 'x', 'y', 'z'].filter((k) => cache.has(k))).toEqual(['a', 'b', 'z']);
  });

  test('a smaller budget holds at once', () => {
    const cache = new FrameCache(4000);
    for (const key of ['a', 'b', 'c']) cache.set(key, frame(100));
    cache.budget = 450;
    expect(cache.figures.bytes).toBe(400);
    expect(cache.has('c')).toBe(true);
  });
});

describe('the scale while dragging', () => {
  test('is the finest that keeps up by what pictures cost so far', () => {
    const governor = new ScaleGovernor();
    expect(governor.pick(1)).toBe(0.5);
    governor.report(1, 30);
    expect(governor.pick(1)).toBe(1);
    governor.report(1, 300);
    expect(governor.pick(1)).toBe(0.5);
    for (let i = 0; i < 6; i++) governor.report(0.5, 200);
    expect(governor.pick(1)).toBe(0.25);
    for (let i = 0; i < 9; i++) governor.report(0.25, 1);
    expect(governor.pick(1)).toBe(1);
    expect(governor.pick(0.25)).toBe(0.25);
  });
});

describe('what the screen waits for', () => {
  const shot = testShot({ main: flat(8, 8, 0.5) }, []);
  const gappy = {
    ...shot,
    sources: shot.sources.map((s) => ({
      ...s,
      kind: 'sequence' as const,
      frames: [1, 2, 4].map((frame) => ({ frame, hash: String(frame).padStart(64, '0'), name: `${frame}.png` })),
    })),
  };
  const request = (frame: number) => ({ tap: { lane: 'main' }, frame, channels: ['R'], scale: 1 });
  const viewerOf = (render: () => Promise<Rendered>): Viewer =>
    new Viewer(
      { render, size: 1, setBudget: () => undefined, figures: () => ({}), buffers: new FrameBuffers(0) } as unknown as WorkerPool,
      2 ** 20,
    );

  test('a frame that is missing, or cannot be worked out, is not waited for', async () => {
    const viewer = viewerOf(() => Promise.reject(new Error('damaged')));
    expect(viewer.settled(gappy, request(3))).toBe(true);
    expect(viewer.settled(gappy, request(2))).toBe(false);
    viewer.readAhead(gappy, [request(2)]);
    await new Promise((done) => setTimeout(done));
    expect(viewer.settled(gappy, request(2))).toBe(true);
    // Once its files are there again it is tried again.
    viewer.clear();
    expect(viewer.settled(gappy, request(2))).toBe(false);
  });

  test('a picture that is held keeps its memory when the cache lets go of it', async () => {
    const buffers = new FrameBuffers(2 ** 20);
    const pool = {
      render: async () => ({ pixels: buffers.take(64) }),
      size: 1,
      setBudget: () => undefined,
      buffers,
    } as unknown as WorkerPool;
    const viewer = new Viewer(pool, 2 ** 20);
    const shown = await viewer.fetch(shot, request(1), 'view');
    viewer.hold(shown);
    viewer.cache.clear();
    expect(buffers.take(64).buffer).not.toBe(shown.pixels.buffer);
    viewer.release(shown);
    expect(buffers.take(64).buffer).toBe(shown.pixels.buffer);
  });
});
