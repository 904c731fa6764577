import { parseShot } from '../document/schema';
import type { Shot, Zone } from '../document/types';
import { repairShot } from '../document/repair';
import type { TestPicture } from '../testing/evaluate';
import { evaluate, testShot } from '../testing/evaluate';

const [W, H] = [40, 24];
const plate: TestPicture = {
  width: W,
  height: H,
  fill: { R: (x, y) => 0.1 + 0.02 * x + 0.01 * ((x * 7 + y * 3) % 5), G: (_, y) => 0.05 * y, B: 0.3, A: 1 },
};
const matte: TestPicture = { width: W, height: H, fill: { R: 0, G: 0, B: 0, A: (x) => (x < W / 2 ? 1 : 0) } };
const steps = [
  { type: 'exposure', params: { stops: 1 } },
  { type: 'blur', params: { size: 2 } },
  { type: 'invert', params: { channels: 'colour' } },
];
const zone = (change: Partial<Zone> = {}): Zone => ({
  id: 'zone',
  type: 'zone',
  name: 'Zone',
  on: true,
  params: { within: 'box', box: [10, 6, 30, 18] },
  feeds: {},
  mix: 1,
  first: 'step 0',
  last: 'step 1',
  ...change,
});
const seen = (zones: Zone[], list = steps, options = {}) => evaluate({ main: plate, matte }, list, { zones, ...options });
const inside = (x: number, y: number): boolean => x >= 10 && x < 30 && y >= 6 && y < 18;

