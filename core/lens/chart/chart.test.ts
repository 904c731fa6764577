import { SRGB } from '../../colour/transfer';
import type { ChartOptions } from '@/demo/sg070';
import { SG070, chartTruth, renderChart } from '@/demo/sg070';
import { WIDE, directionAt } from '@/demo/wide-lens';
import type { Gray } from '../../readings/gray';
import { lensMapOf } from '../lens';
import { numberOf, snapCrossing, solveReading } from '../measure';
import type { ChartFrame } from '../reading';
import { LENS_SETTINGS } from '../reading';
import { solveCharts } from '../solve-charts';
import { detectChart } from './detect';

const small: ChartOptions = { ...SG070, width: 640, height: 360, looks: 3 };
const film = (frame: number, o: ChartOptions = small): Gray => {
  const light = renderChart(frame, o);
  return {
    width: o.width,
    height: o.height,
    data: Float32Array.from({ length: o.width * o.height }, (_, i) => SRGB.encode(Math.min(1, light[3 * i + 1]!))),
  };
};
const films = [1, 2, 3].map((f) => film(f));
const charts = films.map((f) => detectChart(f, 'auto')!);
const nearest = (list: readonly { x: number; y: number }[], x: number, y: number): number =>
  Math.min(...list.map((q) => Math.hypot(q.x - x, q.y - y)));
const chartFrame = (i: number): ChartFrame => ({ frame: i + 1, ...charts[i]!, confidence: 1, error: 0 });

describe('a chart in a picture', () => {
  test('all of its crossings are found to a few hundredths of a pixel, and nothing else', () => {
    charts.forEach((chart, i) => {
      const truth = chartTruth(i + 1, small);
      expect(chart.pattern).toBe('checker');
      for (const q of truth)
        if (!q.hidden && q.x > 4 && q.y > 4 && q.x < 636 && q.y < 356) expect(nearest(chart.crossings, q.x, q.y)).toBeLessThan(0.5);
      const off = chart.crossings.map((c) => nearest(truth, c.x, c.y));
      expect(Math.max(...off)).toBeLessThan(1);
      expect(off.sort((a, b) => a - b)[off.length >> 1]).toBeLessThan(0.06);
    });
  });

  test('they are numbered as they stand on the board, columns to the right and rows down', () => {
    const truth = chartTruth(2, small);
    const offsets = new Set(
      charts[1]!.crossings.map((c) => {
        const q = truth.reduce((a, b) => (Math.hypot(a.x - c.x, a.y - c.y) < Math.hypot(b.x - c.x, b.y - c.y) ? a : b));
        return `${q.column - c.column} ${q.row - c.row}`;
      }),
    );
    expect(offsets.size).toBe(1);
    expect(Math.min(...charts[1]!.crossings.map((c) => Math.min(c.column, c.row)))).toBe(0);
  });

  test('a grid of lines too; what is neither has none', () => {
    const grid = detectChart(film(3, { ...small, pattern: 'grid', width: 480, height: 270 }), 'auto')!;
    expect(grid.pattern).toBe('grid');
    expect(grid.crossings.length).toBeGreaterThan(90);
    const noise: Gray = { width: 320, height: 200, data: Float32Array.from({ length: 64000 }, (_, i) => ((i * 7919) % 101) / 101) };
    expect(detectChart(noise, 'auto')).toBeNull();
  });

  test('a place put by hand snaps to its crossing, and a gap on the board has its number', () => {
    const chart = chartFrame(0);
    const c = chart.crossings[Math.floor(chart.crossings.length / 2)]!;
    const [x, y] = snapCrossing(films[0]!, chart, c.x + 2, c.y - 1.5);
    expect(Math.hypot(x - c.x, y - c.y)).toBeLessThan(0.05);
    const without = chart.crossings.filter((k) => k !== c);
    expect(numberOf(without, c.x, c.y)).toEqual({ column: c.column, row: c.row });
    expect(numberOf(chart.crossings, c.x, c.y)).toBeNull();
  });
});

describe('a lens from charts', () => {
  const format = { width: 640, height: 360 };
  const solved = solveReading({ frames: [0, 1, 2].map(chartFrame), lines: [], settings: LENS_SETTINGS }, format);

  test('is the one that filmed them, chosen as the simplest that fits', () => {
    const { lens, rms } = solved.solved[0]!;
    expect(lens.model).toBe('brown');
    expect(rms).toBeLessThan(0.06);
    const k = 640 / 960;
    expect(Math.abs(lens.focal / k - WIDE.focal)).toBeLessThan(1.5);
    expect(Math.hypot(lens.centre[0] / k - WIDE.centre[0], lens.centre[1] / k - WIDE.centre[1])).toBeLessThan(1.5);
    const to = new Float64Array(2);
    for (const [x, y] of [
      [60, 60],
      [320, 180],
      [560, 300],
    ] as const) {
      lensMapOf(lens).straighten(x, y, to);
      const [u, v] = directionAt(x / k, y / k);
      expect(Math.hypot((to[0]! - lens.centre[0]) / lens.focal - u, (to[1]! - lens.centre[1]) / lens.focal - v) * lens.focal).toBeLessThan(
        0.6,
      );
    }
  });

  test('a crossing that is wrong is thrown out, and says why; one put there by hand stays', () => {
    const frames = [0, 1, 2].map(chartFrame);
    const spoilt = (hand: boolean): ChartFrame[] =>
      frames.map((f, i) =>
        i ? f : { ...f, crossings: f.crossings.map((c, k) => (k === 20 ? { ...c, x: c.x + 3, ...(hand && { hand: true }) } : c)) },
      );
    const by = (hand: boolean) =>
      solveReading({ frames: spoilt(hand), lines: [], settings: LENS_SETTINGS }, format).frames[0]!.crossings[20]!;
    expect(by(false)).toMatchObject({ used: false });
    expect(by(false).why).toMatch(/lies 2\.\d\d|lies 3\.\d\d/);
    expect(by(true).used).toBe(true);
  });

  test('a flat view alone does not tell the focal length: it is assumed, and said so', () => {
    const flat = charts[0]!.crossings.map((c) => ({ ...c, x: 320 + (c.column - 7) * 38, y: 180 + (c.row - 4) * 38 }));
    const made = solveCharts({ charts: [flat], format, model: 'radial2' });
    expect(made.assumed).toBe(true);
    expect(made.rms).toBeLessThan(0.05);
  });

  test('too few crossings, or all in one line, are told', () => {
    const some = charts[0]!.crossings;
    expect(() => solveCharts({ charts: [some.slice(0, 3)], format, model: 'auto' })).toThrow('needs 8 crossings');
    expect(() => solveCharts({ charts: [some.filter((c) => c.row === 4)], format, model: 'auto' })).toThrow('one line');
    expect(() => solveReading({ frames: [], lines: [], settings: LENS_SETTINGS }, format)).toThrow('nothing to solve a lens from');
  });
});
