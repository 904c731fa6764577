import { ShotError } from '../errors';
import { leastSquares } from '../geometry/least-squares';
import type { Lens } from './lens';
import { LensMap } from './lens';
import type { LensModel } from './models';
import { modelOf } from './models';

export interface PlumbSolution {
  lens: Lens;
  /** Distances of the straightened places from their lines, as long as they are in the filmed picture, px; by line, empty for one that was not used. */
  residuals: Float64Array[];
  /** The places that they are of: what lay off its own line is left out. */
  places: readonly (readonly number[])[];
  /** Lines that do not go with the others: another edge was found, or the thing is not straight. */
  out: boolean[];
  rms: number;
  max: number;
}

/** So many lines are needed at least; with so many the centre is solved as well. */
const LEAST = 2;
/** And each has that many numbers, two a place. */
const LEAST_NUMBERS = 12;
const FOR_CENTRE = 6;
const PLACES_FOR_CENTRE = 200;
/** Usual residual, px: beyond a few of it a place counts less. */
const USUAL = 0.3;
/** A lens's centre lies about so near the frame's middle, in widths: where lines say little of it, it stays there. */
const CENTRED = 0.01;
/** A line whose residual is so many times the middle one, and that many px, is left out. */
const ASTRAY = 2.5;
const ASTRAY_PX = 0.3;

/**
 * A lens from things that are straight: the coefficients that make the straightened places of each line lie on a line (Devernay & Faugeras 2001), by
 * Levenberg–Marquardt with a Cauchy loss. Lines tell neither focal length nor squeeze: those are taken as given. The centre is solved where
 * there are six lines or more. Throws ShotError where there are too few.
 */
export function solveLines(
  lines: readonly (readonly number[])[],
  format: { width: number; height: number },
  model: 'auto' | LensModel,
  focal = format.width,
  squeeze = 1,
): PlumbSolution {
  let fit = solveOnce(lines, format, model, focal, squeeze);
  for (let round = 0; round < 4; round++) {
    const sizes = fit.residuals.map((r) => Math.sqrt(r.reduce((s, v) => s + v * v, 0) / Math.max(1, r.length)));
    const there = sizes.filter((_, i) => fit.residuals[i]!.length > 0).sort((a, b) => a - b);
    const limit = Math.max(ASTRAY_PX, ASTRAY * (there[there.length >> 1] ?? 0));
    const worst = Math.max(...sizes);
    if (worst <= limit || there.length <= 4) break;
    // All that are far off, at once, but never so many that what is left says nothing.
    const kept = lines.map((l, i) => (sizes[i]! > limit && fit.residuals[i]!.length > 0 ? [] : l));
    if (kept.filter((l) => l.length >= LEAST_NUMBERS).length < 4) break;
    lines = kept;
    fit = solveOnce(lines, format, model, focal, squeeze);
  }
  // Single places that lie off their line are another edge's: they go, and the rest is fitted once more.
  const usual = 1.48 * middleOf(fit.residuals.flatMap((r) => Array.from(r, Math.abs)));
  const clean = lines.map((l, i) => {
    const off = fit.residuals[i]!;
    const kept = l.filter((_, k) => Math.abs(off[k >> 1]!) <= Math.max(0.4, 4 * usual));
    return off.length > 0 && kept.length >= LEAST_NUMBERS ? kept : l;
  });
  const again = solveOnce(clean, format, model, focal, squeeze);
  return { ...again, places: clean, out: lines.map((l, i) => l.length < LEAST_NUMBERS || again.residuals[i]!.length === 0) };
}

const middleOf = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1] ?? 0;

