import type { TestPicture } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';

const [W, H] = [48, 32];
const FRONT = [0.6, 0.5, 0.4];
const BACK = [0.05, 0.3, 0.08];
/** A soft edge from empty at the left to solid at the right. */
const truth = (x: number): number => Math.min(1, Math.max(0, (x - 16) / 16));
const colour = (of: (c: number, x: number) => number): TestPicture['fill'] =>
  Object.fromEntries(['R', 'G', 'B'].map((name, c) => [name, (x: number) => of(c, x)]));
const plate: TestPicture = { width: W, height: H, fill: colour((c, x) => truth(x) * FRONT[c]! + (1 - truth(x)) * BACK[c]!) };
/** The plate with a rough matte: right where it is sure, wrong between. */
const rough: TestPicture = {
  width: W,
  height: H,
  fill: { ...plate.fill, A: (x: number) => (truth(x) === 0 ? 0 : truth(x) === 1 ? 1 : 0.5) },
};
const sure = (is: (x: number) => boolean): TestPicture => ({ width: W, height: H, fill: { R: 0, G: 0, B: 0, A: (x: number) => +is(x) } });
const off = (got: Awaited<ReturnType<typeof evaluate>>): number => {
  let most = 0;
  for (let x = 2; x < W - 2; x++) most = Math.max(most, Math.abs(got.at('A', x, 16) - truth(x)));
  return most;
};

describe('edge detail', () => {
  test('closed form finds a soft edge that the matte had wrong, and what was sure stays exactly so', async () => {
    const got = await evaluate({ main: rough }, [{ type: 'edgeDetail', params: { band: 0 } }]);
    expect(off(got)).toBeLessThan(0.05);
    for (const x of [0, 8, 15]) expect(got.at('A', x, 16)).toBe(0);
    for (const x of [33, 40, 47]) expect(got.at('A', x, 16)).toBe(1);
  });

  test('the guided filter draws the matte towards the colours', async () => {
    const before = await evaluate({ main: rough }, []);
    const got = await evaluate({ main: rough }, [{ type: 'edgeDetail', params: { method: 'guided', band: 0, radius: 6, noise: 0.005 } }]);
    expect(off(got)).toBeLessThan(0.6 * off(before));
  });

  test('the background is taken off partial pixels, and the subject’s own colour is left', async () => {
    const background = { width: W, height: H, fill: colour((c) => BACK[c]!) };
    const got = await evaluate({ main: rough, background }, [{ type: 'edgeDetail', params: { band: 0 }, feeds: ['background'] }]);
    for (const x of [20, 24, 28]) {
      ['R', 'G', 'B'].forEach((c, k) => expect(Math.abs(got.at(c, x, 16) - truth(x) * FRONT[k]!)).toBeLessThan(0.03));
    }
  });

  test('with one of inside and outside fed, the matte says what is sure on the other side', async () => {
    const inside = sure((x) => x >= 36);
    const got = await evaluate({ main: rough, inside }, [{ type: 'edgeDetail', feeds: ['inside'] }]);
    for (const x of [0, 8, 15]) expect(got.at('A', x, 16)).toBe(0);
    expect(off(got)).toBeLessThan(0.05);
  });

  test('a proxy of any size has finite coverage, whatever the radius comes to', async () => {
    for (const scale of [0.5, 0.25] as const) {
      const params = { method: 'guided', band: 0, radius: 3 };
      const got = await evaluate({ main: { ...rough, width: W * scale, height: H * scale } }, [{ type: 'edgeDetail', params }], { scale });
      expect(got.planes.A!.every((v) => Number.isFinite(v))).toBe(true);
    }
  });

  test('only where it is asked for', async () => {
    const where = { ...sure(() => true), fill: { R: 0, G: 0, B: 0, A: (_: number, y: number) => +(y > 20) } };
    const got = await evaluate({ main: rough, where }, [{ type: 'edgeDetail', params: { band: 0 }, feeds: ['where'] }]);
    expect(got.at('A', 18, 10)).toBe(0.5);
    expect(Math.abs(got.at('A', 18, 30) - truth(18))).toBeLessThan(Math.abs(0.5 - truth(18)) / 2);
  });
});
