import { nodeKernels } from '@/engine/node/host';
import { Cancelled } from '../errors';
import { rect } from '../geometry/rect';
import { STEPS } from '../steps';
import type { Evaluated, TestPicture, TestStep } from '../testing/evaluate';
import { evaluate, testShot } from '../testing/evaluate';
import type { CommonsLayout } from './commons';
import { Commons, layoutOf } from './commons';
import type { PlanNode } from './plan';
import { makePlan } from './plan';

const [W, H] = [40, 30];
const kernels = await nodeKernels();
const CHANNELS = ['R', 'G', 'B', 'A'];
const picture = (k: number): TestPicture => ({
  width: W,
  height: H,
  fill: { R: (x, y) => ((x * 7 + y * 3 + k) % 19) / 19, G: (x) => x / W, B: (_, y) => (y + k) / H, A: 1 },
});
const pictures = { main: picture(0), like: picture(5) };
/** A blur that is wanted whole, since the step after it may depend on any pixel; and one of which a band wants its own rows. */
const STEPS_OF: readonly TestStep[] = [
  { type: 'blur', params: { size: 3 } },
  { type: 'matchColour', feeds: ['like'] },
  { type: 'blur', params: { size: 2 } },
  { type: 'grade', params: { exposure: 0.5 } },
];
const BANDS = [rect(0, 0, W, H / 2), rect(0, H / 2, W, H)];

const planOf = (steps = STEPS_OF) =>
  makePlan(testShot(pictures, steps), { tap: { lane: 'main' }, frame: 1, channels: CHANNELS, scale: 1 }, STEPS);
const nameOf = (node: PlanNode): string =>
  node.kind === 'step' ? `${node.lane.name} ${node.definition.type}` : node.kind === 'source' ? `source ${node.source.name}` : 'clear';

/** What one worker of several does with what they share. */
class Noted extends Commons {
  readonly made: string[] = [];
  readonly read: string[] = [];
  override put(...[node, tile]: Parameters<Commons['put']>): void {
    this.made.push(nameOf(node));
    super.put(node, tile);
  }
  override take(node: PlanNode) {
    this.read.push(nameOf(node));
    return super.take(node);
  }
}

/** Memory for a frame, as it is left by another. */
function memoryFor(layout: CommonsLayout): Float32Array {
  const memory = new Float32Array(new SharedArrayBuffer(4 * layout.floats)).fill(NaN);
  Commons.clear(layout, memory);
  return memory;
}
const joined = (bands: readonly Evaluated[], channel: string): number[] => bands.flatMap((b) => [...b.planes[channel]!]);

