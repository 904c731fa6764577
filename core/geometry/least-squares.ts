import { solve } from './solve';

export interface LeastSquares {
  /** Fills residuals for parameters; false where they make no sense. */
  residuals(p: Float64Array, to: Float64Array): boolean;
  /** Residuals, and how far each parameter is moved to see what it does. */
  count: number;
  steps: Float64Array;
  /** Which residuals a parameter reaches: from, to. All unless said. */
  reach?(parameter: number): readonly [number, number];
  /** Weights of the residuals, worked out anew each round: for a robust loss. */
  weigh?(residuals: Float64Array, weights: Float64Array): void;
  rounds?: number;
}

export interface Fitted {
  p: Float64Array;
  residuals: Float64Array;
  weights: Float64Array;
  /** Weighted sum of squares. */
  cost: number;
  /** JᵀWJ at the end, and, in the same order, the parameters that it is of. */
  normal: Float64Array[];
}

const sumOf = (r: Float64Array, w: Float64Array): number => {
  let sum = 0;
  for (let i = 0; i < r.length; i++) sum += w[i]! * r[i]! * r[i]!;
  return sum;
};

/** Levenberg 1944 and Marquardt 1963, with derivatives by central differences; `free` are the parameters that may move. */
export function leastSquares(start: ArrayLike<number>, free: readonly number[], problem: LeastSquares): Fitted {
  const { count, steps, rounds = 40 } = problem;
  const p = Float64Array.from(start);
  let residuals = new Float64Array(count);
  const weights = new Float64Array(count).fill(1);
  const weigh = (): void => problem.weigh?.(residuals, weights);
  if (!problem.residuals(p, residuals)) residuals.fill(1e3);
  weigh();
  const n = free.length;
  const jacobian = free.map(() => new Float64Array(count));
  const [plus, minus] = [new Float64Array(count), new Float64Array(count)];
  let damping = 1e-3;
  let normal: Float64Array[] = [];
  for (let round = 0; round < rounds; round++) {
    free.forEach((k, i) => {
      const kept = p[k]!;
      const [from, to] = problem.reach?.(k) ?? [0, count];
      p[k] = kept + steps[k]!;
      const ahead = problem.residuals(p, plus);
      p[k] = kept - steps[k]!;
      const behind = problem.residuals(p, minus);
      p[k] = kept;
      const j = jacobian[i]!.fill(0);
      if (ahead && behind) for (let r = from; r < to; r++) j[r] = (plus[r]! - minus[r]!) / (2 * steps[k]!);
    });
    normal = free.map(() => new Float64Array(n));
    const right = new Float64Array(n);
    for (let i = 0; i < n; i++) {
      const [from, to] = problem.reach?.(free[i]!) ?? [0, count];
      const a = jacobian[i]!;
      for (let j = 0; j <= i; j++) {
        const b = jacobian[j]!;
        let sum = 0;
        for (let r = from; r < to; r++) sum += weights[r]! * a[r]! * b[r]!;
        normal[i]![j] = normal[j]![i] = sum;
      }
      for (let r = from; r < to; r++) right[i]! -= weights[r]! * a[r]! * residuals[r]!;
    }
    const cost = sumOf(residuals, weights);
    let gained = 0;
    for (let tries = 0; tries < 8; tries++) {
      const damped = normal.map((row, i) => Float64Array.from(row, (v, j) => (i === j ? v * (1 + damping) + 1e-12 : v)));
      const step = solve(damped, Float64Array.from(right));
      const next = Float64Array.from(p);
      free.forEach((k, i) => (next[k]! += step[i]!));
      if (step.every(Number.isFinite) && problem.residuals(next, plus)) {
        const reached = sumOf(plus, weights);
        if (reached < cost) {
          gained = cost - reached;
          p.set(next);
          residuals = Float64Array.from(plus);
          damping = Math.max(1e-9, damping * 0.2);
          break;
        }
      }
      damping *= 6;
    }
    weigh();
    if (!(gained > 1e-9 * cost)) break;
  }
  return { p, residuals, weights, cost: sumOf(residuals, weights), normal };
}

/** Weights of a Cauchy loss about a scale: what lies far off counts less and less. Residuals come in pairs, x and y. */
export function cauchyPairs(scale: number): (r: Float64Array, w: Float64Array) => void {
  return (r, w) => {
    for (let i = 0; i < r.length; i += 2) w[i] = w[i + 1] = 1 / (1 + (r[i]! ** 2 + r[i + 1]! ** 2) / (scale * scale));
  };
}
