/** One Gaussian of a mixture: mean, inverse covariance (symmetric: xx xy xz yy yz zz) and the logarithm of its peak. */
interface Gaussian {
  mean: readonly [number, number, number];
  inverse: readonly [number, number, number, number, number, number];
  log: number;
}

export type Point = [number, number, number];

/** Light under which logarithms are held. */
const DARK = 2 ** -9;

/** Log opponent space: brightness in stops, and two differences of stops, so that shadow moves a colour along one axis only. */
export function opponent(r: number, g: number, b: number): Point {
  const [x, y, z] = [Math.log2(Math.max(0, r) + DARK), Math.log2(Math.max(0, g) + DARK), Math.log2(Math.max(0, b) + DARK)];
  return [(x + y + z) / 3, x - y, z - (x + y) / 2];
}

/** Variance that any colour is given at least, in stops²: brightness varies more than hue. */
const FLOOR = [0.06, 0.015, 0.015] as const;

function gaussian(points: readonly Point[], shares: readonly number[]): Gaussian & { weight: number } {
  const weight = shares.reduce((a, b) => a + b, 0) || 1e-12;
  const mean: Point = [0, 0, 0];
  points.forEach((p, i) => mean.forEach((_, k) => (mean[k]! += (shares[i]! * p[k]!) / weight)));
  const c = [FLOOR[0], 0, 0, FLOOR[1], 0, FLOOR[2]] as [number, number, number, number, number, number];
  points.forEach((p, i) => {
    const [x, y, z] = [p[0] - mean[0], p[1] - mean[1], p[2] - mean[2]];
    [x * x, x * y, x * z, y * y, y * z, z * z].forEach((v, k) => (c[k]! += (shares[i]! * v) / weight));
  });
  const [a, b, d, e, f, g] = c;
  const [i0, i1, i2] = [e * g - f * f, d * f - b * g, b * f - d * e];
  const det = a * i0 + b * i1 + d * i2;
  const inverse = [i0, i1, i2, a * g - d * d, b * d - a * f, a * e - b * b].map((v) => v / det) as unknown as Gaussian['inverse'];
  return { mean, inverse, log: Math.log(weight / points.length) - 0.5 * Math.log((2 * Math.PI) ** 3 * det), weight };
}

function logAt({ mean, inverse: [a, b, c, d, e, f], log }: Gaussian, [px, py, pz]: Point): number {
  const [x, y, z] = [px - mean[0], py - mean[1], pz - mean[2]];
  return log - 0.5 * (a * x * x + d * y * y + f * z * z + 2 * (b * x * y + c * x * z + e * y * z));
}

const ROUNDS = 12;

/** A mixture of up to `most` Gaussians, by expectation and maximisation from means that lie far apart. */
export class ColourModel {
  private constructor(private readonly parts: readonly Gaussian[]) {}

  static fit(points: readonly Point[], most: number): ColourModel {
    const means: Point[] = points.length ? [points[0]!] : [];
    const far = (p: Point): number => Math.min(...means.map((m) => (p[0] - m[0]) ** 2 * 0.25 + (p[1] - m[1]) ** 2 + (p[2] - m[2]) ** 2));
    while (means.length < Math.min(most, points.length)) {
      const next = points.reduce((a, b) => (far(b) > far(a) ? b : a));
      if (far(next) < 0.05) break;
      means.push(next);
    }
    const nearest = (p: Point, m: Point): number =>
      Math.exp(-2 * ((p[0] - m[0]) ** 2 * 0.25 + (p[1] - m[1]) ** 2 + (p[2] - m[2]) ** 2)) + 1e-9;
    let shares = means.map((m) => points.map((p) => nearest(p, m)));
    const norm = (): void =>
      points.forEach((_, i) => {
        const sum = shares.reduce((s, list) => s + list[i]!, 0);
        shares.forEach((list) => (list[i]! /= sum));
      });
    norm();
    let parts: Gaussian[] = [];
    for (let round = 0; round < ROUNDS && means.length > 0; round++) {
      parts = shares.map((list) => gaussian(points, list));
      shares = parts.map((g) => points.map((p) => Math.exp(Math.max(-300, logAt(g, p)))));
      shares.forEach((list) => list.forEach((v, i) => (list[i] = v + 1e-300)));
      norm();
    }
    return new ColourModel(parts);
  }

  /** Logarithm of the density at a point. */
  log(p: Point): number {
    const logs = this.parts.map((g) => logAt(g, p));
    const most = Math.max(...logs);
    return most + Math.log(logs.reduce((s, v) => s + Math.exp(v - most), 0));
  }
}
