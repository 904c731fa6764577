import { compose, invertAffine } from './affine';
import type { Affine } from './affine';
import { IDENTITY_H, invert, multiply } from './fit';
import type { Homography } from './homography';
import { applyHomography } from './homography';

/** A map of positions that is no homography; `to` gets x and y, NaN where there is no position. */
export interface Curve {
  /** Stands for it; its inverse has another. */
  readonly key: string;
  readonly inverseKey: string;
  forth(x: number, y: number, to: Float64Array): void;
  back(x: number, y: number, to: Float64Array): void;
}

interface Plain {
  readonly matrix: Homography;
  /** Null where it flattens the plane: nothing is then seen. */
  readonly inverse: Homography | null;
}
type Part = Plain | Curve;

const isPlain = (p: Part): p is Plain => 'matrix' in p;
const isAffine = (m: Homography): boolean => m[6] === 0 && m[7] === 0;
const affinePart = (m: Homography): Affine => m.slice(0, 6) as unknown as Affine;
const fromAffine = (m: Affine): Homography => [...m, 0, 0, 1];

function plain(matrix: Homography): Plain {
  if (!isAffine(matrix)) return { matrix, inverse: invert(matrix) };
  const inverse = invertAffine(affinePart(matrix));
  return { matrix, inverse: inverse && fromAffine(inverse) };
}

/** First a, then b. */
const product = (a: Homography, b: Homography): Homography =>
  isAffine(a) && isAffine(b) ? fromAffine(compose(affinePart(b), affinePart(a))) : multiply(b, a);

const isIdentity = (m: Homography): boolean => m.every((v, i) => Math.abs(v - IDENTITY_H[i]!) < 1e-12);

/**
 * Where a placing step puts positions of the picture it is given, both ways. Maps that follow each other become one: matrices are multiplied,
 * and a curve right after its inverse is nothing at all.
 */
export class Mapping {
  private constructor(
    private readonly parts: readonly Part[],
    /** Edges are repeated a little outward, so that the picture has no soft rim. */
    readonly holds: boolean,
  ) {}

  static readonly IDENTITY = new Mapping([], false);

  /** By a matrix from positions of the given picture to those of the made one. */
  static by(matrix: Affine | Homography, holds = false): Mapping {
    const m = matrix.length === 6 ? fromAffine(matrix) : matrix;
    return new Mapping(isIdentity(m) ? [] : [plain(m)], holds);
  }

  static along(curve: Curve): Mapping {
    return new Mapping([curve], false);
  }

  /** This first, then another. */
  then(next: Mapping): Mapping {
    let parts = [...this.parts];
    for (const part of next.parts) {
      const last = parts[parts.length - 1];
      if (last && isPlain(last) && isPlain(part)) {
        const both = product(last.matrix, part.matrix);
        parts = parts.slice(0, -1);
        if (!isIdentity(both)) parts.push(plain(both));
      } else if (last && !isPlain(last) && !isPlain(part) && last.inverseKey === part.key) parts.pop();
      else parts.push(part);
    }
    return new Mapping(parts, this.holds || next.holds);
  }

  get inverse(): Mapping {
    const parts = [...this.parts].reverse().map((p): Part => {
      if (isPlain(p)) return { matrix: p.inverse ?? p.matrix, inverse: p.inverse && p.matrix };
      return { key: p.inverseKey, inverseKey: p.key, forth: (x, y, to) => p.back(x, y, to), back: (x, y, to) => p.forth(x, y, to) };
    });
    return new Mapping(parts, this.holds);
  }

  get isIdentity(): boolean {
    return this.parts.length === 0;
  }

  /** Flattens the plane: nothing is seen of what it places. */
  get isFlat(): boolean {
    return this.parts.some((p) => isPlain(p) && p.inverse === null);
  }

  /** From positions of the made picture to those of the given one, where one matrix does it. */
  get backward(): Homography | null {
    const [first, second] = this.parts;
    if (!first) return IDENTITY_H;
    return second || !isPlain(first) ? null : first.inverse;
  }

  get forward(): Homography | null {
    const [first, second] = this.parts;
    if (!first) return IDENTITY_H;
    return second || !isPlain(first) ? null : first.matrix;
  }

  /** The same backwards, where it is affine. */
  get affineBackward(): Affine | null {
    const m = this.backward;
    return m && isAffine(m) ? affinePart(m) : null;
  }

  /** Where a position of the given picture lands; NaN where it is not to be seen. */
  forth(x: number, y: number, to: Float64Array): void {
    to[0] = x;
    to[1] = y;
    for (const p of this.parts) step(p, false, to);
  }

  /** What lies at a position of the made picture. */
  back(x: number, y: number, to: Float64Array): void {
    to[0] = x;
    to[1] = y;
    for (let i = this.parts.length - 1; i >= 0; i--) step(this.parts[i]!, true, to);
  }

  /** As `forth`, for one position. */
  place(x: number, y: number): [number, number] {
    const to = new Float64Array(2);
    this.forth(x, y, to);
    return [to[0]!, to[1]!];
  }

  /** Stands for it where it is part of a key. */
  toJSON(): unknown {
    return [this.holds, ...this.parts.map((p) => (isPlain(p) ? p.matrix : p.key))];
  }
}

function step(part: Part, back: boolean, to: Float64Array): void {
  const [x, y] = [to[0]!, to[1]!];
  if (!isPlain(part)) return back ? part.back(x, y, to) : part.forth(x, y, to);
  const matrix = back ? part.inverse : part.matrix;
  const [u, v, w] = matrix ? applyHomography(matrix, x, y) : [NaN, NaN, 0];
  // What lies behind the horizon is not seen.
  to[0] = w > 1e-9 ? u : NaN;
  to[1] = w > 1e-9 ? v : NaN;
}
