import { judge } from './alpha-doubt';

const planes = (fill: (i: number) => [number, number, number, number]) => {
  const n = 400;
  const all = Array.from({ length: n }, (_, i) => fill(i));
  return Object.fromEntries('RGBA'.split('').map((c, k) => [c, Float32Array.from(all, (v) => v[k]!)]));
};
const edge = (i: number): number => Math.min(1, Math.max(0, ((i % 20) - 6) / 8));

test('premultiplied colour under its alpha raises no doubt', () => {
  const p = planes((i) => [0.8 * edge(i), 0.5 * edge(i), 0.1 * edge(i), edge(i)]);
  expect(judge(p, 'premultiplied')).toBeUndefined();
  expect(judge(p, 'straight')).toBeUndefined();
});

test('straight colour read as premultiplied is doubted, read as straight it is not', () => {
  const p = planes((i) => [0.8, 0.5, 0.1, edge(i)]);
  expect(judge(p, 'premultiplied')).toMatch(/colour stands where alpha is 0, in 35 % of the pixels/);
  expect(judge(p, 'straight')).toBeUndefined();
});

test('colour above a partial alpha is doubted where nothing lies under alpha 0', () => {
  const p = planes((i) => (edge(i) === 0 ? [0, 0, 0, 0] : [0.9, 0.9, 0.9, edge(i)]));
  expect(judge(p, 'premultiplied')).toMatch(/colour lies above alpha/);
});

test('an alpha that is empty everywhere is doubted, however it is read', () => {
  const p = planes(() => [0.4, 0.4, 0.4, 0]);
  expect(judge(p, 'premultiplied')).toMatch(/alpha is 0 everywhere/);
  expect(judge(p, 'straight')).toMatch(/alpha is 0 everywhere/);
});

test('a picture without alpha, or with one that is ignored, has none to doubt', () => {
  const { R, G, B } = planes(() => [1, 1, 1, 0]) as Record<'R' | 'G' | 'B', Float32Array>;
  expect(judge({ R, G, B }, 'premultiplied')).toBeUndefined();
  expect(
    judge(
      planes(() => [1, 1, 1, 0]),
      'ignore',
    ),
  ).toBeUndefined();
});
