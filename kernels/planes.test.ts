import { nodeKernels } from '@/engine/node/host';
import { random } from '@/demo/noise';
import type { Kernels } from '.';
import type { KernelExports } from './exports';

let k: Kernels;
beforeAll(async () => {
  k = await nodeKernels();
});

/** No multiple of four, nor of eight. */
const N = 37;
/** Values that pictures have: nothing, below nothing, over one, small ones. */
const SPECIAL = [0, 1, -0.25, 1e-7, 3.5, 0.5];
const valuesOf = (seed: number): number[] => {
  const next = random(seed);
  return Array.from({ length: N }, (_, i) => Math.fround(i < SPECIAL.length ? SPECIAL[(i + seed) % SPECIAL.length]! : 1.4 * next() - 0.2));
};

interface Case {
  /** The planes that it reads. */
  reads: number;
  run(fn: KernelExports, at: number[], out: number, n: number): void;
  wants(...v: number[]): number;
}

const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));
const blend = (op: number, wants: (back: number, front: number) => number): Case => ({
  reads: 2,
  run: (fn, [front, back], out, n) => fn.blendPlain(op, front!, back!, out, n),
  wants: (front, back) => wants(back!, front!),
});
const light = (b: number, f: number): number => 1 - 2 * (1 - b) * (1 - f);

