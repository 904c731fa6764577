import type { TestStep } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';

const disc = {
  width: 96,
  height: 72,
  fill: Object.fromEntries(
    ['R', 'G', 'B', 'A'].map((c) => [
      c,
      (x: number, y: number) => (c === 'A' ? 1 : 0.4) * Math.min(1, Math.max(0, (20 - Math.hypot(x - 48, y - 36)) / 6 + 0.5)),
    ]),
  ),
};
const hold = (values: readonly unknown[]) => ({
  keys: values.map((value, i) => ({ frame: i + 1, value: value as number, ease: 'hold' as const })),
});
const steady: TestStep = { type: 'steadyMatte' };
/** What stands still while the key's edge does not. */
const plate = {
  width: 96,
  height: 72,
  fill: Object.fromEntries(['R', 'G', 'B'].map((c) => [c, (x: number, y: number) => 0.3 + 0.2 * Math.sin(x * 0.9) * Math.cos(y * 0.7)])),
};
const seen: TestStep = { ...steady, feeds: ['plate'] };
const BY = ['blocks', 'motion'].map((by) => [by, { by }] as const);

describe('steady matte', () => {
  test.each(BY)('an edge that jumps in for one frame is taken back to where it was before and after, by %s', async (_, params) => {
    const jump: TestStep = { type: 'choke', params: { radius: hold([0, -2, 0]) } };
    const [still, calm, restless] = await Promise.all([
      evaluate({ main: disc }, [], { frame: 2 }),
      evaluate({ main: disc, plate }, [jump, { ...seen, params }], { frame: 2 }),
      evaluate({ main: disc }, [jump], { frame: 2 }),
    ]);
    const off = (e: typeof still): number => e.planes.A!.reduce((s, v, i) => s + Math.abs(v - still.planes.A![i]!), 0);
    expect(off(restless)).toBeGreaterThan(100);
    expect(off(calm)).toBeLessThan(0.1 * off(restless));
  });

  test.each(BY)('a matte that moves steadily stays as it is, by %s', async (_, params) => {
    const move: TestStep = {
      type: 'transform',
      params: {
        translate: hold([
          [-4, 0],
          [0, 1],
          [4, 2],
        ]),
      },
    };
    const moving = await evaluate({ main: disc }, [move], { frame: 2 });
    const calm = await evaluate({ main: disc }, [move, { ...steady, params }], { frame: 2 });
    const off = moving.planes.A!.reduce((s, v, i) => s + Math.abs(v - calm.planes.A![i]!), 0);
    expect(off / moving.planes.A!.reduce((s, v) => s + v, 0)).toBeLessThan(0.01);
  });

  test('colour follows coverage', async () => {
    const jump: TestStep = { type: 'choke', params: { radius: hold([0, -2, 0]) } };
    const got = await evaluate({ main: disc, plate }, [jump, seen], { frame: 2 });
    for (let x = 24; x < 72; x += 3) expect(got.at('R', x, 36)).toBeCloseTo(0.4 * got.at('A', x, 36), 4);
  });
});