describe('what the bands of a frame share', () => {
  test('is sources, steps that any pixel may depend on, and what those are made of; not what a band wants in part', () => {
    const plan = planOf();
    const byKey = new Map(plan.nodes.map((n) => [n.key, nameOf(n)]));
    expect(layoutOf(plan).places.map((p) => byKey.get(p.key))).toEqual(['source main', 'main blur', 'source like', 'main matchColour']);
    const plain = layoutOf(planOf([{ type: 'blur', params: { size: 3 } }]));
    expect(plain.places.map((p) => byKey.get(p.key) ?? p.key)).toEqual(['source main']);
  });

  test('lies apart: no place reaches into another, nor out of the memory', () => {
    const { places, floats } = layoutOf(planOf());
    let end = 8 * places.length;
    for (const p of places) {
      expect(p.at).toBe(end);
      end += p.pixels * p.channels.length;
    }
    expect(end).toBe(floats);
  });

  test('is made once, and the bands together are the whole frame', async () => {
    const whole = await evaluate(pictures, STEPS_OF);
    const layout = layoutOf(planOf());
    const memory = memoryFor(layout);
    const workers = BANDS.map(() => new Noted(layout, memory, kernels));
    const bands: Evaluated[] = [];
    for (const [i, region] of BANDS.entries()) bands.push(await evaluate(pictures, STEPS_OF, { region, commons: workers[i]! }));
    expect([workers[0]!.made, workers[0]!.read]).toEqual([['main blur', 'main matchColour'], []]);
    // The blur is not even read: what is made of it is there.
    expect([workers[1]!.made, workers[1]!.read]).toEqual([[], ['main matchColour']]);
    for (const c of CHANNELS) expect(joined(bands, c)).toEqual([...whole.planes[c]!]);
  });

  test('one whose frame wants other channels, or another part, works for itself', async () => {
    const layout = layoutOf(planOf());
    const memory = memoryFor(layout);
    await evaluate(pictures, STEPS_OF, { commons: new Commons(layout, memory, kernels) });
    const [node] = planOf([{ type: 'blur', params: { size: 3 } }]).nodes.slice(-1) as [PlanNode];
    const commons = new Commons(layout, memory, kernels);
    // The same blur, of which the whole is wanted here too.
    expect(commons.claim(node)).toBe('ready');
    expect(commons.claim({ ...node, region: BANDS[0]! } as PlanNode)).toBe('alone');
    expect(commons.claim({ ...node, channels: new Set(['R', 'Z']) } as PlanNode)).toBe('alone');
    expect(commons.claim({ ...node, key: 'of another frame' } as PlanNode)).toBe('alone');
  });

  test('what another is at is left to it, and what does not hang on it is done meanwhile', async () => {
    const twoLanes: readonly TestStep[] = [
      { type: 'matchColour', feeds: ['like'] },
      { type: 'join', taps: { front: { lane: 'side' } }, params: { mode: 'average' } },
    ];
    const shot = { ...pictures, side: picture(9) };
    const order: string[] = [];
    const plan = makePlan(testShot(shot, twoLanes), { tap: { lane: 'main' }, frame: 1, channels: CHANNELS, scale: 1 }, STEPS);
    const layout = layoutOf(plan);
    const memory = memoryFor(layout);
    const [match] = plan.nodes.filter((n) => nameOf(n) === 'main matchColour') as [PlanNode];
    const other = new Commons(layout, memory, kernels);
    expect(other.claim(match)).toBe('mine');
    const alone = await evaluate(shot, twoLanes.slice(0, 1));
    /** The other is ready when this one has nothing else to do. */
    class Waiting extends Commons {
      override wait(node: PlanNode): void {
        order.push(`waits for ${nameOf(node)}`);
        other.put(match, { region: match.region, planes: alone.planes as never });
      }
    }
    const got = await evaluate(shot, twoLanes, {
      commons: new Waiting(layout, memory, kernels),
      progress: (_done, _of, _i, node) => order.push(nameOf(node)),
    });
    expect(order.slice(0, -3).sort()).toEqual(['source like', 'source main', 'source side']);
    expect(order.slice(-3)).toEqual(['waits for main matchColour', 'main matchColour', 'main join']);
    const whole = await evaluate(shot, twoLanes);
    for (const c of CHANNELS) expect([...got.planes[c]!]).toEqual([...whole.planes[c]!]);
  });

  test('who gives up leaves what it had begun to the others, and nothing behind', async () => {
    const layout = layoutOf(planOf());
    const memory = memoryFor(layout);
    let asked = 0;
    const left = new Noted(layout, memory, kernels);
    const given = evaluate(pictures, STEPS_OF, { region: BANDS[0]!, commons: left, cancelled: () => ++asked > 3 });
    await expect(given).rejects.toThrow(Cancelled);
    const other = new Noted(layout, memory, kernels);
    const got = await evaluate(pictures, STEPS_OF, { region: BANDS[1]!, commons: other });
    expect([...left.made, ...other.made].sort()).toEqual(['main blur', 'main matchColour']);
    const whole = await evaluate(pictures, STEPS_OF, { region: BANDS[1]! });
    expect([...got.planes.R!]).toEqual([...whole.planes.R!]);
  });

  test('what is larger than was thought is nobody’s: each makes its own', async () => {
    const plan = planOf();
    const layout = layoutOf(plan);
    const commons = new Commons(layout, memoryFor(layout), kernels);
    const [source] = plan.sources as [PlanNode];
    expect(commons.claim(source)).toBe('mine');
    commons.put(source, { region: rect(0, 0, W + 1, H), planes: {} });
    expect(commons.claim(source)).toBe('alone');
  });
});
