/** Planes of a picture, row by row, and what is known of its coverage. */
export interface MattingProblem {
  width: number;
  height: number;
  /** R, G, B. */
  colour: readonly [Float32Array, Float32Array, Float32Array];
  /** 1 where coverage is to be found, 0 where `alpha` is known. */
  unknown: Uint8Array;
  /** Known coverage, and a first guess of the unknown. */
  alpha: Float32Array;
}

export interface MattingOptions {
  /** Added to the variance of colour in a window: what noise of about its root explains is no edge. */
  epsilon: number;
  iterations: number;
  /** Ends when the residual has fallen to this share of what it was. */
  tolerance: number;
  poll?(): void;
}

/** Pixels of a window: 3 × 3, as in the paper. */
const COUNT = 9;

/** Windows that hold an unknown pixel: centre, mean colour, and the inverse of covariance + ε/9, a symmetric 3 × 3. */
interface Windows {
  centres: Int32Array;
  stats: Float64Array;
}
const STATS = 9;

function windowsOf({ width, height, colour, unknown }: MattingProblem, epsilon: number): Windows {
  const [r, g, b] = colour;
  const centres: number[] = [];
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      let any = 0;
      for (let v = -width; v <= width; v += width) any |= unknown[i + v - 1]! | unknown[i + v]! | unknown[i + v + 1]!;
      if (any) centres.push(i);
    }
  }
  const stats = new Float64Array(STATS * centres.length);
  centres.forEach((i, k) => {
    let [sr, sg, sb, rr, rg, rb, gg, gb, bb] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
    for (let v = -width; v <= width; v += width) {
      for (let j = i + v - 1; j <= i + v + 1; j++) {
        const [x, y, z] = [r[j]!, g[j]!, b[j]!];
        sr += x;
        sg += y;
        sb += z;
        rr += x * x;
        rg += x * y;
        rb += x * z;
        gg += y * y;
        gb += y * z;
        bb += z * z;
      }
    }
    const [mr, mg, mb] = [sr / COUNT, sg / COUNT, sb / COUNT];
    const e = epsilon / COUNT;
    const [a, d, f] = [rr / COUNT - mr * mr + e, gg / COUNT - mg * mg + e, bb / COUNT - mb * mb + e];
    const [p, q, s] = [rg / COUNT - mr * mg, rb / COUNT - mr * mb, gb / COUNT - mg * mb];
    const [c0, c1, c2] = [d * f - s * s, q * s - p * f, p * s - q * d];
    const det = a * c0 + p * c1 + q * c2;
    stats.set([mr, mg, mb, c0 / det, c1 / det, c2 / det, (a * f - q * q) / det, (p * q - a * s) / det, (a * d - p * p) / det], STATS * k);
  });
  return { centres: Int32Array.from(centres), stats };
}

/** out = L·x on the unknown pixels: each window takes off what its own affine fit to colour explains. */
function apply({ width, colour: [r, g, b] }: MattingProblem, { centres, stats }: Windows, x: Float64Array, out: Float64Array): void {
  out.fill(0);
  for (let k = 0, s = 0; k < centres.length; k++, s += STATS) {
    const i = centres[k]!;
    const [mr, mg, mb] = [stats[s]!, stats[s + 1]!, stats[s + 2]!];
    let [sum, cr, cg, cb] = [0, 0, 0, 0];
    for (let v = i - width; v <= i + width; v += width) {
      for (let j = v - 1; j <= v + 1; j++) {
        const value = x[j]!;
        sum += value;
        cr += r[j]! * value;
        cg += g[j]! * value;
        cb += b[j]! * value;
      }
    }
    const mean = sum / COUNT;
    cr = cr / COUNT - mr * mean;
    cg = cg / COUNT - mg * mean;
    cb = cb / COUNT - mb * mean;
    const ar = stats[s + 3]! * cr + stats[s + 4]! * cg + stats[s + 5]! * cb;
    const ag = stats[s + 4]! * cr + stats[s + 6]! * cg + stats[s + 7]! * cb;
    const ab = stats[s + 5]! * cr + stats[s + 7]! * cg + stats[s + 8]! * cb;
    const base = mean - ar * mr - ag * mg - ab * mb;
    for (let v = i - width; v <= i + width; v += width) {
      for (let j = v - 1; j <= v + 1; j++) out[j]! += x[j]! - base - ar * r[j]! - ag * g[j]! - ab * b[j]!;
    }
  }
}

/** The diagonal of L, for Jacobi's preconditioner. */
function diagonal({ width, colour: [r, g, b] }: MattingProblem, { centres, stats }: Windows, n: number): Float64Array {
  const out = new Float64Array(n);
  for (let k = 0, s = 0; k < centres.length; k++, s += STATS) {
    const i = centres[k]!;
    for (let v = i - width; v <= i + width; v += width) {
      for (let j = v - 1; j <= v + 1; j++) {
        const [x, y, z] = [r[j]! - stats[s]!, g[j]! - stats[s + 1]!, b[j]! - stats[s + 2]!];
        const [a, p, q, d, t, f] = [stats[s + 3]!, stats[s + 4]!, stats[s + 5]!, stats[s + 6]!, stats[s + 7]!, stats[s + 8]!];
        out[j]! += 1 - (1 + x * (a * x + p * y + q * z) + y * (p * x + d * y + t * z) + z * (q * x + t * y + f * z)) / COUNT;
      }
    }
  }
  return out;
}

/**
 * Coverage in the unknown pixels by closed-form matting (Levin, Lischinski and Weiss 2008): the least of αᵀLα with what is known
 * held, by conjugate gradients with Jacobi's preconditioner, without ever making the matrix. Changes `alpha` in place (not
 * limited to 0..1) and returns how many iterations it took.
 */
export function closedFormMatting(problem: MattingProblem, { epsilon, iterations, tolerance, poll }: MattingOptions): number {
  const { unknown, alpha } = problem;
  const n = alpha.length;
  const windows = windowsOf(problem, epsilon);
  if (windows.centres.length === 0) return 0;
  const open: number[] = [];
  for (let i = 0; i < n; i++) if (unknown[i]) open.push(i);
  const scale = diagonal(problem, windows, n);
  const x = Float64Array.from(alpha);
  const ax = new Float64Array(n);
  apply(problem, windows, x, ax);
  const r = new Float64Array(n);
  const z = new Float64Array(n);
  const p = new Float64Array(n);
  const precondition = (): number => {
    let sum = 0;
    for (const i of open) {
      z[i] = r[i]! / Math.max(1e-12, scale[i]!);
      sum += r[i]! * z[i]!;
    }
    return sum;
  };
  for (const i of open) r[i] = -ax[i]!;
  const first = precondition();
  let rz = first;
  for (const i of open) p[i] = z[i]!;
  let done = 0;
  while (done < iterations && rz > tolerance * tolerance * first && rz > 0) {
    poll?.();
    apply(problem, windows, p, ax);
    let curve = 0;
    for (const i of open) curve += p[i]! * ax[i]!;
    if (!(curve > 0)) break;
    const step = rz / curve;
    for (const i of open) {
      x[i]! += step * p[i]!;
      r[i]! -= step * ax[i]!;
    }
    const next = precondition();
    const turn = next / rz;
    for (const i of open) p[i] = z[i]! + turn * p[i]!;
    rz = next;
    done++;
  }
  for (const i of open) alpha[i] = x[i]!;
  return done;
}
