import type { Lens } from './lens';
import { LensMap, plainLens } from './lens';
import type { LensModel } from './models';
import { LENS_MODEL_NAMES } from './models';
import type { Pose } from './pose';
import { boardAxes } from './pose';
import { solveReading } from './measure';
import type { ChartFrame } from './reading';
import { LENS_SETTINGS } from './reading';
import type { BoardPoint } from './solve-charts';
import { solveCharts } from './solve-charts';

const format = { width: 960, height: 540 };
const POSES: Pose[] = [
  [0.1, -0.05, 0.02, -7, -4, 9],
  [0.25, 0.45, -0.05, -6, -4.2, 9.4],
  [-0.4, -0.25, 0.1, -7.2, -3.6, 9],
];

/** Where a lens films the crossings of a board, exactly; those outside of the frame are left out. */
function filmed(lens: Lens): BoardPoint[][] {
  const map = new LensMap(lens);
  const to = new Float64Array(2);
  return POSES.map((pose) => {
    const m = new Float64Array(9);
    boardAxes(pose as never, m);
    const points: BoardPoint[] = [];
    for (let row = 0; row < 9; row++) {
      for (let column = 0; column < 15; column++) {
        const w = m[2]! * column + m[5]! * row + m[8]!;
        const [x, y] = [(m[0]! * column + m[3]! * row + m[6]!) / w, (m[1]! * column + m[4]! * row + m[7]!) / w];
        map.bend(lens.centre[0] + (x * lens.focal) / lens.squeeze, lens.centre[1] + y * lens.focal, to);
        if (to[0]! > 0 && to[1]! > 0 && to[0]! < format.width && to[1]! < format.height) points.push({ column, row, x: to[0]!, y: to[1]! });
      }
    }
    return points;
  });
}

const TERMS: Record<LensModel, Record<string, number>> = {
  division: { l1: -0.2 },
  radial2: { k1: -0.22, k2: 0.06 },
  radial3: { k1: -0.22, k2: 0.07, k3: -0.01 },
  fisheye: { k1: -0.05, k2: 0.02, k3: -0.004, k4: 0 },
  brown: { k1: -0.2, k2: 0.05, k3: -0.005, p1: 0.002, p2: -0.001 },
  rational: { k1: -0.1, k2: 0.02, k3: 0, k4: 0.1, k5: 0.01, k6: 0, p1: 0.001, p2: 0 },
  anamorphic: { turn: 0.05, x20: -0.1, x02: -0.06, x40: 0.01, y20: -0.05, y02: -0.12, y04: 0.02 },
};
const lensOf = (model: LensModel, more: Partial<Lens> = {}): Lens => ({
  ...plainLens(format, model),
  focal: 640,
  centre: [485, 266],
  coefficients: TERMS[model],
  ...more,
});

/** Positions of the frame that two lenses film differently, at most, px: with their own focal lengths and centres. */
function apart(a: Lens, b: Lens): number {
  const [p, q] = [new LensMap(a), new LensMap(b)];
  const to = new Float64Array(2);
  let most = 0;
  for (let y = 20; y < 540; y += 50) {
    for (let x = 20; x < 960; x += 50) {
      p.straighten(x, y, to);
      const [u, v] = [((to[0]! - a.centre[0]) * a.squeeze) / a.focal, (to[1]! - a.centre[1]) / a.focal];
      q.bend(b.centre[0] + (u * b.focal) / b.squeeze, b.centre[1] + v * b.focal, to);
      most = Math.max(most, Math.hypot(to[0]! - x, to[1]! - y));
    }
  }
  return most;
}

describe('a lens solved from exact crossings', () => {
  test.each(LENS_MODEL_NAMES.filter((m) => m !== 'anamorphic'))('%s is found again', (model) => {
    const lens = lensOf(model);
    const made = solveCharts({ charts: filmed(lens), format, model });
    expect(made.rms).toBeLessThan(2e-3);
    expect(Math.abs(made.lens.focal - 640)).toBeLessThan(0.5);
    expect(apart(lens, made.lens)).toBeLessThan(0.1);
  });

  test('an anamorphic one with its squeeze, which is told only roughly', () => {
    const lens = lensOf('anamorphic', { squeeze: 1.94, focal: 900 });
    const made = solveCharts({ charts: filmed(lens), format, model: 'anamorphic', squeeze: 2 });
    expect(made.rms).toBeLessThan(0.01);
    expect(made.lens.squeeze).toBeCloseTo(1.94, 2);
  });

  test('the simplest model that fits is chosen', () => {
    const exact = (model: LensModel): LensModel => {
      // A little noise: a model with more terms must not win by fitting that.
      const charts = filmed(lensOf(model)).map((c) =>
        c.map((q) => ({
          ...q,
          x: q.x + 0.05 * Math.sin(91 * q.column + 17 * q.row),
          y: q.y + 0.05 * Math.cos(57 * q.column + 71 * q.row),
        })),
      );
      return solveCharts({ charts, format, model: 'auto' }).lens.model;
    };
    expect(exact('radial2')).toBe('radial2');
    expect(exact('brown')).toBe('brown');
  });

  test('a chart of which too little is seen is left as it is, and the others are solved', () => {
    const charts = filmed(lensOf('radial2'));
    const frames = charts.map((c, i): ChartFrame => ({
      frame: i + 1,
      pattern: 'checker',
      confidence: 1,
      error: 0,
      crossings: (i === 2 ? c.slice(0, 4) : c).map((q) => ({ ...q, used: true })),
    }));
    const made = solveReading({ frames, lines: [], settings: LENS_SETTINGS }, format);
    expect(made.solved[0]!.rms).toBeLessThan(0.01);
    expect(made.frames[2]).toMatchObject({ confidence: 0, error: 0, crossings: frames[2]!.crossings });
  });

  test('a known focal length stays as it is', () => {
    const made = solveCharts({ charts: filmed(lensOf('radial2')), format, model: 'radial2', focal: 640 });
    expect(made.lens.focal).toBeCloseTo(640, 9);
    expect(made.assumed).toBe(false);
  });

  test('charts of two focal lengths make a zoom lens of one model', () => {
    const chart = (frame: number, mm: number, points: readonly BoardPoint[]): ChartFrame => ({
      frame,
      pattern: 'checker',
      mm,
      confidence: 1,
      error: 0,
      crossings: points.map((q) => ({ ...q, used: true })),
    });
    const [wide, long] = [filmed(lensOf('radial2')), filmed(lensOf('radial2', { focal: 800, coefficients: { k1: -0.1, k2: 0.01 } }))];
    const frames = [...wide.map((p, i) => chart(i + 1, 24, p)), ...long.map((p, i) => chart(i + 4, 30, p))];
    const { solved } = solveReading({ frames, lines: [], settings: LENS_SETTINGS }, format);
    expect(solved.map((s) => [s.mm, Math.round(s.lens.focal)])).toEqual([
      [24, 640],
      [30, 800],
    ]);
    expect(new Set(solved.map((s) => s.lens.model)).size).toBe(1);
  });
});
