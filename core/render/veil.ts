import type { Vec3 } from '../geometry/vec3';
import type { Affine3 } from './affine';
import { inverseA3 } from './affine';
import type { Shadow } from './shadow';
import type { Texture } from './texture';

/** A flat picture that takes light away as it covers: smoke, glass, a leaf. */
export interface Veil {
  /** From the world to the picture's plane: shares of the picture to the right and down, and along its normal. */
  readonly back: Affine3;
  /** Shares of the picture a unit, to the right and down. */
  readonly across: number;
  readonly down: number;
  readonly picture: Texture;
  readonly opacity: number;
}

/** Where light comes from: a sun with the tangent of its radius, or a lamp with its radius in units. */
export type Source = { readonly towards: Vec3; readonly radius: number } | { readonly at: Vec3; readonly radius: number };

/** A picture as a veil, by the matrix that leads from shares of it to the world; null where it has no width. */
export function veilOf(matrix: Affine3, picture: Texture, opacity: number): Veil | null {
  const back = inverseA3(matrix);
  if (!back) return null;
  const [across, down] = [Math.hypot(back[0]!, back[1]!, back[2]!), Math.hypot(back[4]!, back[5]!, back[6]!)];
  return { back, across, down, picture, opacity };
}

/** Nearer than this a picture does not shade itself, units. */
const LEAST = 1e-3;

/**
 * A lamp that is seen through veils: of each, what its picture covers in the cone from a place to the lamp, so that shadows are as thin as the picture there and the softer
 * the farther it is from what they fall on. What else stands in the way is told by another shadow.
 */
export class VeiledShadow implements Shadow {
  private readonly texel = new Float64Array(4);

  constructor(
    private readonly solid: Shadow | null,
    private readonly veils: readonly Veil[],
    private readonly source: Source,
  ) {}

  open(px: number, py: number, pz: number, nx: number, ny: number, nz: number): number {
    const { solid, veils, source, texel } = this;
    let open = solid ? solid.open(px, py, pz, nx, ny, nz) : 1;
    if (open === 0) return 0;
    let far = Infinity;
    let x: number;
    let y: number;
    let z: number;
    if ('at' in source) {
      x = source.at[0] - px;
      y = source.at[1] - py;
      z = source.at[2] - pz;
      far = Math.sqrt(x * x + y * y + z * z) || 1e-9;
      x /= far;
      y /= far;
      z /= far;
    } else {
      x = source.towards[0];
      y = source.towards[1];
      z = source.towards[2];
    }
    for (const { back: m, across, down, picture, opacity } of veils) {
      const rise = m[8]! * x + m[9]! * y + m[10]! * z;
      if (Math.abs(rise) < 1e-9) continue;
      const t = -(m[8]! * px + m[9]! * py + m[10]! * pz + m[11]!) / rise;
      if (!(t > LEAST && t < far)) continue;
      const ax = px + t * x;
      const ay = py + t * y;
      const az = pz + t * z;
      const u = m[0]! * ax + m[1]! * ay + m[2]! * az + m[3]!;
      const v = m[4]! * ax + m[5]! * ay + m[6]! * az + m[7]!;
      // The cone's width there, as shares of the picture.
      const wide = 2 * source.radius * (far === Infinity ? t : t / far);
      const du = wide * across;
      const dv = wide * down;
      if (u < -du || v < -dv || u > 1 + du || v > 1 + dv) continue;
      picture.sample(u, v, du, 0, 0, dv, texel);
      open *= 1 - opacity * Math.min(1, Math.max(0, texel[3]!));
    }
    return open;
  }
}
