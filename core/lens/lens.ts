import { ShotError } from '../errors';
import type { LensModel } from './models';
import { modelOf } from './models';

/** A lens as it is kept: what `read lens --json` and the document say of it. Lengths are pixels of the format. */
export interface Lens {
  readonly model: LensModel;
  /** By the names of the model's terms; those that are not there are 0. */
  readonly coefficients: Readonly<Record<string, number>>;
  readonly centre: readonly [number, number];
  /** Along y; along x it is this over the squeeze. */
  readonly focal: number;
  /** How many times wider the picture is seen than it is stored: 2 for the classical anamorphic lens. */
  readonly squeeze: number;
  readonly format: { readonly width: number; readonly height: number };
}

/** A lens that bends nothing. */
export const plainLens = (format: Lens['format'], model: LensModel = 'radial2'): Lens => ({
  model,
  coefficients: {},
  centre: [format.width / 2, format.height / 2],
  focal: Math.max(format.width, format.height),
  squeeze: 1,
  format: { width: format.width, height: format.height },
});

export const coefficientsOf = ({ model, coefficients }: Pick<Lens, 'model' | 'coefficients'>): Float64Array =>
  Float64Array.from(modelOf(model).terms, (t) => coefficients[t] ?? 0);

/** The lens for a picture of another size of the same shape: a proxy, or a chart filmed larger. */
export function lensFor(lens: Lens, { width, height }: Lens['format']): Lens {
  const [kx, ky] = [width / lens.format.width, height / lens.format.height];
  if (kx === 1 && ky === 1) return lens;
  const format = { width, height };
  return { ...lens, centre: [lens.centre[0] * kx, lens.centre[1] * ky], focal: lens.focal * ky, squeeze: (lens.squeeze * ky) / kx, format };
}

/** Whether a lens of one format is for pictures of another. */
export const sameShape = (a: Lens['format'], b: Lens['format']): boolean =>
  Math.abs(a.width * b.height - b.width * a.height) <= 0.01 * a.height * b.height;

/** A lens between two at a share of the way: of one model and format. */
export function lensBetween(a: Lens, b: Lens, t: number): Lens {
  if (a.model !== b.model) throw new ShotError('lenses of two models cannot be mixed: solve both charts with one model');
  const mix = (p: number, q: number): number => p + t * (q - p);
  const other = lensFor(b, a.format);
  return {
    ...a,
    coefficients: Object.fromEntries(modelOf(a.model).terms.map((k) => [k, mix(a.coefficients[k] ?? 0, b.coefficients[k] ?? 0)])),
    centre: [mix(a.centre[0], other.centre[0]), mix(a.centre[1], other.centre[1])],
    focal: mix(a.focal, other.focal),
    squeeze: mix(a.squeeze, other.squeeze),
  };
}

/** Directions that are looked at for a fold. */
const DIRECTIONS = 24;
/** No ideal position lies farther out: 80 degrees from the axis. */
const FARTHEST = 5.7;
const STEP = 1e-6;
const ROUNDS = 30;
const TABLE = 256;
/** Places along each side of a frame that are looked at. */
const BORDER = 64;

/**
 * A lens ready for use. A picture that is straight has the same focal length and centre as the filmed one; positions are pixels of the
 * lens's format, and NaN where a lens has none.
 */
export class LensMap {
  /** The farthest from the centre, in focal lengths of the straight picture, before which the model does not fold. */
  readonly valid: number;
  private readonly k: Float64Array;
  private readonly distort: (k: Float64Array, x: number, y: number, to: Float64Array) => void;
  private readonly at = new Float64Array(2);
  private readonly near = new Float64Array(2);
  /** Ideal radius by the filmed one, for starting: mean over the directions, evenly up to `filmedMost`. */
  private readonly starts = new Float64Array(TABLE + 1);
  private readonly filmedMost: number;

  constructor(readonly lens: Lens) {
    this.k = coefficientsOf(lens);
    this.distort = modelOf(lens.model).distort;
    this.valid = this.findFold();
    const filmed = (r: number): number => {
      let sum = 0;
      for (let d = 0; d < DIRECTIONS; d++) {
        const a = (2 * Math.PI * d) / DIRECTIONS;
        this.distort(this.k, r * Math.cos(a), r * Math.sin(a), this.at);
        sum += Math.hypot(this.at[0]!, this.at[1]!);
      }
      return sum / DIRECTIONS;
    };
    this.filmedMost = filmed(this.valid);
    let [r, before, after] = [0, 0, 0];
    for (let i = 1; i <= TABLE; i++) {
      const wanted = (i / TABLE) * this.filmedMost;
      while (after < wanted && r < this.valid) {
        r = Math.min(this.valid, r + this.valid / 1024);
        [before, after] = [after, filmed(r)];
      }
      const t = after > before ? (after - wanted) / (after - before) : 0;
      this.starts[i] = r - (t * this.valid) / 1024;
    }
  }

