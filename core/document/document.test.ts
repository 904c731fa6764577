import { testShot, flat } from '../testing/evaluate';
import { valueAt } from './curve';
import { findCycle } from './graph';
import { resolveParam, withKey, withoutKey } from './params';
import { checkReferences } from './references';
import { parseShot } from './schema';
import type { Shot } from './types';

const shot = (): Shot => testShot({ main: flat(4, 4, 0), front: flat(4, 4, 1) }, [{ type: 'join', feeds: ['front'] }, { type: 'grade' }]);
const broken = (change: (s: Record<string, never>) => void): string => {
  const json = JSON.parse(JSON.stringify(shot()));
  change(json);
  try {
    parseShot(json);
  } catch (e) {
    return (e as Error).message;
  }
  return 'accepted';
};

describe('the shot document', () => {
  test('a good one is taken as it is', () => expect(parseShot(JSON.parse(JSON.stringify(shot())))).toEqual(shot()));

  test.each<[string, (s: any) => void, RegExp]>([
    ['no schema', (s) => delete s.schema, /no "schema"/],
    ['another schema', (s) => (s.schema = 'other/9'), /written for "other\/9"/],
    [
      'a lane that is not there',
      (s) => (s.lanes[0].steps[0].feeds.front.lane = 'nowhere'),
      /"front" of main ▸ join 0 refers to a lane "nowhere"/,
    ],
    ['a source that is not there', (s) => (s.lanes[1].start.source = 'x'), /lane "front" starts from a source "x"/],
    ['two of one id', (s) => (s.lanes[1].id = 'main'), /two things have the id "main"/],
    ['a range that ends first', (s) => (s.range.last = 0), /ends before it starts/],
    ['a number that is none', (s) => (s.format.width = 'wide'), /format\.width/],
    ['a parameter that is none', (s) => (s.lanes[0].steps[1].params.exposure = { nothing: 1 }), /exposure is neither/],
    [
      'keys out of order',
      (s) =>
        (s.lanes[0].steps[1].params.exposure = {
          keys: [
            { frame: 5, value: 1, ease: 'linear' },
            { frame: 2, value: 1, ease: 'linear' },
          ],
        }),
      /out of order at frame 2/,
    ],
    ['a size beyond reason', (s) => (s.format.width = 1e9), /format\.width/],
  ])('%s is refused in words', (_, change, message) => expect(broken(change)).toMatch(message));

  test('a ring of feeds is refused with its path', () => {
    const message = broken((s: any) => {
      s.lanes[1].steps.push({ ...s.lanes[0].steps[0], id: 'back', name: 'back', feeds: { front: { lane: 'main' } } });
    });
    expect(message).toMatch(/ring: .*main ▸ join 0 ← front ▸ back/);
  });

  test('a lane may be tapped before the step it feeds', () => {
    const s = shot();
    s.lanes[1]!.start = { tap: { lane: 'main', after: '' } };
    expect(findCycle(s)).toBeNull();
    s.lanes[1]!.start = { tap: { lane: 'main', after: 'step 0' } };
    expect(findCycle(s)).not.toBeNull();
  });

  test('hostile shapes are refused and not followed', () => {
    for (const json of [
      null,
      3,
      [],
      'x',
      { schema: 'ostracon/1' },
      { schema: 'ostracon/1', lanes: { length: 1e9 } },
      { ...shot(), lanes: [null] },
    ]) {
      expect(() => parseShot(json)).toThrow();
    }
  });
});

describe('keys', () => {
  const keys = [
    { frame: 1, value: 0, ease: 'linear' as const },
    { frame: 11, value: 10, ease: 'hold' as const },
    { frame: 21, value: 0, ease: 'smooth' as const },
    { frame: 31, value: 5, ease: 'smooth' as const },
  ];
  test('linear between, held where they say, and held outside', () => {
    expect([-3, 1, 6, 11, 20, 21, 99].map((t) => valueAt(keys, t))).toEqual([0, 0, 5, 10, 10, 0, 5]);
  });
  test('smooth keys start and end flat, rise all the way and meet in the middle', () => {
    expect(valueAt(keys, 26)).toBeCloseTo(2.5, 6);
    expect(valueAt(keys, 21.5)).toBeLessThan(0.1);
    for (let t = 21; t < 31; t += 0.5) expect(valueAt(keys, t + 0.5) as number).toBeGreaterThanOrEqual(valueAt(keys, t) as number);
  });
  test('handles bend the curve as a Bézier', () => {
    const bent = [
      { frame: 0, value: 0, ease: 'smooth' as const, after: [6, 0] as [number, number] },
      { frame: 10, value: 1, ease: 'smooth' as const, before: [0, 0] as [number, number] },
    ];
    expect(valueAt(bent, 5) as number).toBeLessThan(0.35);
  });
  test('lists are interpolated part by part', () => {
    expect(
      valueAt(
        [
          { frame: 0, value: [0, 10], ease: 'linear' },
          { frame: 10, value: [10, 0], ease: 'linear' },
        ],
        3,
      ),
    ).toEqual([3, 7]);
  });
  test('setting moves a key, the last one taken away leaves its value', () => {
    const one = withKey(undefined, 5, 2);
    expect(withKey(one, 5, 3).keys).toEqual([{ frame: 5, value: 3, ease: 'smooth' }]);
    expect(withoutKey(one, 5)).toBe(2);
  });
});

describe('links', () => {
  test('follow another step, and a ring of them is refused and no hang', () => {
    const s = shot();
    s.lanes[0]!.steps[1]!.params.exposure = 1.5;
    expect(resolveParam(s, { link: { step: 'step 1', param: 'exposure' } }, 0, 1)).toBe(1.5);
    s.lanes[0]!.steps[1]!.params.exposure = { link: { step: 'step 1', param: 'exposure' } };
    expect(resolveParam(s, { link: { step: 'step 1', param: 'exposure' } }, 0.5, 1)).toBe(0.5);
    expect(() => checkReferences(s)).toThrow('ring');
  });
  test('a link to a parameter that nobody set gives the default of that one, not of the follower', () => {
    const s = shot();
    expect(resolveParam(s, { link: { step: 'step 1', param: 'slope' } }, 7, 1)).toEqual([1, 1, 1]);
    expect(resolveParam(s, { link: { step: 'step 1', param: 'mix' } }, 7, 1)).toBe(1);
  });
  test('a link to a step that is gone gives what that one last was, keys and all, else the default', () => {
    const keys = [
      { frame: 1, value: 2, ease: 'linear' as const },
      { frame: 3, value: 4, ease: 'linear' as const },
    ];
    expect(resolveParam(shot(), { link: { step: 'gone', param: 'exposure', was: { keys } } }, 0, 2)).toBe(3);
    expect(resolveParam(shot(), { link: { step: 'gone', param: 'exposure' } }, 0.25, 2)).toBe(0.25);
  });
  test('a list is a constant, neither keys nor a link', () => {
    expect(resolveParam(shot(), [1, 2], 0, 1)).toEqual([1, 2]);
  });
});