describe('a zone', () => {
  test('acts in its box alone: outside every pixel is what it was, to the bit', async () => {
    const list = steps.slice(0, 2);
    const [got, without, everywhere] = [await seen([zone()], list), await seen([], []), await seen([], list)];
    for (const c of ['R', 'G', 'B'])
      for (let y = 0; y < H; y++)
        for (let x = 0; x < W; x++) {
          if (inside(x, y)) expect(got.at(c, x, y)).toBeCloseTo(everywhere.at(c, x, y), 6);
          else expect(got.at(c, x, y)).toBe(without.at(c, x, y));
        }
  });

  test('steps after it act on all of it, and a tap inside sees what is inside', async () => {
    const [got, zoned] = [await seen([zone()]), await seen([zone()], steps.slice(0, 2))];
    expect(got.at('R', 2, 2)).toBeCloseTo(1 - zoned.at('R', 2, 2), 6);
    const first = await seen([zone()], steps, { tap: { lane: 'main', after: 'step 0' } });
    expect(first.at('R', 2, 2)).toBeCloseTo(2 * (await seen([], [])).at('R', 2, 2), 6);
  });

  test('off it is as if its steps were not there; mixed it is between', async () => {
    const [off, none, half, all] = await Promise.all([
      seen([zone({ on: false })]),
      seen([], steps.slice(2)),
      seen([zone({ mix: 0.5 })], steps.slice(0, 2)),
      seen([zone()], steps.slice(0, 2)),
    ]);
    expect(off.planes).toEqual(none.planes);
    const was = (await seen([], [])).at('R', 20, 12);
    expect(half.at('R', 20, 12)).toBeCloseTo((was + all.at('R', 20, 12)) / 2, 6);
  });

  test('everywhere, not mixed and not masked, it is its steps and nothing else', async () => {
    const [free, bare] = [await seen([zone({ params: {} })]), await seen([])];
    expect(free.planes).toEqual(bare.planes);
  });

  test('a lane’s matte limits it, and a feathered box falls off smoothly outside', async () => {
    const list = steps.slice(0, 1);
    const masked = await seen([zone({ params: {}, last: 'step 0', mask: { lane: 'matte', channel: 'A', invert: false } })], list);
    const was = await seen([], []);
    expect(masked.at('R', 5, 5)).toBeCloseTo(2 * was.at('R', 5, 5), 6);
    expect(masked.at('R', 35, 5)).toBe(was.at('R', 35, 5));
    const soft = await seen([zone({ params: { within: 'box', box: [10, 6, 30, 18], feather: 6 }, last: 'step 0' })], list);
    const gain = (x: number): number => soft.at('R', x, 12) / was.at('R', x, 12);
    expect(gain(20)).toBeCloseTo(2, 5);
    for (let x = 30; x < 36; x++) expect(gain(x)).toBeLessThan(gain(x - 1));
    expect(gain(37)).toBe(1);
  });

  test('outside the box instead, and half pixels of a box weigh half', async () => {
    const list = steps.slice(0, 1);
    const was = await seen([], []);
    const around = await seen([zone({ params: { within: 'box', box: [10, 6, 30, 18], invert: true }, last: 'step 0' })], list);
    expect([around.at('R', 20, 12) / was.at('R', 20, 12), around.at('R', 3, 3) / was.at('R', 3, 3)]).toEqual([1, 2]);
    const half = await seen([zone({ params: { within: 'box', box: [10.5, 6, 30, 18] }, last: 'step 0' })], list);
    expect(half.at('R', 10, 12) / was.at('R', 10, 12)).toBeCloseTo(1.5, 5);
  });

  test.each([2.5, -2.5])('grown by %d px, box and shapes: by as much on each side, tiles as the whole', async (choke) => {
    const list = steps.slice(0, 1);
    const was = await seen([], []);
    const corners = [10, 6, 30, 6, 30, 18, 10, 18].flatMap((v, i, all) => (i % 2 ? [] : [v, all[i + 1]!, 0, 0, 0, 0, 0]));
    const drawn = {
      ...{ id: 's', name: 'S', on: true, mark: 0, operation: 'add', opacity: 1, feather: 0, falloff: 'linear', closed: true, width: 0 },
      ...{ spline: 'bezier', follows: [], keys: [{ frame: 1, ease: 'linear', value: corners }] },
    };
    for (const place of [
      { within: 'box', box: [10, 6, 30, 18] },
      { within: 'shapes', shapes: [drawn] },
    ]) {
      const zoned = [zone({ params: { ...place, choke } as never, last: 'step 0' })];
      const got = await seen(zoned, list);
      const share = (x: number, y: number): number => got.at('R', x, y) / was.at('R', x, y) - 1;
      // Along the middle row and column what is covered is as wide as it was, and 2.5 px more or less at both ends.
      const across = Array.from({ length: W }, (_, x) => share(x, 12)).reduce((a, b) => a + b, 0);
      const down = Array.from({ length: H }, (_, y) => share(20, y)).reduce((a, b) => a + b, 0);
      expect(across).toBeCloseTo(20 + 2 * choke, 3);
      expect(down).toBeCloseTo(12 + 2 * choke, 3);
      const tiled = await seen(zoned, list, { tile: 7 });
      tiled.planes.R!.forEach((v, i) => expect(v).toBeCloseTo(got.planes.R![i]!, 6));
    }
  });

  test('at half size it is where it is at full size', async () => {
    const list = steps.slice(0, 1);
    const [zoned, was] = [await seen([zone({ last: 'step 0' })], list, { scale: 0.5 }), await seen([], [], { scale: 0.5 })];
    expect(zoned.at('R', 10, 6) / was.at('R', 10, 6)).toBeCloseTo(2, 5);
    expect(zoned.at('R', 3, 2)).toBe(was.at('R', 3, 2));
  });
});

describe('zones of a document', () => {
  const doc = (zones: Zone[]): Shot => {
    const shot = testShot({ main: plate, matte }, steps);
    return { ...shot, lanes: shot.lanes.map((l) => (l.id === 'main' ? { ...l, zones } : l)) };
  };

  test('beside each other are right; around nothing, backwards or over each other are told, and repaired', () => {
    expect(() => parseShot(doc([zone(), zone({ id: 'z2', name: 'b', first: 'step 2', last: 'step 2' })]))).not.toThrow();
    const wrong: [Zone[], RegExp][] = [
      [[zone({ first: 'gone' })], /around no run of its steps/],
      [[zone({ first: 'step 2', last: 'step 0' })], /around no run of its steps/],
      [[zone(), zone({ id: 'z2', name: 'b', first: 'step 1', last: 'step 2' })], /"Zone" and "b" of main lie over each other/],
    ];
    for (const [zones, message] of wrong) {
      expect(() => parseShot(doc(zones))).toThrow(message);
      const { shot, done } = repairShot(doc(zones));
      expect(done.join()).toMatch(message);
      expect(shot.lanes[0]!.steps).toHaveLength(3);
    }
  });

  test('a ring through a zone’s mask is found', () => {
    const shot = doc([zone({ mask: { lane: 'main', channel: 'A', invert: false } })]);
    expect(() => parseShot(shot)).toThrow(/ring/);
  });
});
