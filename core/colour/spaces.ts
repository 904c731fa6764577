import type { ColourSpace } from '../document/types';
import type { Attribute } from '../formats/exr/attributes';
import type { Matrix3, Primaries } from './primaries';
import { PRIMARIES, REC709_PRIMARIES, betweenPrimaries, invert3 } from './primaries';
import type { Transfer } from './transfer';
import { CINEON, HLG, LINEAR, PQ, REC709, SRGB, gamma, logWithFoot } from './transfer';

export interface SpaceDefinition {
  title: string;
  /** What it is met in, in a few words. */
  help: string;
  transfer: Transfer;
  primaries: Primaries;
}

const at = (title: string, help: string, transfer: Transfer, primaries: Primaries = REC709_PRIMARIES): SpaceDefinition => ({
  title,
  help,
  transfer,
  primaries,
});

/** The makers' published formulas, for scene-linear reflectance (a grey card is 0.18). */
const LOG_C3 = logWithFoot({ cut: 0.010591, a: 5.555556, b: 0.052272, c: 0.24719, d: 0.385537, e: 5.367655, f: 0.092809 });
const V_LOG = logWithFoot({ cut: 0.01, a: 1, b: 0.00873, c: 0.241514, d: 0.598206, e: 5.6, f: 0.125 });

const S_LOG3: Transfer = {
  decode: (v) =>
    v >= 171.2102946929 / 1023 ? 10 ** ((v * 1023 - 420) / 261.5) * 0.19 - 0.01 : ((v * 1023 - 95) * 0.01125) / 76.2102946929,
  encode: (v) => (v >= 0.01125 ? 420 + Math.log10((v + 0.01) / 0.19) * 261.5 : (v * 76.2102946929) / 0.01125 + 95) / 1023,
};

const LOG_C4 = ((): Transfer => {
  const a = (2 ** 18 - 16) / 117.45;
  const b = (1023 - 95) / 1023;
  const c = 95 / 1023;
  const s = (7 * Math.log(2) * 2 ** (7 - (14 * c) / b)) / (a * b);
  const t = (2 ** (14 * (-c / b) + 6) - 64) / a;
  return {
    decode: (v) => (v < 0 ? v * s + t : (2 ** ((14 * (v - c)) / b + 6) - 64) / a),
    encode: (v) => (v < t ? (v - t) / s : ((Math.log2(a * v + 64) - 6) / 14) * b + c),
  };
})();

const LOG3_G10 = ((): Transfer => {
  const [a, b, c, g] = [0.224282, 155.975327, 0.01, 15.1927];
  return {
    decode: (v) => (v < 0 ? v / g - c : (10 ** (v / a) - 1) / b - c),
    encode: (v) => (v + c < 0 ? (v + c) * g : a * Math.log10((v + c) * b + 1)),
  };
})();

const C_LOG3 = ((): Transfer => {
  const [a, b] = [14.98325, 0.36726845];
  // The formula's 1 stands for 90 % reflectance.
  return {
    decode: (v) =>
      0.9 *
      (v < 0.097465473
        ? -(10 ** ((0.12783901 - v) / b) - 1) / a
        : v <= 0.15277891
          ? (v - 0.12512219) / 1.9754798
          : (10 ** ((v - 0.12240537) / b) - 1) / a),
    encode: (w) => {
      const v = w / 0.9;
      if (v < -0.014) return 0.12783901 - b * Math.log10(1 - a * v);
      return v <= 0.014 ? 1.9754798 * v + 0.12512219 : b * Math.log10(a * v + 1) + 0.12240537;
    },
  };
})();

