import { ShotError } from '../errors';
import type { Pair } from '../geometry/fit';
import { robustFit } from '../geometry/fit';
import { cauchyPairs, leastSquares } from '../geometry/least-squares';
import { inverseOf } from '../geometry/solve';
import type { Lens } from './lens';
import type { LensModel } from './models';
import { LENS_MODEL_NAMES, modelOf } from './models';
import type { Pose } from './pose';
import { boardAxes, poseOf } from './pose';

/** A crossing as it goes into the solving: its place on the board, and in the picture. */
export interface BoardPoint {
  readonly column: number;
  readonly row: number;
  readonly x: number;
  readonly y: number;
}

export interface ChartProblem {
  readonly charts: readonly (readonly BoardPoint[])[];
  readonly format: { width: number; height: number };
  readonly model: 'auto' | LensModel;
  /** Focal length in px, where it is known. */
  readonly focal?: number;
  readonly squeeze?: number;
}

export interface ChartSolution {
  lens: Lens;
  poses: Pose[];
  /** Residuals of each chart's points, x and y in turn, px. */
  residuals: Float64Array[];
  /** Root mean square of distances over the points that are not thrown out, and the greatest of those. */
  rms: number;
  max: number;
  /** Which points of each chart do not go with the others. */
  out: boolean[][];
  /** The focal length could not be told from these views and was assumed. */
  assumed: boolean;
  /** Held-out residual of each model that was tried, px. */
  tried: { model: LensModel; held: number }[];
}

/** Charts need that many crossings, each and together. */
export const LEAST_CROSSINGS = 8;
/** Of the intrinsic parameters: log focal length, centre, squeeze; then the model's terms. */
const OWN = 4;
const FOLDS = 4;
/** How much worse than the best a simpler model may be. */
const WITHIN = 1.02;
/** Residuals beyond so many times the usual one are not of the chart. */
const OUT = 6;
/** Starts for the focal length, in widths. */
const FOCALS = [0.7, 1.3, 0.45, 2.4];

/** Intrinsics and poses in one vector. */
class Views {
  readonly offsets: number[];
  readonly count: number;
  constructor(
    readonly charts: readonly (readonly BoardPoint[])[],
    readonly model: LensModel,
    readonly format: ChartProblem['format'],
  ) {
    let at = 0;
    this.offsets = charts.map((c) => {
      const from = at;
      at += 2 * c.length;
      return from;
    });
    this.count = at;
  }

  get own(): number {
    return OWN + modelOf(this.model).terms.length;
  }

  get length(): number {
    return this.own + 6 * this.charts.length;
  }

  lens(p: Float64Array): Lens {
    const { terms } = modelOf(this.model);
    return {
      model: this.model,
      coefficients: Object.fromEntries(terms.map((t, i) => [t, p[OWN + i]!])),
      centre: [p[1]! * this.format.width, p[2]! * this.format.width],
      focal: Math.exp(p[0]!),
      squeeze: p[3]!,
      format: { width: this.format.width, height: this.format.height },
    };
  }

  pose(p: Float64Array, k: number): Pose {
    return [...p.subarray(this.own + 6 * k, this.own + 6 * k + 6)] as unknown as Pose;
  }

  private readonly axes = new Float64Array(9);
  private readonly at = new Float64Array(2);

  /** Where each point is expected less where it was found. */
  readonly residuals = (p: Float64Array, to: Float64Array): boolean => {
    const { distort } = modelOf(this.model);
    const { axes: m, at } = this;
    const k = p.subarray(OWN, this.own);
    const [focal, cx, cy, squeeze] = [Math.exp(p[0]!), p[1]! * this.format.width, p[2]! * this.format.width, p[3]!];
    for (let c = 0, o = 0; c < this.charts.length; c++) {
      boardAxes(p.subarray(this.own + 6 * c, this.own + 6 * c + 6) as never, m);
      for (const { column, row, x, y } of this.charts[c]!) {
        const w = m[2]! * column + m[5]! * row + m[8]!;
        if (!(w > 1e-6)) return false;
        distort(k, (m[0]! * column + m[3]! * row + m[6]!) / w, (m[1]! * column + m[4]! * row + m[7]!) / w, at);
        to[o++] = cx + (at[0]! * focal) / squeeze - x;
        to[o++] = cy + at[1]! * focal - y;
        if (!Number.isFinite(at[0]) || !Number.isFinite(at[1])) return false;
      }
    }
    return true;
  };

  readonly reach = (parameter: number): readonly [number, number] => {
    if (parameter < this.own) return [0, this.count];
    const c = Math.floor((parameter - this.own) / 6);
    return [this.offsets[c]!, this.offsets[c]! + 2 * this.charts[c]!.length];
  };

  get steps(): Float64Array {
    return new Float64Array(this.length).fill(1e-6);
  }
}

interface Freedom {
  focal: boolean;
  squeeze: boolean;
}

const freeOf = (v: Views, f: Freedom): number[] =>
  Array.from({ length: v.length }, (_, i) => i).filter((i) => (i === 0 ? f.focal : i === 3 ? f.squeeze : true));

