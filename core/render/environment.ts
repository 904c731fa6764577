import type { Texture } from './texture';

/** Sides of the maps, by roughness from 0 to 1 in even steps. */
const SIDES = [128, 64, 32, 32, 16];
const LOOKS = 48;
/** Columns of the picture that is asked for each look. */
const TAU = 2 * Math.PI;

/**
 * Light from all around: a latitude–longitude picture, or the same from everywhere. Rough and matt surfaces see it by spherical harmonics (Ramamoorthi & Hanrahan 2001), mirroring ones by
 * pictures blurred for their roughness (split sum, Karis 2013), kept as octahedral maps (Engelhardt & Dachsbacher 2008).
 */
export class Environment {
  /** Nine terms, R, G, B each, already folded with a matt surface's cosine. */
  private readonly terms = new Float64Array(27);
  private readonly maps: Float32Array[] = [];
  /** The same from everywhere. */
  private readonly even: readonly [number, number, number] | null;

  constructor(
    picture: Texture | null,
    /** Turned about the upright, degrees. */
    turn: number,
    gain: readonly [number, number, number],
  ) {
    this.even = picture ? null : gain;
    if (!picture) return;
    const look = lookInto(picture, turn, gain);
    const base = octahedral(SIDES[0]!, (x, y, z, to) => look(x, y, z, TAU / (4 * SIDES[0]!), to));
    this.maps.push(base);
    this.gather(base, SIDES[0]!);
    for (let k = 1; k < SIDES.length; k++) {
      const alpha = (k / (SIDES.length - 1)) ** 2;
      const directions = lobe(alpha);
      const to = new Float64Array(4);
      this.maps.push(
        octahedral(SIDES[k]!, (x, y, z, out) => {
          const [tx, ty, tz, bx, by, bz] = frameOf(x, y, z);
          let total = 0;
          out[0] = out[1] = out[2] = 0;
          for (const [dx, dy, dz] of directions) {
            look(dx * tx + dy * bx + dz * x, dx * ty + dy * by + dz * y, dx * tz + dy * bz + dz * z, 0.15 + 0.5 * alpha, to);
            for (let c = 0; c < 3; c++) out[c] = out[c]! + dz * to[c]!;
            total += dz;
          }
          for (let c = 0; c < 3; c++) out[c] = out[c]! / total;
        }),
      );
    }
  }

  private gather(map: Float32Array, side: number): void {
    let total = 0;
    const sums = new Float64Array(27);
    for (let j = 0; j < side; j++) {
      for (let i = 0; i < side; i++) {
        const [x, y, z] = directionOf((i + 0.5) / side, (j + 0.5) / side);
        // The share of the sphere that a cell of the octahedron has.
        const l = Math.abs(x) + Math.abs(y) + Math.abs(z);
        const weight = l * l * l;
        total += weight;
        harmonics(x, y, z).forEach((h, k) => {
          for (let c = 0; c < 3; c++) sums[3 * k + c] = sums[3 * k + c]! + weight * h * map[3 * (j * side + i) + c]!;
        });
      }
    }
    // Cosine-weighted, over π: 1, 2/3, 1/4 by order.
    for (let k = 0; k < 9; k++) {
      const by = k === 0 ? 1 : k < 4 ? 2 / 3 : 0.25;
      for (let c = 0; c < 3; c++) this.terms[3 * k + c] = (by * sums[3 * k + c]!) / total;
    }
  }

  /** Light on a matt white surface with a normal. Into `to`. */
  diffuse(x: number, y: number, z: number, to: Float64Array): void {
    const t = this.terms;
    if (this.even) {
      to[0] = this.even[0];
      to[1] = this.even[1];
      to[2] = this.even[2];
      return;
    }
    const a = 1.7320508075688772;
    const b = 3.872983346207417;
    const c = 1.118033988749895;
    const h4 = b * x * y;
    const h5 = b * y * z;
    const h6 = c * (3 * z * z - 1);
    const h7 = b * x * z;
    const h8 = 0.5 * b * (x * x - y * y);
    for (let k = 0; k < 3; k++)
      to[k] = Math.max(
        0,
        t[k]! +
          a * (y * t[3 + k]! + z * t[6 + k]! + x * t[9 + k]!) +
          h4 * t[12 + k]! +
          h5 * t[15 + k]! +
          h6 * t[18 + k]! +
          h7 * t[21 + k]! +
          h8 * t[24 + k]!,
      );
  }

  /** Light from around a direction, as a surface of a roughness mirrors it. Into `to`. */
  mirrored(x: number, y: number, z: number, rough: number, to: Float64Array): void {
    if (this.even) {
      to[0] = this.even[0];
      to[1] = this.even[1];
      to[2] = this.even[2];
      return;
    }
    const at = Math.min(1, Math.max(0, rough)) * (SIDES.length - 1);
    const k = Math.min(SIDES.length - 2, Math.floor(at));
    to[0] = to[1] = to[2] = 0;
    this.tap(k, x, y, z, 1 - (at - k), to);
    if (at > k) this.tap(k + 1, x, y, z, at - k, to);
  }