/** What code values of a source can mean, and what files can be written in. */
export const SPACES: Readonly<Record<ColourSpace, SpaceDefinition>> = {
  sRGB: at('sRGB', 'pictures for computer displays', SRGB),
  'Display P3': at('Display P3', 'wide displays', SRGB, PRIMARIES.p3),
  'Rec.709': at('Rec.709 camera', 'video', REC709),
  'gamma 2.2': at('Gamma 2.2', 'a pure power', gamma(2.2)),
  'gamma 2.4': at('Gamma 2.4', 'video graded for a dim room', gamma(2.4)),
  linear: at('Linear Rec.709', 'light as it is', LINEAR),
  'linear Rec.2020': at('Linear Rec.2020', 'light, wide primaries', LINEAR, PRIMARIES.rec2020),
  'linear P3': at('Linear P3', 'light, cinema primaries with D65', LINEAR, PRIMARIES.p3),
  ACEScg: at('ACEScg', 'CG renders: AP1', LINEAR, PRIMARIES.ap1),
  'ACES2065-1': at('ACES2065-1', 'exchange: AP0', LINEAR, PRIMARIES.ap0),
  PQ: at('PQ (ST 2084)', 'Rec.2020, 1 is 100 cd/m²', PQ, PRIMARIES.rec2020),
  HLG: at('HLG', 'Rec.2020 hybrid log-gamma', HLG, PRIMARIES.rec2020),
  Cineon: at('Cineon log', 'scanned film', CINEON),
  'S-Log3': at('S-Log3', 'S-Gamut3.Cine', S_LOG3, PRIMARIES.sGamut3Cine),
  LogC3: at('LogC3', 'EI 800, Wide Gamut 3', LOG_C3, PRIMARIES.wideGamut3),
  LogC4: at('LogC4', 'Wide Gamut 4', LOG_C4, PRIMARIES.wideGamut4),
  'V-Log': at('V-Log', 'V-Gamut', V_LOG, PRIMARIES.vGamut),
  Log3G10: at('Log3G10', 'WideGamutRGB', LOG3_G10, PRIMARIES.wideGamutRgb),
  'C-Log3': at('C-Log3', 'Cinema Gamut', C_LOG3, PRIMARIES.cinemaGamut),
};

export const SPACE_NAMES = Object.keys(SPACES) as ColourSpace[];

/** Those that hold light itself: what OpenEXR files are written in. */
export const LINEAR_SPACES = SPACE_NAMES.filter((s) => SPACES[s].transfer === LINEAR);

const matrices = new Map<ColourSpace, { toWorking: Matrix3; toSpace: Matrix3 } | null>();

/** Between a space's primaries and linear Rec.709, or null where they are the same. */
export function matricesOf(space: ColourSpace): { toWorking: Matrix3; toSpace: Matrix3 } | null {
  let known = matrices.get(space);
  if (known === undefined) {
    const { primaries } = SPACES[space];
    const toWorking = primaries === REC709_PRIMARIES ? null : betweenPrimaries(primaries, REC709_PRIMARIES);
    known = toWorking && { toWorking, toSpace: invert3(toWorking) };
    matrices.set(space, known);
  }
  return known;
}

const tables = new Map<string, Float32Array>();

/** Light of all code values of so many bits, before any change of primaries. */
export function decodeTable(space: ColourSpace, bits: 8 | 10 | 12 | 16): Float32Array {
  const key = `${space}/${bits}`;
  let table = tables.get(key);
  if (!table) {
    const { decode } = SPACES[space].transfer;
    const top = 2 ** bits - 1;
    table = Float32Array.from({ length: top + 1 }, (_, i) => decode(i / top));
    tables.set(key, table);
  }
  return table;
}

/** The eight numbers of OpenEXR's chromaticities attribute. */
export const chromaticitiesOf = (space: ColourSpace): number[] => {
  const { red, green, blue, white } = SPACES[space].primaries;
  return [...red, ...green, ...blue, ...white];
};

/** The linear space whose chromaticities a file names; undefined where they are no known one's. */
export function spaceOfChromaticities(attribute: Attribute | undefined): ColourSpace | undefined {
  if (!Array.isArray(attribute) || attribute.length !== 8) return undefined;
  return LINEAR_SPACES.find((s) => chromaticitiesOf(s).every((v, i) => Math.abs(v - Number(attribute[i])) < 2e-3));
}
