import { evaluate } from '../../testing/evaluate';

test.each([
  ['grade', { offset: [0.1, -0.2, 0.3] }],
  ['invert', {}],
] as const)('%s makes no light where there is neither coverage nor light, and changes light alone as light', async (type, params) => {
  const main = { width: 3, height: 1, fill: { R: (x: number) => [0.5, 0, 0.2][x]!, G: 0, B: 0, A: (x: number) => [1, 0, 0][x]! } };
  const got = await evaluate({ main }, [{ type, params: params as never }]);
  for (const c of ['R', 'G', 'B']) expect(got.at(c, 1, 0)).toBe(0);
  if (type === 'grade') expect(got.at('R', 2, 0)).toBeCloseTo(0.3, 5);
});