/** The same in another model, its terms those that do nearly the same. */
function inModel(from: Views, p: Float64Array, model: LensModel): { views: Views; p: Float64Array } {
  const views = new Views(from.charts, model, from.format);
  const next = new Float64Array(views.length);
  next.set(p.subarray(0, OWN));
  const { coefficients: c } = from.lens(p);
  const [k1, k2] = [c.k1 ?? 0, c.k2 ?? 0];
  const known: Record<string, number> = {
    ...c,
    l1: k1,
    ...(model === 'anamorphic' && { x20: k1, x02: k1, y20: k1, y02: k1, x40: k2, x22: 2 * k2, x04: k2, y40: k2, y22: 2 * k2, y04: k2 }),
    ...(model === 'fisheye' && { k1: k1 + 1 / 3, k2: 0, k3: 0, k4: 0 }),
  };
  modelOf(model).terms.forEach((t, i) => (next[OWN + i] = known[t] ?? 0));
  next.set(p.subarray(from.own), views.own);
  return { views, p: next };
}

/** A first view of each chart with a focal length and no distortion: from the homography of what lies near the middle. */
function firstViews(problem: ChartProblem, focal: number): { views: Views; p: Float64Array } | null {
  const { width, height } = problem.format;
  const views = new Views(problem.charts, 'radial2', problem.format);
  const p = new Float64Array(views.length);
  const squeeze = problem.squeeze ?? 1;
  p.set([Math.log(focal), 0.5, height / 2 / width, squeeze]);
  for (const [c, chart] of problem.charts.entries()) {
    const near = [...chart].sort((a, b) => Math.hypot(a.x - width / 2, a.y - height / 2) - Math.hypot(b.x - width / 2, b.y - height / 2));
    const used = near.slice(0, Math.max(12, Math.ceil(near.length * 0.6)));
    const pairs = used.map((q): Pair => [q.column, q.row, ((q.x - width / 2) * squeeze) / focal, (q.y - height / 2) / focal]);
    const fit = robustFit('perspective', pairs, 0.02);
    if (!fit) return null;
    p.set(poseOf(fit.map), views.own + 6 * c);
  }
  return { views, p };
}

const distances = (r: Float64Array): number[] => Array.from({ length: r.length / 2 }, (_, i) => Math.hypot(r[2 * i]!, r[2 * i + 1]!));
const middleOf = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1] ?? 0;

/**
 * The lens that charts were filmed with: focal length, centre, coefficients and a pose for each chart, by Levenberg–Marquardt over all of
 * them (Zhang 2000), with a Cauchy loss. `auto` takes the simplest model whose held-out residual is within 2 % of the best. Throws
 * ShotError where the crossings do not tell a lens.
 */
export function solveCharts(problem: ChartProblem, poll?: () => void): ChartSolution {
  const total = problem.charts.reduce((s, c) => s + c.length, 0);
  const charts = problem.charts.filter((c) => c.length >= 6);
  if (charts.length === 0 || total < LEAST_CROSSINGS) {
    throw new ShotError(`a lens needs ${LEAST_CROSSINGS} crossings of a chart or more; ${total} are used`);
  }
  if (charts.some((c) => new Set(c.map((q) => q.row)).size < 2 || new Set(c.map((q) => q.column)).size < 2)) {
    throw new ShotError('the crossings of a chart lie in one line: a lens needs some in two directions');
  }
  const given = { ...problem, charts };
  const known = problem.focal !== undefined;
  const { width } = problem.format;
  let best: { views: Views; p: Float64Array; cost: number } | null = null;
  for (const f of known ? [problem.focal!] : FOCALS.map((k) => k * width)) {
    poll?.();
    const first = firstViews(given, f);
    if (!first) continue;
    const { views } = first;
    const free = freeOf(views, { focal: false, squeeze: false }).filter((i) => i > 2);
    const start = leastSquares(first.p, free, { ...evaluated(views), weigh: cauchyPairs(2), rounds: 12 });
    const fit = leastSquares(start.p, freeOf(views, { focal: !known, squeeze: false }), {
      ...evaluated(views),
      weigh: cauchyPairs(1),
      rounds: 40,
    });
    if (!best || fit.cost < best.cost * 0.999) best = { views, p: fit.p, cost: fit.cost };
  }
  if (!best) throw new ShotError('the crossings do not lie as those of a flat chart do: look for wrong ones');
  // Whether the views tell the focal length at all: how sure it is, by the curvature of the sum of squares.
  const sure = known || focalIsSure(best.views, best.p);
  if (!sure) {
    const first = firstViews(given, width)!;
    const fit = leastSquares(first.p, freeOf(first.views, { focal: false, squeeze: false }), {
      ...evaluated(first.views),
      weigh: cauchyPairs(1),
    });
    best = { views: first.views, p: fit.p, cost: fit.cost };
  }
  // Tilted views tell the squeeze as well; only the anamorphic model asks.
  const freedomOf = (model: LensModel): Freedom => ({
    focal: !known && sure,
    squeeze: model === 'anamorphic' && sure && charts.length > 1,
  });
  const models = problem.model === 'auto' ? LENS_MODEL_NAMES : [problem.model];
  const tried: { model: LensModel; held: number; views: Views; p: Float64Array }[] = [];
  const scale = Math.max(0.05, 2 * middleOf(distances(residualsOf(best.views, best.p))));
  for (const model of models) {
    poll?.();
    const { views, p } = inModel(best.views, best.p, model);
    const freedom = freedomOf(model);
    const fit = leastSquares(p, freeOf(views, freedom), { ...evaluated(views), weigh: cauchyPairs(scale), rounds: 60 });
    tried.push({ model, views, p: fit.p, held: models.length > 1 ? heldOut(views, fit.p, freedom, scale) : Math.sqrt(fit.cost / total) });
  }
  const least = Math.min(...tried.map((t) => t.held));
  const chosen = tried.find((t) => t.held <= WITHIN * least) ?? tried[0]!;
  return finish(
    problem,
    chosen.views,
    chosen.p,
    freedomOf(chosen.model),
    !sure,
    tried.map(({ model, held }) => ({ model, held })),
  );
}

