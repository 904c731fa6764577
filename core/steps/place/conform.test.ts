import { evaluate } from '../../testing/evaluate';

/** A lamp in the dark, half as large as the frame that it is brought into. */
const lamp = { width: 32, height: 18, fill: { R: (x: number, y: number) => (x === 15 && y === 9 ? 40 : 0), G: 0, B: 0, A: 1 } };

describe('conform', () => {
  const conformed = (positive: boolean) =>
    evaluate({ main: lamp }, [{ type: 'conform', params: { positive } }], { format: { width: 64, height: 36 } });

  test('a sharp filter rings below 0 beside a lamp; cut, all else is as it was', async () => {
    const [rung, cut] = [await conformed(false), await conformed(true)];
    expect(Math.min(...rung.planes.R!)).toBeLessThan(-0.5);
    expect(cut.planes.R!.every((v, i) => v === Math.max(0, rung.planes.R![i]!))).toBe(true);
  });
});