/** What each kernel makes of a pixel, written as its formula stands in its comment. */
const CASES: Record<string, Case> = {
  affine: { reads: 1, run: (fn, [x], out, n) => fn.affine(x!, out, n, 1.5, -0.25), wants: (x) => x! * 1.5 - 0.25 },
  affineClamped: {
    reads: 1,
    run: (fn, [x], out, n) => fn.affineClamped(x!, out, n, 2, -0.5, 0, 1),
    wants: (x) => clamp(2 * x! - 0.5, 0, 1),
  },
  multiply: { reads: 2, run: (fn, [a, b], out, n) => fn.multiply(a!, b!, out, n), wants: (a, b) => a! * b! },
  addScaled: { reads: 2, run: (fn, [a, b], out, n) => fn.addScaled(a!, b!, out, n, -0.75), wants: (a, b) => a! - 0.75 * b! },
  maxPlane: { reads: 2, run: (fn, [a, b], out, n) => fn.maxPlane(a!, b!, out, n), wants: Math.max },
  minPlane: { reads: 2, run: (fn, [a, b], out, n) => fn.minPlane(a!, b!, out, n), wants: Math.min },
  unpremultiply: {
    reads: 2,
    run: (fn, [c, a], out, n) => fn.unpremultiply(c!, a!, out, n),
    wants: (c, a) => (a! > 0 ? c! / a! : c!),
  },
  repremultiply: {
    reads: 2,
    run: (fn, [c, a], out, n) => fn.repremultiply(c!, a!, out, n),
    wants: (c, a) => (a! > 0 ? c! * a! : c!),
  },
  repremultiplyLight: {
    reads: 3,
    run: (fn, [c, a, before], out, n) => fn.repremultiplyLight(c!, a!, before!, out, n),
    wants: (c, a, before) => (a! > 0 ? c! * a! : before === 0 ? 0 : c!),
  },
  carryAlpha: {
    reads: 3,
    run: (fn, [c, before, after], out, n) => fn.carryAlpha(c!, before!, after!, out, n),
    wants: (c, before, after) => (before! > 0 ? (c! / before!) * after! : c! * after!),
  },
  mixMasked: {
    reads: 3,
    run: (fn, [before, after, mask], out, n) => fn.mixMasked(before!, after!, mask!, out, n, 0.6),
    wants: (before, after, mask) => before! + 0.6 * mask! * (after! - before!),
  },
  subtractScreen: {
    reads: 4,
    run: (fn, [c, s, raw, a], out, n) => fn.subtractScreen(c!, s!, raw!, a!, out, n, 0.1),
    wants: (c, s, raw, a) => (Math.max(0, c! - (1 - raw!) * s!) * a!) / Math.max(raw!, 0.1),
  },
  'spillAmount over the average': {
    reads: 3,
    run: (fn, [p, q, r], out, n) => fn.spillAmount(p!, q!, r!, out, n, 0, 0, 0.8),
    wants: (p, q, r) => 0.8 * Math.max(0, p! - (q! + r!) / 2),
  },
  'spillAmount over the greater': {
    reads: 3,
    run: (fn, [p, q, r], out, n) => fn.spillAmount(p!, q!, r!, out, n, 1, 0, 1),
    wants: (p, q, r) => Math.max(0, p! - Math.max(q!, r!)),
  },
  'spillAmount over the smaller': {
    reads: 3,
    run: (fn, [p, q, r], out, n) => fn.spillAmount(p!, q!, r!, out, n, 2, 0, 1),
    wants: (p, q, r) => Math.max(0, p! - Math.min(q!, r!)),
  },
  'spillAmount over a weighted sum': {
    reads: 3,
    run: (fn, [p, q, r], out, n) => fn.spillAmount(p!, q!, r!, out, n, 3, 0.3, 1),
    wants: (p, q, r) => Math.max(0, p! - (0.3 * q! + 0.7 * r!)),
  },
  'porterDuff over': {
    reads: 4,
    run: (fn, [f, b, fa, ba], out, n) => fn.porterDuff(f!, b!, fa!, ba!, out, n, 1, 0, 1, -1),
    wants: (f, b, fa) => f! + b! * (1 - fa!),
  },
  'porterDuff xor': {
    reads: 4,
    run: (fn, [f, b, fa, ba], out, n) => fn.porterDuff(f!, b!, fa!, ba!, out, n, 1, -1, 1, -1),
    wants: (f, b, fa, ba) => f! * (1 - ba!) + b! * (1 - fa!),
  },
  'ratioMix where there was light': {
    reads: 1,
    run: (fn, [x], out, n) => {
      const [before, after] = [k.copy(Array.from({ length: n }, () => 0.4)), k.copy(Array.from({ length: n }, () => 0.1))];
      fn.ratioMix(x!, before.byteOffset, after.byteOffset, out, n, 0.05);
      [before, after].forEach((p) => k.give(p));
    },
    wants: (x) => x! / 4,
  },
  'ratioMix of what stays': {
    reads: 2,
    run: (fn, [x, same], out, n) => fn.ratioMix(x!, same!, same!, out, n, 0.05),
    wants: (x) => x!,
  },
  minus: blend(0, (b, f) => b - f),
  times: blend(1, (b, f) => b * f),
  'screen, which keeps rising above 1': blend(2, (b, f) => (b <= 1 || f <= 1 ? b + f - b * f : Math.max(b, f))),
  divide: blend(3, (b, f) => (f === 0 ? 0 : b / f)),
  difference: blend(4, (b, f) => Math.abs(b - f)),
  lighten: blend(5, Math.max),
  darken: blend(6, Math.min),
  overlay: blend(7, (b, f) => (b <= 0.5 ? 2 * b * f : light(b, f))),
  'hard light': blend(9, (b, f) => (f <= 0.5 ? 2 * b * f : light(b, f))),
  'colour dodge': blend(10, (b, f) => (b <= 0 ? 0 : f >= 1 ? 1 : Math.min(1, b / (1 - f)))),
  'colour burn': blend(11, (b, f) => (b >= 1 ? 1 : f <= 0 ? 0 : 1 - Math.min(1, (1 - b) / f))),
  average: blend(12, (b, f) => (b + f) / 2),
};