  private tap(k: number, x: number, y: number, z: number, weight: number, to: Float64Array): void {
    const side = SIDES[k]!;
    const map = this.maps[k]!;
    const l = 1 / (Math.abs(x) + Math.abs(y) + Math.abs(z));
    let [u, v] = [x * l, z * l];
    if (y < 0) [u, v] = [(1 - Math.abs(v)) * (u < 0 ? -1 : 1), (1 - Math.abs(u)) * (v < 0 ? -1 : 1)];
    const px = (u * 0.5 + 0.5) * side - 0.5;
    const py = (v * 0.5 + 0.5) * side - 0.5;
    const x0 = Math.floor(px);
    const y0 = Math.floor(py);
    for (let j = 0; j < 2; j++)
      for (let i = 0; i < 2; i++) {
        const w = weight * (i ? px - x0 : 1 - px + x0) * (j ? py - y0 : 1 - py + y0);
        const at = 3 * (Math.min(side - 1, Math.max(0, y0 + j)) * side + Math.min(side - 1, Math.max(0, x0 + i)));
        to[0] = to[0]! + w * map[at]!;
        to[1] = to[1]! + w * map[at + 1]!;
        to[2] = to[2]! + w * map[at + 2]!;
      }
  }
}

type Look = (x: number, y: number, z: number, spread: number, to: Float64Array) => void;

/** The picture in a direction, over a cone of some radians. */
function lookInto(picture: Texture, turn: number, gain: readonly [number, number, number]): Look {
  const shift = turn / 360;
  return (x, y, z, spread, to) => {
    const round = Math.atan2(x, -z) / TAU + 0.5;
    const polar = Math.acos(Math.min(1, Math.max(-1, y))) / Math.PI;
    const wide = Math.min(0.5, spread / TAU / Math.max(0.1, Math.sqrt(Math.max(0, 1 - y * y))));
    picture.sample(round - shift, polar, wide, 0, 0, spread / Math.PI, to);
    for (let c = 0; c < 3; c++) to[c] = to[c]! * gain[c]!;
  };
}

function octahedral(side: number, fill: (x: number, y: number, z: number, to: Float64Array) => void): Float32Array {
  const map = new Float32Array(3 * side * side);
  const to = new Float64Array(4);
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) {
      const [x, y, z] = directionOf((i + 0.5) / side, (j + 0.5) / side);
      fill(x, y, z, to);
      map.set([to[0]!, to[1]!, to[2]!], 3 * (j * side + i));
    }
  return map;
}

function directionOf(s: number, t: number): [number, number, number] {
  let [u, v] = [2 * s - 1, 2 * t - 1];
  const y = 1 - Math.abs(u) - Math.abs(v);
  if (y < 0) [u, v] = [(1 - Math.abs(v)) * (u < 0 ? -1 : 1), (1 - Math.abs(u)) * (v < 0 ? -1 : 1)];
  const k = 1 / Math.sqrt(u * u + v * v + y * y);
  return [u * k, y * k, v * k];
}

/** Nine real harmonics, the first 1. */
const harmonics = (x: number, y: number, z: number): number[] => {
  const [a, b, c] = [1.7320508075688772, 3.872983346207417, 1.118033988749895];
  return [1, a * y, a * z, a * x, b * x * y, b * y * z, c * (3 * z * z - 1), b * x * z, 0.5 * b * (x * x - y * y)];
};

/** Directions that a surface of a roughness mirrors, seen and mirrored along its normal: by the distribution of its normals (GGX, Walter et al. 2007). */
function lobe(alpha: number): [number, number, number][] {
  const a2 = alpha * alpha;
  return Array.from({ length: LOOKS }, (_, i) => {
    const e = (i + 0.5) / LOOKS;
    const cos2 = (1 - e) / (1 + (a2 - 1) * e);
    const [c, s] = [Math.sqrt(cos2), Math.sqrt(Math.max(0, 1 - cos2))];
    const a = i * 2.399963229728653;
    // Mirrored about that normal.
    return [2 * c * s * Math.cos(a), 2 * c * s * Math.sin(a), 2 * cos2 - 1] as [number, number, number];
  }).filter((d) => d[2] > 0);
}

/** Two directions across a third (Duff et al. 2017). */
function frameOf(x: number, y: number, z: number): readonly [number, number, number, number, number, number] {
  const sign = z < 0 ? -1 : 1;
  const a = -1 / (sign + z);
  const b = x * y * a;
  return [1 + sign * x * x * a, sign * b, -sign * x, b, sign + y * y * a, -y];
}
