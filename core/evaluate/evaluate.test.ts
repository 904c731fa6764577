import { nodeKernels } from '@/engine/node/host';
import { evaluate, flat, testShot } from '../testing/evaluate';
import { rect } from '../geometry/rect';
import type { Picture, Tile } from '../picture';
import { STEPS } from '../steps';
import { compute, prepare } from './compute';
import { mediaFrameAt } from '../document/media';
import { makePlan } from './plan';

const request = { tap: { lane: 'main' }, frame: 1, scale: 1, channels: ['R', 'A'] };
const plan = (steps: Parameters<typeof testShot>[1], more = {}) =>
  makePlan(testShot({ main: flat(100, 80, 0.5), front: flat(100, 80, 1) }, steps), { ...request, ...more }, STEPS);
const types = (p: ReturnType<typeof plan>): string[] =>
  p.nodes.map((n) => (n.kind === 'step' ? n.step.type : n.kind === 'source' ? n.source.name : 'nothing'));

describe('plan', () => {
  test('leaves out what is off, neutral, or at mix 0', () => {
    const steps = [
      { type: 'grade' },
      { type: 'blur', on: false, params: { size: 9 } },
      { type: 'exposure', mix: 0, params: { stops: 1 } },
      { type: 'exposure', params: { stops: 1 } },
    ];
    expect(types(plan(steps))).toEqual(['main', 'exposure']);
  });

  test('asks for the padding of a blur and no more', () => {
    const p = plan(
      [
        { type: 'exposure', params: { stops: 1 } },
        { type: 'blur', params: { size: 2 } },
      ],
      { region: rect(40, 40, 50, 50) },
    );
    expect(p.nodes.find((n) => n.kind === 'step' && n.step.type === 'exposure')!.region).toEqual(rect(32, 32, 58, 58));
  });

  test('asks only for the channels that are wanted', () => {
    const p = plan([{ type: 'blur', params: { size: 2 } }], { channels: ['G'] });
    expect([...p.sources[0]!.channels]).toEqual(['G']);
  });

  test('the key follows what changes pixels and nothing else', () => {
    const key = (params: object, name = 'a') => {
      const shot = testShot({ main: flat(9, 9, 0) }, [{ type: 'blur', params: { size: 2, ...params } }]);
      shot.lanes[0]!.name = name;
      return makePlan(shot, request, STEPS).key;
    };
    expect(key({})).toBe(key({}, 'renamed'));
    expect(key({})).not.toBe(key({ size: 2.1 }));
    expect(key({ size: { keys: [{ frame: 1, value: 2, ease: 'hold' }] } })).toBe(key({}));
  });

  test('pixel sizes shrink with the scale', () => {
    const p = plan([{ type: 'blur', params: { size: 8 } }], { scale: 0.25 });
    const blur = p.nodes.find((n) => n.kind === 'step');
    expect(blur?.kind === 'step' && blur.p.size).toBe(2);
    expect(p.root.info.format).toEqual({ width: 25, height: 20, pixelAspect: 1 });
  });

  test('a join without its front passes by and says so; a muted front too', () => {
    const lone = plan([{ type: 'join' }]);
    expect(types(lone)).toEqual(['main']);
    expect(lone.remarks[0]!.message).toMatch(/needs its front connected/);
    const shot = testShot({ main: flat(4, 4, 0), front: flat(4, 4, 1) }, [{ type: 'join', feeds: ['front'] }]);
    shot.lanes[1]!.muted = true;
    const muted = makePlan(shot, request, STEPS);
    expect(muted.nodes).toHaveLength(1);
    expect(muted.remarks[0]!.message).toMatch(/muted/);
  });

  test('a step type from elsewhere is kept, passed by and told', () => {
    const p = plan([{ type: 'fromTheFuture' }]);
    expect(types(p)).toEqual(['main']);
    expect(p.remarks[0]!.message).toMatch(/"fromTheFuture" is not known/);
  });
});

describe('sequences', () => {
  const frames = [1, 2, 4].map((frame) => ({ frame, hash: '0'.repeat(64), name: `keeper.${frame}.jpg` }));
  const source = { ...testShot({ main: flat(4, 4, 0) }, []).sources[0]!, kind: 'sequence' as const, frames, start: 101 };
  test('a missing frame is an error that names it, is held, or is black', () => {
    expect(() => mediaFrameAt(source, 103, 24)).toThrow(/no frame 3 \(keeper\.2\.jpg is the last before it\)/);
    expect(mediaFrameAt({ ...source, missing: 'hold' }, 103, 24)).toBe(2);
    expect(mediaFrameAt({ ...source, missing: 'black' }, 103, 24)).toBeNull();
  });
  test('its ends are held outside its range', () => {
    expect([90, 101, 104, 200].map((f) => mediaFrameAt(source, f, 24))).toEqual([1, 1, 4, 4]);
  });
});

