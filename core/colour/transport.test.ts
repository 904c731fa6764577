import { random } from '../random';
import { histogramTransport, throughLattice } from './histogram-transport';
import { eigen3, statisticsOfColour, transportOf } from './transport';

const next = random(41);
const gauss = (): number => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
const times = (m: readonly number[], v: readonly number[]): number[] =>
  [0, 1, 2].map((r) => m[3 * r]! * v[0]! + m[3 * r + 1]! * v[1]! + m[3 * r + 2]! * v[2]!);

/** Colours about a mean, mixed by a matrix. */
function cloud(n: number, mean: readonly number[], mix: readonly number[]): Float32Array[] {
  const planes = [0, 1, 2].map(() => new Float32Array(n));
  for (let i = 0; i < n; i++) times(mix, [gauss(), gauss(), gauss()]).forEach((v, k) => (planes[k]![i] = mean[k]! + v));
  return planes;
}
const quay = cloud(4000, [0.3, 0.25, 0.2], [0.1, 0, 0, 0.05, 0.06, 0, 0.02, 0.01, 0.04]);
const dusk = cloud(4000, [0.12, 0.2, 0.35], [0.03, 0.01, 0, 0, 0.05, 0.02, 0.01, 0, 0.08]);
const ones = new Float32Array(4000).fill(1);

describe('a symmetric matrix', () => {
  test('is its eigenvectors with their values', () => {
    const m = [4, 1, -2, 1, 3, 0.5, -2, 0.5, 5];
    const { values, vectors } = eigen3(m);
    for (let k = 0; k < 3; k++) {
      const v = [vectors[k]!, vectors[3 + k]!, vectors[6 + k]!];
      times(m, v).forEach((x, i) => expect(x).toBeCloseTo(values[k]! * v[i]!, 9));
      expect(Math.hypot(...v)).toBeCloseTo(1, 9);
    }
    expect(values.reduce((a, b) => a + b)).toBeCloseTo(12, 9);
    expect(eigen3([2, 0, 0, 0, 2, 0, 0, 0, 2]).values).toEqual([2, 2, 2]);
  });
});

describe('colours of one place taken to another', () => {
  test('mean and covariance count what is covered by half or more, and nothing that is no number', () => {
    const planes = [0, 1, 2].map((k) => Float32Array.of(1 + k, 3 + k, 100, NaN));
    const s = statisticsOfColour(planes, Float32Array.of(1, 0.5, 0.4, 1));
    expect(s).toMatchObject({ mean: [2, 3, 4], pixels: 2 });
    s.covariance.forEach((v) => expect(v).toBeCloseTo(1, 6));
  });

  test('the map gives the mean and spread that were wanted', () => {
    const [from, to] = [statisticsOfColour(quay, ones), statisticsOfColour(dusk, ones)];
    const t = transportOf(from.covariance, to.covariance);
    const moved = [0, 1, 2].map(() => new Float32Array(4000));
    for (let i = 0; i < 4000; i++)
      times(
        t,
        quay.map((p, k) => p[i]! - from.mean[k]!),
      ).forEach((v, k) => (moved[k]![i] = v + to.mean[k]!));
    const made = statisticsOfColour(moved, ones);
    made.mean.forEach((v, k) => expect(v).toBeCloseTo(to.mean[k]!, 5));
    made.covariance.forEach((v, k) => expect(v).toBeCloseTo(to.covariance[k]!, 4));
  });

  test('is symmetric: it turns no colour about, and from a place to itself it is nothing', () => {
    const [from, to] = [statisticsOfColour(quay, ones), statisticsOfColour(dusk, ones)];
    const t = transportOf(from.covariance, to.covariance);
    for (const [a, b] of [
      [1, 3],
      [2, 6],
      [5, 7],
    ] as const)
      expect(t[a]).toBeCloseTo(t[b]!, 9);
    transportOf(from.covariance, from.covariance).forEach((v, i) => expect(v).toBeCloseTo(i % 4 === 0 ? 1 : 0, 6));
  });

  test('a place of one flat colour is not stretched without end', () => {
    const t = transportOf(new Array<number>(9).fill(0), statisticsOfColour(dusk, ones).covariance);
    t.forEach((v) => expect(Math.abs(v)).toBeLessThan(200));
  });
});

describe('one distribution given another', () => {
  const extent = [0, 1, 2].map(() => [-0.3, 1] as const);
  const lattice = histogramTransport(quay, dusk, extent);
  const out = new Float64Array(3);

  test('each channel has the quantiles that were wanted', () => {
    const moved = [0, 1, 2].map(() => new Float32Array(4000));
    for (let i = 0; i < 4000; i++) {
      throughLattice(lattice, quay[0]![i]!, quay[1]![i]!, quay[2]![i]!, out);
      out.forEach((v, k) => (moved[k]![i] = v));
    }
    for (const share of [0.1, 0.25, 0.5, 0.75, 0.9])
      moved.forEach((p, k) => {
        const at = (list: Float32Array): number => Float32Array.from(list).sort()[Math.floor(share * 4000)]!;
        expect(Math.abs(at(p) - at(dusk[k]!))).toBeLessThan(0.02);
      });
  });

  test('near colours stay near, in the lattice and beyond it', () => {
    const through = (v: readonly [number, number, number]): number[] => {
      throughLattice(lattice, ...v, out);
      return [...out];
    };
    for (const at of [
      [0.3, 0.25, 0.2],
      [0.1, 0.2, 0.15],
      [1.4, 1.2, 1.1],
      [-0.5, -0.4, -0.6],
    ] as const) {
      const [a, b] = [through(at), through([at[0] + 1e-4, at[1], at[2]])];
      expect(Math.hypot(...a.map((v, k) => v - b[k]!))).toBeLessThan(1e-3);
    }
    // Beyond it, what the edge is moved by.
    const [edge, far] = [through([1, 0.2, 0.2]), through([1.5, 0.2, 0.2])];
    expect(far[0]! - edge[0]!).toBeCloseTo(0.5, 6);
    expect(far[1]).toBeCloseTo(edge[1]!, 6);
  });

  test('the same lists give the same map', () => {
    expect(histogramTransport(quay, dusk, extent).values).toEqual(lattice.values);
  });
});