describe('kernels by the pixel', () => {
  test.each(Object.keys(CASES))('%s', (name) => {
    const { reads, run, wants } = CASES[name]!;
    const before = k.used;
    const values = Array.from({ length: reads }, (_, i) => valuesOf(i + 1));
    const planes = values.map((v) => k.copy(v));
    const out = k.take(N);
    run(
      k.fn,
      planes.map((p) => p.byteOffset),
      out.byteOffset,
      N,
    );
    for (let i = 0; i < N; i++) {
      const want = wants(...values.map((v) => v[i]!));
      expect(Math.abs(out[i]! - want)).toBeLessThanOrEqual(2e-6 * Math.max(1, Math.abs(want)));
    }
    // What is read is left alone.
    planes.forEach((p, j) => expect([...p.subarray(0, N)]).toEqual(values[j]));
    [...planes, out].forEach((p) => k.give(p));
    expect(k.used).toBe(before);
  });
});

describe('kernels over several planes', () => {
  test('a weighted sum is read once, with and without a base', () => {
    const planes = [1, 2, 3].map((seed) => k.copy(valuesOf(seed)));
    const base = k.copy(valuesOf(4));
    const out = k.take(N);
    const gains = [0.5, -1, 2];
    const [list, factors] = [k.take(4), k.copy(gains)];
    new Uint32Array(list.buffer, list.byteOffset, 3).set(planes.map((p) => p.byteOffset));
    for (const from of [base.byteOffset, 0]) {
      k.fn.weightedSum(from, out.byteOffset, N, list.byteOffset, factors.byteOffset, 3);
      for (let i = 0; i < N; i++) {
        const sum = planes.reduce((s, p, j) => s + gains[j]! * p[i]!, from ? base[i]! : 0);
        expect(out[i]).toBeCloseTo(sum, 5);
      }
    }
    [...planes, base, out, list, factors].forEach((p) => k.give(p));
  });

  test('the share of some ids: ranks fall, so the first that covers nothing ends the looking', () => {
    const ids = [k.copy([7, 3, 7, 5]), k.copy([3, 7, 9, 7]), k.copy([7, 7, 7, 7])];
    const covers = [k.copy([0.6, 0.5, 1, 0.4]), k.copy([0.3, 0.5, 0, 0.3]), k.copy([0.1, 0, 0, 0.2])];
    const [pairs, list, out] = [k.take(8), k.copy([7]), k.take(4)];
    const two = k.copy([7, 3]);
    new Uint32Array(pairs.buffer, pairs.byteOffset, 6).set(ids.flatMap((p, r) => [p.byteOffset, covers[r]!.byteOffset]));
    k.fn.idCoverage(pairs.byteOffset, 3, out.byteOffset, 4, list.byteOffset, 1);
    [0.7, 0.5, 1, 0.5].forEach((want, i) => expect(out[i]).toBeCloseTo(want, 6));
    k.fn.idCoverage(pairs.byteOffset, 3, out.byteOffset, 4, two.byteOffset, 2);
    [1, 1, 1, 0.5].forEach((want, i) => expect(out[i]).toBeCloseTo(want, 6));
    [...ids, ...covers, pairs, list, two, out].forEach((p) => k.give(p));
  });

  test('a background’s colour brings the luminance that spill took', () => {
    const rgb = [0.2, 0.3, 0.4].map((v) => k.copy([v, v]));
    const behind = [
      [0.5, 0],
      [0.25, 0],
      [0.1, 0],
    ].map((v) => k.copy(v));
    const spill = k.copy([0.3, 0.3]);
    const at = (p: { byteOffset: number }[]) => p.map((x) => x.byteOffset) as [number, number, number];
    k.fn.giveBackground(...at(rgb), ...at(behind), spill.byteOffset, 2, 0.7);
    const luma = (v: readonly number[]): number => 0.2126 * v[0]! + 0.7152 * v[1]! + 0.0722 * v[2]!;
    const now = rgb.map((p) => p[0]!);
    expect(luma(now) - luma([0.2, 0.3, 0.4])).toBeCloseTo(0.7 * 0.3, 5);
    expect((now[0]! - 0.2) / (now[2]! - 0.4)).toBeCloseTo(5, 4);
    // Nothing behind gives nothing.
    expect(rgb.map((p) => p[1])).toEqual([0.2, 0.3, 0.4].map(Math.fround));
    [...rgb, ...behind, spill].forEach((p) => k.give(p));
  });

  test('a hue that is to be kept loses no colour, one far from it all that was found, with a soft outer half', () => {
    const hue = (angle: number): [number, number, number] => [
      0.5 + 0.3 * Math.cos(angle),
      0.5 + 0.3 * Math.cos(angle - (2 * Math.PI) / 3),
      0.5 + 0.3 * Math.cos(angle + (2 * Math.PI) / 3),
    ];
    const keep = 2;
    const range = 0.6;
    const colours = [keep, keep + 0.25, keep + 0.45, keep + 0.7, keep + Math.PI, keep - 0.25].map(hue);
    const planes = [0, 1, 2].map((c) => k.copy(colours.map((v) => v[c]!)));
    const spill = k.copy(colours.map(() => 1));
    k.fn.protectHue(planes[0]!.byteOffset, planes[1]!.byteOffset, planes[2]!.byteOffset, spill.byteOffset, colours.length, keep, range);
    const left = [...spill.subarray(0, colours.length)];
    expect(left[0]).toBeCloseTo(0, 6);
    expect([left[1], left[5]].every((v) => v! < 1e-6)).toBe(true);
    expect(left[2]).toBeCloseTo(0.5, 2);
    expect([left[3], left[4]]).toEqual([1, 1]);
    [...planes, spill].forEach((p) => k.give(p));
  });

  test('what stands in for a thin screen plate is the constant colour', () => {
    const plate = [
      [0.6, 0.2],
      [0.1, 0.15],
      [0.2, 0.15],
    ].map((v) => k.copy(v));
    const out = plate.map(() => k.take(2));
    const at = (p: { byteOffset: number }[]) => p.map((x) => x.byteOffset) as [number, number, number];
    k.fn.fillScreen(...at(plate), ...at(out), 2, 0.7, 0.1, 0.2, 1, 0.5);
    expect(out.map((p) => p[0])).toEqual([0.6, 0.1, 0.2].map(Math.fround));
    expect(out.map((p) => p[1])).toEqual([0.7, 0.1, 0.2].map(Math.fround));
    [...plate, ...out].forEach((p) => k.give(p));
  });
});

