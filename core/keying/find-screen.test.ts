import { findScreen } from './find-screen';

const sample = (colourAt: (x: number, y: number) => readonly number[], width = 40, height = 30) => {
  const pixels = new Float32Array(4 * width * height);
  for (let i = 0; i < width * height; i++) pixels.set([...colourAt(i % width, Math.floor(i / width)), 1], 4 * i);
  return { pixels, width, height };
};

describe('finding the screen', () => {
  test.each([
    ['green', [0.05, 0.25, 0.07]],
    ['blue', [0.04, 0.09, 0.35]],
  ])('a %s screen in uneven light around a grey subject', (_, colour) => {
    const found = findScreen([
      sample((x, y) => (Math.hypot(x - 20, y - 15) < 8 ? [0.4, 0.38, 0.36] : colour.map((c) => c * (0.8 + x / 100)))),
    ])!;
    found.colour.forEach((c, i) => expect(Math.abs(c / colour[i]! - 1)).toBeLessThan(0.15));
    expect(found.share).toBeGreaterThan(0.7);
  });

  test('a smaller thing of another strong colour is not taken for it', () => {
    const found = findScreen([sample((x, y) => (x < 10 && y < 10 ? [0.5, 0.02, 0.02] : [0.05, 0.25, 0.07]))])!;
    expect(found.colour[1]).toBeCloseTo(0.25, 5);
  });

  test('a picture without a screen has none', () => {
    expect(findScreen([sample((x) => [0.2 + x / 800, 0.2, 0.19])])).toBeNull();
    expect(findScreen([sample(() => [NaN, 0, 0])])).toBeNull();
  });
});