  /** Where the map first stops to open out along any direction. */
  private findFold(): number {
    let least = FARTHEST;
    for (let d = 0; d < DIRECTIONS; d++) {
      const a = (2 * Math.PI * d) / DIRECTIONS;
      const [c, s] = [Math.cos(a), Math.sin(a)];
      const opens = (r: number): boolean => this.jacobian(r * c, r * s)[4]! > 1e-4;
      for (let r = 0.02; r < least; r += 0.02) {
        if (opens(r)) continue;
        let [low, high] = [r - 0.02, r];
        for (let i = 0; i < 20; i++) {
          const middle = (low + high) / 2;
          if (opens(middle)) low = middle;
          else high = middle;
        }
        least = low;
        break;
      }
    }
    return least;
  }

  private readonly j = new Float64Array(5);
  /** The derivative at an ideal position, row by row, and its determinant, by differences; NaN where the model has no value. */
  private jacobian(x: number, y: number): Float64Array {
    const { k, near, j } = this;
    this.distort(k, x + STEP, y, near);
    const [ax, ay] = [near[0]!, near[1]!];
    this.distort(k, x - STEP, y, near);
    j[0] = (ax - near[0]!) / (2 * STEP);
    j[2] = (ay - near[1]!) / (2 * STEP);
    this.distort(k, x, y + STEP, near);
    const [bx, by] = [near[0]!, near[1]!];
    this.distort(k, x, y - STEP, near);
    j[1] = (bx - near[0]!) / (2 * STEP);
    j[3] = (by - near[1]!) / (2 * STEP);
    j[4] = j[0]! * j[3]! - j[1]! * j[2]!;
    return j;
  }

  /** Where a position of the straight picture was filmed. */
  bend(x: number, y: number, to: Float64Array): void {
    const { focal, squeeze, centre } = this.lens;
    const [u, v] = [((x - centre[0]) * squeeze) / focal, (y - centre[1]) / focal];
    if (!(u * u + v * v <= this.valid * this.valid)) {
      to[0] = to[1] = NaN;
      return;
    }
    this.distort(this.k, u, v, to);
    to[0] = centre[0] + (to[0]! * focal) / squeeze;
    to[1] = centre[1] + to[1]! * focal;
  }

  /** Where a filmed position lies in the straight picture: Newton's method from the table's start, to 1e-9 of the focal length. */
  straighten(x: number, y: number, to: Float64Array): void {
    const { focal, squeeze, centre } = this.lens;
    const [u, v] = [((x - centre[0]) * squeeze) / focal, (y - centre[1]) / focal];
    const filmed = Math.hypot(u, v);
    const place = (filmed / this.filmedMost) * TABLE;
    const i = Math.min(TABLE - 1, Math.floor(place));
    const start = this.starts[i]! + Math.min(1.2, place - i) * (this.starts[i + 1]! - this.starts[i]!);
    const gain = filmed > 1e-12 ? start / filmed : 1;
    let [p, q] = [u * gain, v * gain];
    for (let round = 0; round < ROUNDS; round++) {
      this.distort(this.k, p, q, this.at);
      const [ex, ey] = [u - this.at[0]!, v - this.at[1]!];
      if (Math.abs(ex) + Math.abs(ey) < 1e-10) {
        const inside = p * p + q * q <= this.valid * this.valid * 1.0001;
        to[0] = inside ? centre[0] + (p * focal) / squeeze : NaN;
        to[1] = inside ? centre[1] + q * focal : NaN;
        return;
      }
      const j = this.jacobian(p, q);
      if (!(j[4]! > 1e-9)) break;
      let [dx, dy] = [(j[3]! * ex - j[1]! * ey) / j[4]!, (j[0]! * ey - j[2]! * ex) / j[4]!];
      // Near a fold a step is never longer than a fifth of the way out.
      const long = Math.hypot(dx, dy);
      const most = 0.2 * this.valid;
      if (long > most) [dx, dy] = [(dx * most) / long, (dy * most) / long];
      p += dx;
      q += dy;
    }
    to[0] = to[1] = NaN;
  }
}

const maps = new WeakMap<Lens, LensMap>();
/** The map of a lens, made once. */
export function lensMapOf(lens: Lens): LensMap {
  let map = maps.get(lens);
  if (!map) maps.set(lens, (map = new LensMap(lens)));
  return map;
}

const folds = new WeakMap<Lens, { at: number | null }>();
/** How far from its centre a lens folds, px, where that is inside of its frame; else null. */
export function foldInside(lens: Lens): number | null {
  let known = folds.get(lens);
  if (!known) folds.set(lens, (known = { at: findFoldInside(lens) }));
  return known.at;
}

/** Visits places all around a frame's border. */
export function alongBorder({ width, height }: Lens['format'], visit: (x: number, y: number) => void): void {
  for (let i = 0; i <= BORDER; i++) {
    const t = i / BORDER;
    visit(t * width, 0);
    visit(t * width, height);
    visit(0, t * height);
    visit(width, t * height);
  }
}

function findFoldInside(lens: Lens): number | null {
  const map = lensMapOf(lens);
  const to = new Float64Array(2);
  let folds = false;
  alongBorder(lens.format, (x, y) => {
    map.straighten(x, y, to);
    folds ||= Number.isNaN(to[0]);
  });
  return folds ? map.valid * lens.focal : null;
}
