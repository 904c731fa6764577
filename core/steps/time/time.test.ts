import { parseShot } from '../../document/schema';
import type { Param, Shot, Source } from '../../document/types';
import { makePlan } from '../../evaluate/plan';
import type { Evaluated, TestStep } from '../../testing/evaluate';
import { evaluate, flat, testShot } from '../../testing/evaluate';
import { STEPS } from '..';

/** Clouds that are another picture at every frame stand for a plate that moves. */
const moving: TestStep = { type: 'noise', params: { size: 12, speed: 8 } };
const seen = (frame: number, ...steps: TestStep[]): Promise<Evaluated> =>
  evaluate({ main: flat(24, 16, 0) }, [moving, ...steps], { frame });
const same = (a: Evaluated, b: Evaluated): void => expect(a.planes).toEqual(b.planes);
const keys = (...list: [number, number][]): Param => ({ keys: list.map(([frame, value]) => ({ frame, value, ease: 'linear' as const })) });

describe('time', () => {
  test('another frame is another picture, or nothing here says anything', async () => {
    expect((await seen(3)).planes).not.toEqual((await seen(4)).planes);
  });

  test('a held frame is seen at every frame', async () => {
    for (const f of [1, 5, 9]) same(await seen(f, { type: 'hold', params: { frame: 5 } }), await seen(5));
  });

  test('offset frames come later, or earlier; two undo each other', async () => {
    same(await seen(9, { type: 'offset', params: { by: 3 } }), await seen(6));
    same(await seen(9, { type: 'offset', params: { by: -2 } }), await seen(11));
    same(await seen(9, { type: 'offset', params: { by: 3 } }, { type: 'offset', params: { by: -3 } }), await seen(9));
  });

  test("the shot's range is turned round, or one of its own", async () => {
    same(await seen(1, { type: 'reverse' }), await seen(10));
    same(await seen(4, { type: 'reverse', params: { own: true, first: 3, last: 20 } }), await seen(19));
  });

  test('half of the speed shows each frame twice, or mixes neighbours; the reference frame stays', async () => {
    const half = (between: string): TestStep => ({ type: 'retime', params: { speed: 0.5, reference: 4, between } });
    same(await seen(4, half('blend')), await seen(4));
    same(await seen(8, half('blend')), await seen(6));
    const [mixed, a, b] = [await seen(7, half('blend')), await seen(5), await seen(6)];
    mixed.planes.R!.forEach((v, i) => expect(v).toBeCloseTo((a.planes.R![i]! + b.planes.R![i]!) / 2, 6));
    same(await seen(7, half('nearest')), await seen(6));
  });

  test('times between the same two frames are pictures of their own', async () => {
    const at = (source: number) => seen(1, { type: 'retime', params: { by: 'source', source } });
    const [early, late, first, second] = [await at(12.25), await at(12.75), await seen(12), await seen(13)];
    early.planes.R!.forEach((v, i) => expect(v).toBeCloseTo(0.75 * first.planes.R![i]! + 0.25 * second.planes.R![i]!, 6));
    late.planes.R!.forEach((v, i) => expect(v).toBeCloseTo(0.25 * first.planes.R![i]! + 0.75 * second.planes.R![i]!, 6));
    const shot = (source: number): Shot =>
      testShot({ main: flat(8, 8, 0) }, [moving, { type: 'retime', params: { by: 'source', source } }]);
    const keyOf = (source: number): string =>
      makePlan(shot(source), { tap: { lane: 'main' }, frame: 1, channels: ['R'], scale: 1 }, STEPS).key;
    expect(keyOf(12.25)).not.toBe(keyOf(12.75));
  });

  test('a keyed speed is summed up: from 0 to 2 over eight frames eight frames pass', async () => {
    const speed = keys([1, 0], [9, 2]);
    same(await seen(9, { type: 'retime', params: { speed, reference: 1 } }), await seen(9));
    // A quarter of the way 1/16 of the distance: half a frame.
    const [mixed, a, b] = [await seen(3, { type: 'retime', params: { speed, reference: 1 } }), await seen(1), await seen(2)];
    mixed.planes.R!.forEach((v, i) => expect(v).toBeCloseTo((a.planes.R![i]! + b.planes.R![i]!) / 2, 6));
  });

  test('with a mix the frame itself shows through', async () => {
    const [half, held, own] = [await seen(3, { type: 'hold', params: { frame: 8 }, mix: 0.25 }), await seen(8), await seen(3)];
    half.planes.R!.forEach((v, i) => expect(v).toBeCloseTo(0.25 * held.planes.R![i]! + 0.75 * own.planes.R![i]!, 6));
  });

  test('a time step on a time step goes on from there', async () => {
    const slow: TestStep = { type: 'retime', params: { speed: 0.5, reference: 1 } };
    const twice = await seen(8, slow, slow);
    const [a, b] = [await seen(2), await seen(3)];
    // 8 → 4.5, between 4 and 5: 2.5 and 3.
    const mean = b.planes.R!.map((v, i) => 0.25 * a.planes.R![i]! + 0.25 * v + 0.5 * v);
    twice.planes.R!.forEach((v, i) => expect(v).toBeCloseTo(mean[i]!, 6));
  });
});

describe('frames that are not seen', () => {
  const bare = testShot({ main: flat(4, 4, 0) }, [{ type: 'hold', params: { frame: 2 } }]);
  const frames = [1, 2, 4].map((frame) => ({ frame, hash: `${frame}`.repeat(64), name: `f.${frame}` }));
  const source: Source = { ...bare.sources[0]!, kind: 'sequence', frames };
  const plan = (shot: Shot) =>
    makePlan({ ...shot, sources: [source] }, { tap: { lane: 'main' }, frame: 3, channels: ['R'], scale: 1 }, STEPS);

  test('one that is missing does no harm; with a mix it is seen, and said', () => {
    expect(plan(bare).sources.map((n) => n.mediaFrame)).toEqual([2]);
    const mixed = testShot({ main: flat(4, 4, 0) }, [{ type: 'hold', params: { frame: 2 }, mix: 0.5 }]);
    expect(() => plan(mixed)).toThrow(/no frame 3/);
  });
});

describe('a lane that starts from nothing', () => {
  const base = testShot({ main: flat(6, 4, 0.5) }, [{ type: 'solid', params: { colour: [1, 0.5, 0], opacity: 0.5 } }]);
  const shot: Shot = { ...base, sources: [], lanes: base.lanes.map((l) => ({ ...l, start: { empty: true as const } })) };

  test('has the shot’s format and no pixel; a generator fills it', () => {
    expect(() => parseShot(JSON.parse(JSON.stringify(shot)))).not.toThrow();
    const request = { frame: 1, channels: ['R', 'G', 'B', 'A'], scale: 1 };
    const clear = makePlan(shot, { ...request, tap: { lane: 'main', after: '' } }, STEPS);
    expect(clear.root.info).toMatchObject({ format: { width: 6, height: 4 }, bounds: { x1: 0, y1: 0 } });
    const filled = makePlan(shot, { ...request, tap: { lane: 'main' } }, STEPS);
    expect([filled.root.info.bounds.x1, filled.sources]).toEqual([6, []]);
  });
});
