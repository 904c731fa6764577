import { rect } from '../geometry/rect';
import type { StepDefinition } from '../step';
import { localityOf } from '../step';
import { makePlan } from '../evaluate/plan';
import type { TestPicture } from '../testing/evaluate';
import { BUSY } from '../testing/busy';
import { renderPasses } from '../testing/render-passes';
import { evaluate, testShot } from '../testing/evaluate';
import { STEPS } from '.';

const [W, H] = [40, 30];
const SPOT = [31, 22] as const;

/** A picture with edges, and the same with one pixel changed. */
const picture = (seed: number, changed: boolean): TestPicture => {
  const at = (x: number, y: number): boolean => changed && x === SPOT[0] && y === SPOT[1];
  return {
    width: W,
    height: H,
    fill: {
      R: (x, y) => (at(x, y) ? 0.9 : 0.2 + 0.15 * Math.sin(x / 3 + seed)),
      G: (x, y) => (at(x, y) ? 0.1 : 0.3 + 0.2 * Math.cos(y / 4 + seed)),
      B: (x, y) => (at(x, y) ? 0.7 : ((x * 7 + y * 13) % 11) / 30),
      A: (x, y) => (at(x, y) ? 0.5 : Math.min(1, Math.max(0, (Math.hypot(x - W / 2, y - H / 2) - 6) / 5))),
    },
  };
};
const withPasses = (p: TestPicture): TestPicture => ({ ...p, fill: { ...renderPasses(W, H), ...p.fill } });
const picturesOf = (d: StepDefinition, changed: boolean) => ({
  main: d.family === 'Passes' ? withPasses(picture(0, changed)) : picture(0, changed),
  ...Object.fromEntries(d.feeds.map((f, i) => [f.name, picture(i + 1, changed)])),
});
const stepOf = (d: StepDefinition) => [{ type: d.type, params: BUSY[d.type] ?? {}, feeds: d.feeds.map((f) => f.name) }];

describe('what a pixel depends on is what its step says', () => {
  const all = [...STEPS.values()];

  test.each(all.filter((d) => localityOf(d) === 'pixel').map((d) => [d.type, d] as const))(
    '%s: another pixel of what it reads changes that pixel alone',
    async (_, d) => {
      const [was, is] = [await evaluate(picturesOf(d, false), stepOf(d)), await evaluate(picturesOf(d, true), stepOf(d))];
      for (const c of ['R', 'G', 'B', 'A']) {
        const differ = [...was.planes[c]!.keys()].filter((i) => was.planes[c]![i] !== is.planes[c]![i]);
        expect(differ.filter((i) => i !== SPOT[1] * W + SPOT[0])).toEqual([]);
      }
    },
  );

  test.each(all.map((d) => [d.type, d] as const))('%s: a part of the frame holds the pixels of the whole', async (_, d) => {
    const whole = await evaluate(picturesOf(d, false), stepOf(d));
    const region = rect(9, 7, 23, 19);
    const part = await evaluate(picturesOf(d, false), stepOf(d), { region });
    let worst = 0;
    for (const c of ['R', 'G', 'B', 'A'])
      for (let y = region.y0; y < region.y1; y++)
        for (let x = region.x0; x < region.x1; x++) worst = Math.max(worst, Math.abs(part.at(c, x, y) - whole.at(c, x, y)));
    expect(worst).toBeLessThan(1e-5);
  });

  test.each(all.map((d) => [d.type, d] as const))('%s: frames with one key have one picture', async (_, d) => {
    const shot = testShot(picturesOf(d, false), stepOf(d));
    const request = { tap: { lane: 'main' }, channels: ['R', 'G', 'B', 'A'], scale: 1 };
    const [first, second] = [3, 4].map((frame) => makePlan(shot, { ...request, frame }, STEPS).key);
    if (first !== second) return;
    const [a, b] = [3, 4].map((frame) => evaluate(picturesOf(d, false), stepOf(d), { frame }));
    expect((await a)!.planes).toEqual((await b)!.planes);
  });

  test('noise that evolves has a key a frame, noise that stands still has one', () => {
    const keyOf = (speed: number, frame: number): string => {
      const shot = testShot({ main: picture(0, false) }, [{ type: 'noise', params: { speed } }]);
      return makePlan(shot, { tap: { lane: 'main' }, frame, channels: ['R'], scale: 1 }, STEPS).key;
    };
    expect([keyOf(0, 1) === keyOf(0, 2), keyOf(1, 1) === keyOf(1, 2)]).toEqual([true, false]);
  });
});
