import { nodeKernels } from '@/engine/node/host';
import { Cancelled } from '../errors';
import type { TestPicture, TestStep } from '../testing/evaluate';
import { BUSY } from '../testing/busy';
import { renderPasses } from '../testing/render-passes';
import { evaluate } from '../testing/evaluate';
import { STEPS } from '.';

const picture = (width: number, height: number, seed: number): TestPicture => ({
  width,
  height,
  fill: {
    R: (x) => 0.2 + 0.3 * Math.sin(x / 3 + seed),
    G: (_, y) => 0.3 + 0.2 * Math.cos(y / 4 + seed),
    B: (x, y) => ((x * 7 + y * 13) % 11) / 22,
    A: (x, y) => Math.min(1, Math.max(0, (Math.hypot(x - width / 2, y - height / 2) - 6) / 5)),
  },
});

const MOST = 60;

describe('work that is given up', () => {
  test.each([...STEPS.keys()])('%s gives every plane back, wherever it is stopped', async (type) => {
    const feeds = STEPS.get(type)!.feeds.map((f) => f.name);
    const pictures = {
      main:
        STEPS.get(type)!.family === 'Passes'
          ? { ...picture(48, 36, 0), fill: { ...renderPasses(48, 36), ...picture(48, 36, 0).fill } }
          : picture(48, 36, 0),
      limit: picture(48, 36, 9),
      ...Object.fromEntries(feeds.map((f, i) => [f, picture(48, 36, i + 1)])),
    };
    const steps: TestStep[] = [
      { type: 'exposure', params: { stops: 0.5 } },
      { type, params: BUSY[type] ?? {}, feeds, mask: { from: 'limit', channel: 'R' } },
      { type: 'invert' },
    ];
    const kernels = await nodeKernels();
    const before = kernels.used;
    let polls = 0;
    await evaluate(pictures, steps, { tile: 400, cancelled: () => (polls++, false) });
    expect(polls).toBeGreaterThan(0);
    const stride = Math.max(1, Math.floor(polls / MOST));
    for (let at = 0; at < polls; at += stride) {
      let n = 0;
      await expect(evaluate(pictures, steps, { tile: 400, cancelled: () => n++ === at })).rejects.toThrow(Cancelled);
      expect([at, kernels.used]).toEqual([at, before]);
    }
  });

  test('a front with fewer rows, joined and passed on in one run of steps, leaves nothing behind and nothing dangling', async () => {
    const front: TestPicture = { ...picture(48, 36, 2), bounds: { x0: 0, y0: 9, x1: 48, y1: 21 } };
    const chain: TestStep[] = [
      { type: 'join', feeds: ['front'] },
      { type: 'grade', params: { saturation: 0.5 } },
      { type: 'exposure', params: { stops: 1 } },
    ];
    const pictures = { main: picture(48, 36, 0), front };
    const whole = await evaluate(pictures, chain);
    for (const tile of [48, 48 * 5, 48 * 12]) {
      const cut = await evaluate(pictures, chain, { tile });
      for (const c of ['R', 'G', 'B', 'A']) expect(cut.planes[c]).toEqual(whole.planes[c]);
    }
  });
});
