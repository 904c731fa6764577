import { random } from '../random';
import type { Gray } from '../readings/gray';
import { bendOf, followEdge } from './edges';
import { plainLens, lensMapOf } from './lens';
import { solveLines } from './plumb';

const FORMAT = { width: 960, height: 540 };
const wide = { ...plainLens(FORMAT), focal: 700, coefficients: { k1: -0.2, k2: 0.04 } };

/** Places of a straight line as the lens films it. */
function filmed(x0: number, y0: number, x1: number, y1: number): number[] {
  const to = new Float64Array(2);
  return Array.from({ length: 40 }, (_, i) => {
    lensMapOf(wide).bend(x0 + (i / 39) * (x1 - x0), y0 + (i / 39) * (y1 - y0), to);
    return [...to];
  }).flat();
}
const lines = [
  filmed(-100, 40, 1050, 20),
  filmed(-100, 500, 1050, 520),
  filmed(60, -60, 30, 600),
  filmed(900, -60, 930, 600),
  filmed(100, 100, 900, 450),
];

describe('a lens from straight things', () => {
  test('makes them straight, and bends others as the true one does', () => {
    const made = solveLines(lines, FORMAT, 'radial2', 700);
    expect(made.max).toBeLessThan(0.02);
    const to = new Float64Array(2);
    const straight = (line: readonly number[]): number[] =>
      Array.from({ length: line.length / 2 }, (_, i) => {
        lensMapOf(made.lens).straighten(line[2 * i]!, line[2 * i + 1]!, to);
        return [...to];
      }).flat();
    const other = filmed(250, 40, 900, 120);
    expect(bendOf(other)).toBeGreaterThan(1);
    expect(bendOf(straight(other))).toBeLessThan(0.1);
  });

  test('one that is no line is left out, and said so', () => {
    const bent = lines[4]!.map((v, i) => v + (i % 2 ? 6 * Math.sin(i / 20) : 0));
    const made = solveLines([...lines, filmed(300, -50, 320, 590), bent], FORMAT, 'radial2', 700);
    expect(made.out).toEqual([false, false, false, false, false, false, true]);
    expect(made.max).toBeLessThan(0.05);
  });

  test('one alone is not enough', () => expect(() => solveLines([lines[0]!], FORMAT, 'auto')).toThrow('from 2 on'));
});

describe('an edge under a drawn line', () => {
  const at = (x: number): number => 100 + 0.02 * (x - 160) + 8 * ((x - 160) / 160) ** 2;
  const next = random(7);
  const picture: Gray = {
    width: 320,
    height: 200,
    data: Float32Array.from(
      { length: 64000 },
      (_, i) => 0.3 + 0.4 / (1 + Math.exp(-2.5 * (Math.floor(i / 320) + 0.5 - at((i % 320) + 0.5)))) + 0.02 * (next() - 0.5),
    ),
  };

  test('is found to a tenth of a pixel, drawn a few pixels beside it', () => {
    const found = followEdge(picture, [20, at(20) + 2, 160, at(160) - 3, 300, at(300) + 2]);
    expect(found.length / 2).toBeGreaterThan(40);
    const off = Array.from({ length: found.length / 2 }, (_, i) => Math.abs(found[2 * i + 1]! - at(found[2 * i]!)));
    expect(off.sort((a, b) => a - b)[off.length >> 1]).toBeLessThan(0.1);
    // It bends as the true edge does at the same places.
    const truth = found.map((v, i) => (i % 2 ? at(found[i - 1]!) : v));
    expect(Math.abs(bendOf(found) - bendOf(truth))).toBeLessThan(0.15);
    expect(bendOf(truth)).toBeGreaterThan(3);
  });

  test('where there is none, nothing is', () => {
    const flat: Gray = { ...picture, data: picture.data.map(() => 0.4) };
    expect(followEdge(flat, [20, 100, 300, 100])).toEqual([]);
  });
});
