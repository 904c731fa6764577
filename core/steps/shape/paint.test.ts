import { LUMA } from '../../colour/transfer';
import type { Stroke } from '../../paint/strokes';
import type { TestPicture } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';

const cloth: TestPicture = { width: 32, height: 16, fill: { R: 0.2, G: (x) => 0.3 + 0.01 * x, B: 0.1, A: (x) => (x < 16 ? 1 : 0.5) } };
const brush = (change: Partial<Stroke> = {}): Stroke[] => [
  { tool: 'paint', first: 1, last: 1, size: 10, hardness: 1, flow: 1, colour: [0.6, 0.3, 0.2], points: [4, 8, 28, 8], ...change },
];
type Got = Awaited<ReturnType<typeof evaluate>>;
const rgb = (got: Got, x: number, y: number): number[] => ['R', 'G', 'B'].map((c) => got.at(c, x, y));
const luma = (v: readonly number[]): number => LUMA.reduce((s, w, i) => s + w * v[i]!, 0);

describe('paint', () => {
  test('colour only gives the brush its hue and the picture its lightness', async () => {
    const before = await evaluate({ main: cloth }, []);
    const got = await evaluate({ main: cloth }, [{ type: 'paint', params: { strokes: brush({ tool: 'tint' }) } }]);
    for (const x of [8, 20, 26]) {
      const [was, is] = [rgb(before, x, 8), rgb(got, x, 8)];
      expect(luma(is)).toBeCloseTo(luma(was), 5);
      expect(is[0]! / is[1]!).toBeCloseTo(2, 4);
      expect(is[0]! / is[2]!).toBeCloseTo(3, 4);
      expect(got.at('A', x, 8)).toBe(before.at('A', x, 8));
    }
    expect(rgb(got, 16, 1)).toEqual(rgb(before, 16, 1));
  });

  test('half a flow goes half of the way; another frame is left alone', async () => {
    const before = await evaluate({ main: cloth }, []);
    const [half, full] = await Promise.all(
      [0.5, 1].map((flow) => evaluate({ main: cloth }, [{ type: 'paint', params: { strokes: brush({ flow, tool: 'tint' }) } }])),
    );
    rgb(half!, 10, 8).forEach((v, c) => expect(v).toBeCloseTo((rgb(before, 10, 8)[c]! + rgb(full!, 10, 8)[c]!) / 2, 5));
    const away = await evaluate({ main: cloth }, [{ type: 'paint', params: { strokes: brush({ first: 2, last: 9 }) } }]);
    expect(rgb(away, 10, 8)).toEqual(rgb(before, 10, 8));
  });

  test('colour covers, and a matte is what is brushed', async () => {
    const covered = await evaluate({ main: cloth }, [{ type: 'paint', params: { strokes: brush() } }]);
    rgb(covered, 24, 8).forEach((v, c) => expect(v).toBeCloseTo([0.6, 0.3, 0.2][c]!, 5));
    expect(covered.at('A', 24, 8)).toBe(1);
    const matte = await evaluate({ main: cloth }, [{ type: 'paint', params: { strokes: brush(), output: 'matte' } }]);
    expect([matte.at('A', 24, 8), matte.at('A', 8, 8), matte.at('A', 8, 1)]).toEqual([1, 1, 0]);
    expect(matte.at('R', 8, 1)).toBeCloseTo(0.2, 6);
  });

  test('edge detail finds coverage again under the brush, also where the matte is solid', async () => {
    const front = [0.6, 0.5, 0.4];
    const back = [0.05, 0.3, 0.08];
    const truth = (x: number): number => Math.min(1, Math.max(0, (x - 8) / 16));
    const over = (c: number) => (x: number) => truth(x) * front[c]! + (1 - truth(x)) * back[c]!;
    const main: TestPicture = { width: 32, height: 16, fill: { R: over(0), G: over(1), B: over(2), A: (x) => +(x >= 8) } };
    const params = { brush: brush({ size: 20, points: [16, -20, 16, 40], colour: [1, 1, 1] }) };
    const got = await evaluate({ main }, [{ type: 'edgeDetail', params }]);
    expect(got.at('A', 16, 8)).toBeGreaterThan(0.2);
    expect(got.at('A', 16, 8)).toBeLessThan(0.8);
    expect([2, 30].map((x) => got.at('A', x, 8))).toEqual([0, 1]);
  });
});
