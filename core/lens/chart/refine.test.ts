import { random } from '@/demo/noise';
import { refineCrossing } from './refine';

const SIZE = 48;
const AXES = [0.12, 0.12 + Math.PI / 2] as const;

interface Look {
  /** Standard deviation of the blur, and of the noise. */
  blur?: number;
  noise?: number;
  /** What the light falls off by across the picture. */
  slope?: number;
  /** The curve of the code values. */
  power?: number;
}

/** A crossing of two lines at a place: fields that change at each of them, or dark lines on white, as a lens would soften them. */
function crossing(pattern: 'checker' | 'grid', at: readonly [number, number], { blur = 1, noise = 0, slope = 0, power = 1 }: Look = {}) {
  const next = random(7);
  const normal = (): number => Math.sqrt(-2 * Math.log(next() + 1e-12)) * Math.cos(2 * Math.PI * next());
  const data = new Float32Array(SIZE * SIZE);
  const fine = 4;
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      let sum = 0;
      for (let k = 0; k < fine * fine; k++) {
        const [dx, dy] = [x + ((k % fine) + 0.5) / fine - at[0], y + (Math.floor(k / fine) + 0.5) / fine - at[1]];
        const [a, b] = AXES.map((t) => dx * Math.sin(t) - dy * Math.cos(t)) as [number, number];
        const edge = (d: number): number => Math.tanh(d / (1.2 * blur));
        const line = (d: number): number => Math.exp(-0.5 * (d / (1 + blur)) ** 2);
        sum += pattern === 'checker' ? 0.5 + 0.4 * edge(a) * edge(b) : 0.9 - 0.7 * Math.max(line(a), line(b));
      }
      const light = (sum / fine ** 2) * (1 + (slope * x) / SIZE);
      data[y * SIZE + x] = Math.max(0, light) ** power + noise * normal();
    }
  return { width: SIZE, height: SIZE, data };
}

const found = (pattern: 'checker' | 'grid', at: readonly [number, number], from: readonly [number, number], look?: Look) =>
  refineCrossing(crossing(pattern, at, look), pattern, { x: from[0], y: from[1], axes: AXES }, 9);

describe('a crossing', () => {
  test.each([
    ['sharp', { blur: 0.6 }, 0.01],
    ['soft', { blur: 2 }, 0.01],
    ['in a light that falls off by a tenth', { slope: -0.1 }, 0.03],
    ['in the code values of a screen', { power: 1 / 2.2 }, 0.02],
    ['in noise of a twentieth', { noise: 0.04 }, 0.06],
  ] as const)('of fields is found wherever it lies in its pixel: %s', (_, look, within) => {
    for (const [fx, fy] of [
      [0, 0],
      [0.25, 0.6],
      [0.5, 0.5],
      [0.83, 0.1],
    ] as const) {
      const at = [24 + fx, 23 + fy] as const;
      const made = found('checker', at, [24.6, 23.2], look)!;
      expect(Math.hypot(made.x - at[0], made.y - at[1])).toBeLessThan(within);
      expect(made.fit).toBeGreaterThan(0.9);
    }
  });

  test('of lines is found to a twentieth of a pixel', () => {
    for (const at of [
      [24.3, 23.7],
      [23.9, 24.05],
    ] as const) {
      const made = found('grid', at, [24.5, 23.5])!;
      expect(Math.hypot(made.x - at[0], made.y - at[1])).toBeLessThan(0.05);
    }
  });

  test('the same from wherever near it one begins', () => {
    const at = [24.37, 23.81] as const;
    const all = [
      [23.2, 23],
      [25.5, 24.6],
      [24, 25],
    ].map(([x, y]) => found('checker', at, [x!, y!])!);
    for (const made of all) expect(Math.hypot(made.x - all[0]!.x, made.y - all[0]!.y)).toBeLessThan(2e-3);
  });

  test('is none where there is nothing or at the border, and fits badly where only one edge runs', () => {
    const flat = { width: SIZE, height: SIZE, data: new Float32Array(SIZE * SIZE).fill(0.4) };
    expect(refineCrossing(flat, 'checker', { x: 24, y: 24, axes: AXES }, 9)).toBeNull();
    const edge = { ...flat, data: flat.data.map((_, i) => (i % SIZE < 24 ? 0.1 : 0.8)) };
    const made = refineCrossing(edge, 'checker', { x: 24, y: 24, axes: AXES }, 9);
    expect(made === null || made.fit < 0.8).toBe(true);
    expect(found('checker', [24, 24], [0.5, 24])).toBeNull();
    expect(refineCrossing(crossing('checker', [24, 24]), 'checker', { x: -20, y: 24, axes: AXES }, 9)).toBeNull();
  });

  test('fits less well the more noise there is', () => {
    const fits = [0, 0.05, 0.15].map((noise) => found('checker', [24.2, 24.2], [24, 24], { noise })!.fit);
    expect(fits[0]!).toBeGreaterThan(fits[1]!);
    expect(fits[1]!).toBeGreaterThan(fits[2]!);
  });
});
