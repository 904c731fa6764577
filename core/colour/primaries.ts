/** Chromaticities x, y of red, green, blue and white. */
export interface Primaries {
  readonly red: readonly [number, number];
  readonly green: readonly [number, number];
  readonly blue: readonly [number, number];
  readonly white: readonly [number, number];
}

/** Row-major 3×3. */
export type Matrix3 = readonly [number, number, number, number, number, number, number, number, number];

const D65 = [0.3127, 0.329] as const;
const ACES_WHITE = [0.32168, 0.33767] as const;

export const REC709_PRIMARIES: Primaries = { red: [0.64, 0.33], green: [0.3, 0.6], blue: [0.15, 0.06], white: D65 };

/** ITU-R BT.2020, SMPTE RP 431-2 with D65, S-2014-004 (AP1), S-2008-001 (AP0), and the gamuts that cameras' makers publish. */
export const PRIMARIES = {
  rec2020: { red: [0.708, 0.292], green: [0.17, 0.797], blue: [0.131, 0.046], white: D65 },
  p3: { red: [0.68, 0.32], green: [0.265, 0.69], blue: [0.15, 0.06], white: D65 },
  ap1: { red: [0.713, 0.293], green: [0.165, 0.83], blue: [0.128, 0.044], white: ACES_WHITE },
  ap0: { red: [0.7347, 0.2653], green: [0, 1], blue: [0.0001, -0.077], white: ACES_WHITE },
  sGamut3Cine: { red: [0.766, 0.275], green: [0.225, 0.8], blue: [0.089, -0.087], white: D65 },
  wideGamut3: { red: [0.684, 0.313], green: [0.221, 0.848], blue: [0.0861, -0.102], white: D65 },
  wideGamut4: { red: [0.7347, 0.2653], green: [0.1424, 0.8576], blue: [0.0991, -0.0308], white: D65 },
  vGamut: { red: [0.73, 0.28], green: [0.165, 0.84], blue: [0.1, -0.03], white: D65 },
  wideGamutRgb: { red: [0.780308, 0.304253], green: [0.121595, 1.493994], blue: [0.095612, -0.084589], white: D65 },
  cinemaGamut: { red: [0.74, 0.27], green: [0.17, 1.14], blue: [0.08, -0.1], white: D65 },
} as const satisfies Record<string, Primaries>;

export function multiply3(a: Matrix3, b: Matrix3): Matrix3 {
  const at = (r: number, c: number): number => a[3 * r]! * b[c]! + a[3 * r + 1]! * b[3 + c]! + a[3 * r + 2]! * b[6 + c]!;
  return [at(0, 0), at(0, 1), at(0, 2), at(1, 0), at(1, 1), at(1, 2), at(2, 0), at(2, 1), at(2, 2)];
}

export function apply3(m: Matrix3, [x, y, z]: readonly [number, number, number]): [number, number, number] {
  return [m[0] * x + m[1] * y + m[2] * z, m[3] * x + m[4] * y + m[5] * z, m[6] * x + m[7] * y + m[8] * z];
}

export function invert3(m: Matrix3): Matrix3 {
  const [a, b, c, d, e, f, g, h, i] = m;
  const [A, B, C] = [e * i - f * h, f * g - d * i, d * h - e * g];
  const det = a * A + b * B + c * C;
  return [A, c * h - b * i, b * f - c * e, B, a * i - c * g, c * d - a * f, C, b * g - a * h, a * e - b * d].map(
    (v) => v / det,
  ) as unknown as Matrix3;
}

const xyz = ([x, y]: readonly [number, number]): [number, number, number] => [x / y, 1, (1 - x - y) / y];

/** RGB of these primaries to CIE XYZ, white at Y = 1 (SMPTE RP 177). */
export function toXyz(p: Primaries): Matrix3 {
  const [r, g, b] = [xyz(p.red), xyz(p.green), xyz(p.blue)];
  const columns: Matrix3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]];
  const [sr, sg, sb] = apply3(invert3(columns), xyz(p.white));
  return multiply3(columns, [sr, 0, 0, 0, sg, 0, 0, 0, sb]);
}

/** Lam & Rigg's cone responses, as ICC.1 annex E uses them. */
const BRADFORD: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];

/** Adapts XYZ from one white to another. */
export function bradford(from: readonly [number, number], to: readonly [number, number]): Matrix3 {
  const [a, b] = [apply3(BRADFORD, xyz(from)), apply3(BRADFORD, xyz(to))];
  const scale: Matrix3 = [b[0] / a[0], 0, 0, 0, b[1] / a[1], 0, 0, 0, b[2] / a[2]];
  return multiply3(invert3(BRADFORD), multiply3(scale, BRADFORD));
}

/** Linear RGB of one set of primaries to another's, whites adapted. */
export function betweenPrimaries(from: Primaries, to: Primaries): Matrix3 {
  return multiply3(invert3(toXyz(to)), multiply3(bradford(from.white, to.white), toXyz(from)));
}
