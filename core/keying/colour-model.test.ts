import { random } from '../random';
import type { Point } from './colour-model';
import { ColourModel, opponent } from './colour-model';

const next = random(6);
const about = ([a, b, c]: Point, size: number, n: number): Point[] =>
  Array.from({ length: n }, () => [a + size * (next() - 0.5), b + size * (next() - 0.5), c + size * (next() - 0.5)]);

describe('colours in stops and differences of stops', () => {
  test('half of the light is one stop less, of the same hue', () => {
    const [whole, half] = [opponent(0.4, 0.8, 0.2), opponent(0.2, 0.4, 0.1)];
    expect(whole[0] - half[0]).toBeCloseTo(1, 1);
    expect(whole[1] - half[1]).toBeCloseTo(0, 1);
    expect(whole[2] - half[2]).toBeCloseTo(0, 1);
  });

  test('grey has no hue, at any light; what is darker than nothing is nothing', () => {
    for (const v of [0.01, 0.18, 4])
      opponent(v, v, v)
        .slice(1)
        .forEach((d) => expect(d).toBeCloseTo(0, 12));
    expect(opponent(-1, -1, -1)).toEqual(opponent(0, 0, 0));
    expect(opponent(0, 0, 0).every(Number.isFinite)).toBe(true);
  });
});

describe('a model of colours', () => {
  const [screen, shadow, coat]: Point[] = [opponent(0.05, 0.3, 0.08), opponent(0.02, 0.09, 0.03), opponent(0.5, 0.35, 0.1)] as Point[];
  const model = ColourModel.fit([...about(screen!, 0.3, 60), ...about(shadow!, 0.3, 60)], 4);

  test('is densest where its samples were, and thins out away from them', () => {
    const at = (p: Point): number => model.log(p);
    expect(at(screen!)).toBeGreaterThan(at(coat!) + 10);
    expect(at(shadow!)).toBeGreaterThan(at(coat!) + 10);
    const far = [0.5, 1, 2, 4].map((d) => at([screen![0], screen![1] + d, screen![2]]));
    far.slice(1).forEach((v, i) => expect(v).toBeLessThan(far[i]!));
  });

  test('holds both of two heaps, and little of what lies between them', () => {
    const between: Point = [0, 1, 2].map((k) => (coat![k]! + screen![k]!) / 2) as Point;
    const two = ColourModel.fit([...about(screen!, 0.2, 50), ...about(coat!, 0.2, 50)], 3);
    const one = ColourModel.fit([...about(screen!, 0.2, 50), ...about(coat!, 0.2, 50)], 1);
    expect(two.log(screen!) - two.log(between)).toBeGreaterThan(5);
    expect(one.log(screen!) - one.log(between)).toBeLessThan(2);
  });

  test('of a single colour is no needle: noise about it still belongs to it', () => {
    const flat = ColourModel.fit(new Array<Point>(20).fill(screen!), 3);
    expect(flat.log(screen!) - flat.log([screen![0] + 0.2, screen![1] + 0.1, screen![2]])).toBeLessThan(1);
    expect(ColourModel.fit([], 3).log(screen!)).toBe(-Infinity);
  });

  test('the same samples give the same model', () => {
    const samples = about(screen!, 0.4, 30);
    expect(ColourModel.fit(samples, 3).log(shadow!)).toBe(ColourModel.fit(samples, 3).log(shadow!));
  });
});