describe('compute', () => {
  const tileOf = (p: Picture): Tile => ({ region: p.bounds, planes: p.planes });
  const picture = async (): Promise<Picture> => {
    const k = await nodeKernels();
    const planes = Object.fromEntries(['R', 'G', 'B', 'A'].map((c) => [c, k.zeros(8000)]));
    return { format: { width: 100, height: 80, pixelAspect: 1 }, bounds: rect(0, 0, 100, 80), channels: ['R', 'G', 'B', 'A'], planes };
  };

  test('a step that throws names lane and step, and leaves no memory behind', async () => {
    const k = await nodeKernels();
    const p = plan([
      { type: 'blur', params: { size: 3 } },
      { type: 'exposure', params: { stops: 1 } },
    ]);
    const node = p.nodes.find((n) => n.kind === 'step' && n.step.type === 'exposure')!;
    Object.assign(node, {
      definition: {
        ...(node.kind === 'step' ? node.definition : {}),
        render: () => {
          throw new Error('poison');
        },
      },
    });
    const source = await picture();
    const before = k.used;
    expect(() => compute(prepare(p, k), { kernels: k, picture: () => tileOf(source) })).toThrow('main ▸ exposure 1 failed: poison');
    expect(k.used).toBe(before);
    Object.values(source.planes).forEach((x) => k.give(x));
  });

  test('cancelling stops between steps and leaves no memory behind', async () => {
    const k = await nodeKernels();
    const source = await picture();
    const before = k.used;
    let asked = 0;
    const host = { kernels: k, picture: () => tileOf(source), cancelled: () => ++asked > 2 };
    const p = plan([{ type: 'blur' }, { type: 'exposure', params: { stops: 1 } }]);
    expect(() => compute(prepare(p, k), host)).toThrow('cancelled');
    expect(k.used).toBe(before);
    Object.values(source.planes).forEach((x) => k.give(x));
  });

  test('cancelling inside a step leaves no memory behind either', async () => {
    const k = await nodeKernels();
    const source = await picture();
    // A matte that is flat somewhere would need no work there.
    source.planes.A!.forEach((_, i, a) => (a[i] = i % 2));
    const before = k.used;
    const p = plan([{ type: 'choke', params: { radius: 6.5 } }]);
    for (const looks of [2, 5, 9, 14, 20]) {
      let asked = 0;
      const host = { kernels: k, picture: () => tileOf(source), cancelled: () => ++asked > looks };
      expect(() => compute(prepare(p, k), host)).toThrow('cancelled');
      expect(k.used).toBe(before);
    }
    Object.values(source.planes).forEach((x) => k.give(x));
  });

  test('two lanes from the same point share its work', async () => {
    const shot = testShot({ main: flat(8, 8, 0.25), front: flat(8, 8, 1) }, [
      { type: 'exposure', params: { stops: 1 } },
      { type: 'join', feeds: ['front'], params: { operator: 'plus' } },
    ]);
    shot.lanes[1]!.start = { tap: { lane: 'main', after: 'step 0' } };
    const p = makePlan(shot, request, STEPS);
    expect(p.nodes.filter((n) => n.kind === 'step' && n.step.type === 'exposure')).toHaveLength(1);
  });

  test('at half scale a blurred edge lies where it lies at full scale', async () => {
    const main = { width: 64, height: 64, fill: { R: (x: number) => (x < 32 ? 1 : 0), G: 0, B: 0 } };
    const full = await evaluate({ main }, [{ type: 'blur', params: { size: 6 } }]);
    const half = await evaluate({ main: { width: 32, height: 32, fill: { R: (x: number) => (x < 16 ? 1 : 0), G: 0, B: 0 } } }, [
      { type: 'blur', params: { size: 3 } },
    ]);
    for (let x = 2; x < 30; x++)
      expect(Math.abs(half.at('R', x, 10) - (full.at('R', 2 * x, 20) + full.at('R', 2 * x + 1, 20)) / 2)).toBeLessThan(0.01);
  });
});