const evaluated = (v: Views) => ({ residuals: v.residuals, count: v.count, steps: v.steps, reach: v.reach });

function residualsOf(v: Views, p: Float64Array): Float64Array {
  const r = new Float64Array(v.count);
  v.residuals(p, r);
  return r;
}

function focalIsSure(v: Views, p: Float64Array): boolean {
  const free = freeOf(v, { focal: true, squeeze: false });
  const fit = leastSquares(p, free, { ...evaluated(v), rounds: 1 });
  const n = free.length;
  const flat = new Float64Array(n * n);
  fit.normal.forEach((row, i) => flat.set(row, i * n));
  const inverse = inverseOf(flat, n);
  if (!inverse) return false;
  const spread = Math.sqrt(Math.max(0, inverse[0]!) * Math.max(1e-4, fit.cost / Math.max(1, v.count - n)));
  return spread < 0.03;
}

/** The residual of crossings that were not used for solving, over four parts of them, px. */
function heldOut(v: Views, p: Float64Array, freedom: Freedom, scale: number): number {
  let [sum, n] = [0, 0];
  const robust = cauchyPairs(scale);
  const part = v.charts.flatMap((c) => c.map((q) => (((3 * q.column + 5 * q.row) % FOLDS) + FOLDS) % FOLDS));
  for (let fold = 0; fold < FOLDS; fold++) {
    const fit = leastSquares(p, freeOf(v, freedom), {
      ...evaluated(v),
      rounds: 12,
      weigh: (r, w) => {
        robust(r, w);
        part.forEach((f, i) => {
          if (f === fold) w[2 * i] = w[2 * i + 1] = 0;
        });
      },
    });
    const far = distances(fit.residuals);
    part.forEach((f, i) => {
      if (f !== fold) return;
      // Wrong crossings say nothing of a model.
      sum += Math.min(far[i]! ** 2, (4 * scale) ** 2);
      n++;
    });
  }
  return Math.sqrt(sum / Math.max(1, n));
}

function finish(
  problem: ChartProblem,
  v: Views,
  start: Float64Array,
  freedom: Freedom,
  assumed: boolean,
  tried: ChartSolution['tried'],
): ChartSolution {
  let p = start;
  let out = new Array<boolean>(v.count / 2).fill(false);
  // What does not go with the rest is thrown out, and the rest solved by plain least squares.
  for (let round = 0; round < 3; round++) {
    const far = distances(residualsOf(v, p));
    const usual = Math.max(0.02, middleOf(far.filter((_, i) => !out[i])));
    const next = far.map((d) => d > Math.max(OUT * usual, 0.25));
    const same = round > 0 && next.every((o, i) => o === out[i]);
    out = next;
    if (same) break;
    const keep = out;
    const fit = leastSquares(p, freeOf(v, freedom), {
      ...evaluated(v),
      rounds: 60,
      weigh: (_, w) => keep.forEach((o, i) => (w[2 * i] = w[2 * i + 1] = o ? 0 : 1)),
    });
    p = fit.p;
  }
  const r = residualsOf(v, p);
  const far = distances(r).filter((_, i) => !out[i]);
  // Charts that had too few crossings have no residuals.
  const solved = new Map(v.charts.map((c, i) => [c, i]));
  const part = <T>(list: ArrayLike<T>, i: number, each: number): T[] => {
    const from = (v.offsets[i]! / 2) * each;
    return Array.prototype.slice.call(list, from, from + each * v.charts[i]!.length) as T[];
  };
  return {
    lens: v.lens(p),
    poses: v.charts.map((_, i) => v.pose(p, i)),
    residuals: problem.charts.map((c) => (solved.has(c) ? Float64Array.from(part(r, solved.get(c)!, 2)) : new Float64Array(0))),
    rms: Math.sqrt(far.reduce((s, d) => s + d * d, 0) / Math.max(1, far.length)),
    max: Math.max(0, ...far),
    out: problem.charts.map((c) => (solved.has(c) ? part(out, solved.get(c)!, 1) : c.map(() => true))),
    assumed,
    tried,
  };
}
