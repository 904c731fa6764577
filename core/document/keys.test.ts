import { handleAt, valueAt } from './curve';
import { easeKeys, moveKeys, repeatedKeys, replacedBy, smoothKeys, thinKeys } from './keys';
import { paramProblem } from './schema';
import type { Key } from './types';

const line = (...values: number[]): Key[] => values.map((value, i) => ({ frame: i + 1, value, ease: 'linear' }));
const all = (keys: readonly Key[]): Set<number> => new Set(keys.map((k) => k.frame));

describe('work on keys', () => {
  test('keys move in time and value; what they land on gives way', () => {
    const moved = moveKeys(line(0, 1, 2, 3), new Set([2]), { frames: 2, lift: 0.5 });
    expect(moved.map((k) => [k.frame, k.value])).toEqual([
      [1, 0],
      [3, 2],
      [4, 1.5],
    ]);
  });

  test('times are stretched from the first chosen key, and keys that meet become one', () => {
    const keys = [1, 5, 6, 13].map((frame): Key => ({ frame, value: frame, ease: 'linear' }));
    const frames = (stretch: number): number[] => moveKeys(keys, new Set([5, 6, 13]), { stretch }).map((k) => k.frame);
    expect(frames(2)).toEqual([1, 5, 7, 21]);
    expect(frames(0.1)).toEqual([1, 5, 6]);
    expect(moveKeys(keys, new Set([5, 6, 13]), { stretch: 0.1 })[1]!.value).toBe(6);
  });

  test('a part of a list is scaled about a pivot, the others stay', () => {
    const keys: Key[] = [{ frame: 1, value: [4, 10, 0], ease: 'hold' }];
    expect(moveKeys(keys, all(keys), { part: 1, scale: 2, pivot: 8 })[0]!.value).toEqual([4, 12, 0]);
  });

  test('flat keys neither rise nor overshoot; linear ones forget their handles', () => {
    const flat = easeKeys(line(0, 10, 0), new Set([2]), 'flat');
    expect(Math.abs((valueAt(flat, 2.01) as number) - 10)).toBeLessThan(0.01);
    expect(easeKeys(flat, new Set([2]), 'linear')[1]).toEqual({ frame: 2, value: 10, ease: 'linear' });
  });

  test('smoothing draws a spike to its neighbours and leaves the ends', () => {
    expect(smoothKeys(line(0, 0, 8, 0, 0), all(line(0, 0, 8, 0, 0))).map((k) => k.value)).toEqual([0, 2, 4, 2, 0]);
    const lists: Key[] = line(0, 4, 0).map((k) => ({ ...k, value: [k.value as number, 1] }));
    expect(smoothKeys(lists, new Set([2]))[1]!.value).toEqual([2, 1]);
  });

  test('thinning leaves a straight run its ends, and keeps every curve within the tolerance', () => {
    expect(thinKeys(line(0, 1, 2, 3, 4), all(line(0, 1, 2, 3, 4)), 1e-9).map((k) => k.frame)).toEqual([1, 5]);
    const wave: Key[] = Array.from({ length: 60 }, (_, i) => ({ frame: i, value: 10 * Math.sin(i / 8), ease: 'smooth' }));
    for (const tolerance of [0.02, 0.2, 1]) {
      const thin = thinKeys(wave, all(wave), tolerance);
      for (let f = 0; f < 60; f++)
        expect(Math.abs((valueAt(thin, f) as number) - (wave[f]!.value as number))).toBeLessThanOrEqual(tolerance);
      expect(thin.length).toBeLessThan(tolerance === 0.02 ? 45 : 25);
    }
    // Keys that were not chosen stay, however needless.
    expect(thinKeys(line(0, 1, 2, 3), new Set([2]), 1).map((k) => k.frame)).toEqual([1, 3, 4]);
  });

  test('a value that repeats from frame to frame is told, a repeat after a gap is not', () => {
    expect(repeatedKeys(line(1, 2, 2, 3, 3, 3))).toEqual([3, 5, 6]);
    expect(
      repeatedKeys([
        { frame: 1, value: 5, ease: 'linear' },
        { frame: 9, value: 5, ease: 'linear' },
      ]),
    ).toEqual([]);
  });

  test('what moved keys would take the place of is known beforehand; among themselves they take none', () => {
    expect(replacedBy(line(0, 1, 2, 3), new Set([1, 2]), 1)).toEqual([3]);
    expect(replacedBy(line(0, 1, 2, 3), new Set([1, 2, 3, 4]), 1)).toEqual([]);
    expect(replacedBy(line(0, 1, 2, 3), new Set([1]), 0)).toEqual([]);
  });
});

describe('handles', () => {
  const pair: Key[] = [
    { frame: 1, value: [0, 10], ease: 'smooth' },
    { frame: 10, value: [9, 10], ease: 'smooth' },
    { frame: 19, value: [9, 40], ease: 'smooth' },
  ];

  test('of a pair each number has its own height; a curve with its handles written down is the same curve', () => {
    const written = pair.map((k, i): Key => {
      const [before, after] = [handleAt(pair, i, 'before'), handleAt(pair, i, 'after')];
      return { ...k, ...(before && { before }), ...(after && { after }) };
    });
    for (let t = 1; t <= 19; t += 0.5) {
      const [was, is] = [valueAt(pair, t), valueAt(written, t)] as [number[], number[]];
      expect(is[0]).toBeCloseTo(was[0]!, 9);
      expect(is[1]).toBeCloseTo(was[1]!, 9);
    }
    expect(written.every((k) => paramProblem({ keys: [k] }) === null)).toBe(true);
  });

  test('a handle of the one number leaves the other level', () => {
    const lifted: Key[] = [
      { ...pair[1]!, frame: 1, after: [3, 5, 0] },
      { ...pair[1]!, frame: 10 },
    ];
    const at = valueAt(lifted, 3) as number[];
    expect(at[0]).toBeGreaterThan(10);
    expect(at[1]).toBeCloseTo(10, 9);
  });

  test('there is none beyond the ends, and one with too few numbers is told', () => {
    expect([handleAt(pair, 0, 'before'), handleAt(pair, 2, 'after')]).toEqual([null, null]);
    expect(paramProblem({ keys: [{ ...pair[0]!, after: [3, 5] }] })).toMatch(/wrong tangent/);
    expect(paramProblem({ keys: [{ frame: 1, value: 2, ease: 'smooth', after: [3, 5] }] })).toBeNull();
  });
});