describe('kernels that count', () => {
  const odd = [1, NaN, -2, Infinity, 0.5, -Infinity, 4, NaN, 3];

  test('least, greatest, sums and what is no number, whatever follows the last whole four', () => {
    for (let n = 0; n <= odd.length; n++) {
      const x = k.copy(odd);
      const out = k.bytes(48);
      k.fn.statistics(x.byteOffset, n, out.byteOffset);
      const some = odd.slice(0, n);
      const finite = some.filter(Number.isFinite);
      expect([...new Float64Array(out.buffer, out.byteOffset, 6)]).toEqual([
        Math.min(Infinity, ...finite),
        Math.max(-Infinity, ...finite),
        finite.reduce((s, v) => s + v, 0),
        finite.reduce((s, v) => s + v * v, 0),
        finite.length,
        some.filter(Number.isNaN).length,
      ]);
      expect(k.fn.countNonFinite(x.byteOffset, n)).toBe(n - finite.length);
      [x, out].forEach((p) => k.give(p));
    }
  });

  test('all equal: one that differs is found wherever it stands', () => {
    for (let at = -1; at < 11; at++) {
      const x = k.copy(Array.from({ length: 11 }, (_, i) => (i === at ? 2 : 0.5)));
      expect(k.fn.allEqual(x.byteOffset, 11, 0.5)).toBe(at < 0 ? 1 : 0);
      // Two rows of four in rows of five: the fifth column is not looked at.
      expect(k.fn.allEqualIn(x.byteOffset, 5, 4, 2, 0.5)).toBe(at < 0 || at === 4 || at > 8 ? 1 : 0);
      k.give(x);
    }
  });
});