function solveOnce(
  lines: readonly (readonly number[])[],
  format: { width: number; height: number },
  model: 'auto' | LensModel,
  focal: number,
  squeeze: number,
): Omit<PlumbSolution, 'out' | 'places'> {
  const used = lines.filter((l) => l.length >= LEAST_NUMBERS);
  const places = used.reduce((s, l) => s + l.length / 2, 0);
  if (used.length < LEAST) throw new ShotError(`straight lines tell a lens from ${LEAST} on; ${used.length} found their edge`);
  const { width, height } = format;
  const kind: LensModel = model === 'auto' ? (used.length >= 10 ? 'radial3' : used.length >= 4 ? 'radial2' : 'division') : model;
  const { terms } = modelOf(kind);
  const lensOf = (p: Float64Array): Lens => ({
    model: kind,
    coefficients: Object.fromEntries(terms.map((t, i) => [t, p[2 + i]!])),
    centre: [width / 2 + p[0]! * width, height / 2 + p[1]! * width],
    focal,
    squeeze,
    format: { width, height },
  });
  const count = places + 2;
  const to = new Float64Array(2);
  const straight = new Float64Array(2 * Math.max(...used.map((l) => l.length)));
  const residuals = (p: Float64Array, out: Float64Array): boolean => {
    const lens = lensOf(p);
    const map = new LensMap(lens);
    let o = 0;
    for (const line of used) {
      const n = line.length / 2;
      let [mx, my] = [0, 0];
      for (let i = 0; i < n; i++) {
        map.straighten(line[2 * i]!, line[2 * i + 1]!, to);
        if (Number.isNaN(to[0])) return false;
        straight[2 * i] = to[0]!;
        straight[2 * i + 1] = to[1]!;
        mx += to[0]! / n;
        my += to[1]! / n;
      }
      // The line nearest to them: along the greater axis of their spread.
      let [xx, xy, yy] = [0, 0, 0];
      for (let i = 0; i < n; i++) {
        const [dx, dy] = [straight[2 * i]! - mx, straight[2 * i + 1]! - my];
        [xx, xy, yy] = [xx + dx * dx, xy + dx * dy, yy + dy * dy];
      }
      const angle = 0.5 * Math.atan2(2 * xy, xx - yy);
      const [nx, ny] = [-Math.sin(angle), Math.cos(angle)];
      for (let i = 0; i < n; i++) {
        const [fx, fy] = [line[2 * i]! - lens.centre[0], line[2 * i + 1]! - lens.centre[1]];
        const [sx, sy] = [straight[2 * i]! - lens.centre[0], straight[2 * i + 1]! - lens.centre[1]];
        // As long as it is as filmed: else a lens that shrinks everything would leave the least.
        const gain = Math.hypot(fx, fy) / Math.max(1e-6, Math.hypot(sx, sy));
        out[o++] = gain * (nx * (straight[2 * i]! - mx) + ny * (straight[2 * i + 1]! - my));
      }
    }
    out[o++] = (p[0]! / CENTRED) * USUAL;
    out[o] = (p[1]! / CENTRED) * USUAL;
    return true;
  };
  const centre = used.length >= FOR_CENTRE && places >= PLACES_FOR_CENTRE;
  const free = [...(centre ? [0, 1] : []), ...terms.map((_, i) => 2 + i)];
  const start = new Float64Array(2 + terms.length);
  const problem = {
    residuals,
    count,
    steps: new Float64Array(2 + terms.length).fill(1e-5),
    weigh: (r: Float64Array, w: Float64Array) => r.forEach((v, i) => (w[i] = 1 / (1 + (v / (3 * USUAL)) ** 2))),
    rounds: 40,
  };
  // The first term alone, then all: far from the answer they pull against each other.
  const first = leastSquares(start, [2], problem);
  const fit = leastSquares(first.p, free, problem);
  let at = 0;
  const parts = lines.map((l) => (l.length < LEAST_NUMBERS ? new Float64Array(0) : fit.residuals.slice(at, (at += l.length / 2))));
  const own = fit.residuals.subarray(0, places);
  return {
    lens: lensOf(fit.p),
    residuals: parts,
    rms: Math.sqrt(own.reduce((s, v) => s + v * v, 0) / places),
    max: own.reduce((s, v) => Math.max(s, Math.abs(v)), 0),
  };
}
