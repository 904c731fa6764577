/** Rec.709 luma weights, also those of scene-linear luminance with its primaries. */
export const LUMA = [0.2126, 0.7152, 0.0722] as const;

/** How light becomes code values (0..1) and back. */
export interface Transfer {
  /** Code value to scene-linear. */
  decode(v: number): number;
  /** Scene-linear to code value. */
  encode(v: number): number;
}

/** Negative values mirror, so that the ways stay inverse. */
const odd =
  (f: (v: number) => number) =>
  (v: number): number =>
    v < 0 ? -f(-v) : f(v);

const mirrored = (decode: (v: number) => number, encode: (v: number) => number): Transfer => ({ decode: odd(decode), encode: odd(encode) });

export const LINEAR: Transfer = { decode: (v) => v, encode: (v) => v };

/** A pure power. */
export const gamma = (g: number): Transfer =>
  mirrored(
    (v) => v ** g,
    (v) => v ** (1 / g),
  );

/** IEC 61966-2-1 */
export const SRGB = mirrored(
  (v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4),
  (v) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055),
);

/** ITU-R BT.709-6, the camera's curve */
export const REC709 = mirrored(
  (v) => (v < 0.081 ? v / 4.5 : ((v + 0.099) / 1.099) ** (1 / 0.45)),
  (v) => (v < 0.018 ? v * 4.5 : 1.099 * v ** 0.45 - 0.099),
);

/** SMPTE ST 2084, with scene-linear 1 at 100 cd/m². */
export const PQ = ((): Transfer => {
  const [m1, m2] = [2610 / 16384, (2523 / 4096) * 128];
  const [c1, c2, c3] = [3424 / 4096, (2413 / 4096) * 32, (2392 / 4096) * 32];
  return mirrored(
    (v) => {
      const p = v ** (1 / m2);
      // The curve ends a little above code 1.99; what lies beyond stays there, a number.
      return 100 * (Math.max(p - c1, 0) / Math.max(c2 - c3 * p, 1e-3)) ** (1 / m1);
    },
    (v) => {
      const p = (v / 100) ** m1;
      return ((c1 + c2 * p) / (1 + c3 * p)) ** m2;
    },
  );
})();

/** ITU-R BT.2100 hybrid log-gamma: the camera's curve, code 1 at scene-linear 1. */
export const HLG = ((): Transfer => {
  const a = 0.17883277;
  const b = 1 - 4 * a;
  const c = 0.5 - a * Math.log(4 * a);
  return mirrored(
    (v) => (v <= 0.5 ? v ** 2 / 3 : (Math.exp((v - c) / a) + b) / 12),
    (v) => (v <= 1 / 12 ? Math.sqrt(3 * v) : a * Math.log(12 * v - b) + c),
  );
})();

/** Printing density of scanned film: 0.002 a code of 10 bits, negative gamma 0.6, black at 95 and white at 685. */
export const CINEON = ((): Transfer => {
  const gain = 0.002 / 0.6;
  const black = 10 ** ((95 - 685) * gain);
  return {
    decode: (v) => (10 ** ((1023 * v - 685) * gain) - black) / (1 - black),
    encode: (v) => (685 + Math.log10(Math.max(1e-10, v * (1 - black) + black)) / gain) / 1023,
  };
})();

/** A logarithm with a straight foot, as cameras' makers publish them: code = c·log10(a·x + b) + d over `cut`, e·x + f below it. */
export function logWithFoot(p: { cut: number; a: number; b: number; c: number; d: number; e: number; f: number }): Transfer {
  const code = p.e * p.cut + p.f;
  return {
    decode: (v) => (v > code ? (10 ** ((v - p.d) / p.c) - p.b) / p.a : (v - p.f) / p.e),
    encode: (v) => (v > p.cut ? p.c * Math.log10(p.a * v + p.b) + p.d : p.e * v + p.f),
  };
}