describe('kernels that move rows', () => {
  const rows = Array.from({ length: 30 }, (_, i) => i);

  test('a part of a plane goes into a part of another, and nothing beside it changes', () => {
    const from = k.copy(rows);
    const to = k.copy(rows.map(() => -1));
    k.fn.copyPart(from.byteOffset + 4 * 7, 6, to.byteOffset + 4 * 4, 5, 3, 2);
    const want = rows.map(() => -1);
    for (let y = 0; y < 2; y++) for (let x = 0; x < 3; x++) want[4 + 5 * y + x] = 7 + 6 * y + x;
    expect([...to.subarray(0, 30)]).toEqual(want);
    k.fn.copyPart(from.byteOffset, 6, to.byteOffset, 6, 6, 5);
    expect([...to.subarray(0, 30)]).toEqual(rows);
    [from, to].forEach((p) => k.give(p));
  });

  test('rows get nothing at both sides', () => {
    const from = k.copy(rows);
    const to = k.copy(Array.from({ length: 14 }, () => -1));
    k.fn.copyRows(from.byteOffset, 6, to.byteOffset, 4, 2, 2, 1);
    expect([...to.subarray(0, 14)]).toEqual([0, 0, 0, 1, 2, 3, 0, 0, 0, 6, 7, 8, 9, 0]);
    [from, to].forEach((p) => k.give(p));
  });

  test('a curve of a table is straight between its entries and held at its ends; a cube of no change changes nothing', () => {
    const table = k.copy([0, 1, 4, 9]);
    const x = k.copy([-1, 0, 0.25, 0.5, 1, 7]);
    k.fn.lutCurve(x.byteOffset, 6, table.byteOffset, 4, 3, 0);
    [0, 0, 0.75, 2.5, 9, 9].forEach((want, i) => expect(x[i]).toBeCloseTo(want, 5));
    const size = 5;
    const entries = Array.from({ length: size ** 3 }, (_, i) => [i % size, Math.floor(i / size) % size, Math.floor(i / size ** 2), 0]);
    const cube = k.copy(entries.flat().map((v) => v / (size - 1)));
    const domain = k.copy([4, 4, 4, 0, 0, 0]);
    const colours = [5, 6, 7].map((seed) => valuesOf(seed).map((v) => clamp(v, 0, 1)));
    const planes = colours.map((c) => k.copy(c));
    k.fn.lutCube(planes[0]!.byteOffset, planes[1]!.byteOffset, planes[2]!.byteOffset, N, cube.byteOffset, size, domain.byteOffset);
    planes.forEach((p, c) => colours[c]!.forEach((v, i) => expect(p[i]).toBeCloseTo(v, 5)));
    [table, x, cube, domain, ...planes].forEach((p) => k.give(p));
  });

  test('one doubling of a running maximum, and a chord of a disc', () => {
    const x = k.copy([3, 1, 4, 1, 5, 9, 2, 6, 5, 3, 5, 8]);
    const out = k.take(8);
    k.fn.doubleMaximum(x.byteOffset, out.byteOffset, 8, 2);
    expect([...out.subarray(0, 8)]).toEqual([4, 1, 5, 9, 5, 9, 5, 6]);
    const disc = k.copy([0, 7, 0, 0, 0, 0]);
    // Two rows of three, those of the maxima six apart.
    k.fn.accumulateChord(x.byteOffset, disc.byteOffset, 3, 2, 6, 3, 1);
    expect([...disc.subarray(0, 6)]).toEqual([3, 7, 4, 6, 6, 5]);
    [x, out, disc].forEach((p) => k.give(p));
  });
});
