import { describe, expect, test } from '@jest/globals';
import type { Rendered } from '../host';
import { FrameCache } from './frame-cache';
import { ScaleGovernor } from './scale-governor';

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
