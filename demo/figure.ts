import { fractal, valueNoise } from './noise';

/**
 * The keeper's body: signed distances joined smoothly, seen along z without perspective. Units are pixels of the 960×540
 * frame, z towards the camera.
 */
export interface Hit {
  colour: [number, number, number];
  normal: [number, number, number];
}

/** Math.hypot guards against overflow at ten times the cost; nothing here is that large. */
const norm2 = (a: number, b: number): number => Math.sqrt(a * a + b * b);
const norm3 = (a: number, b: number, c: number): number => Math.sqrt(a * a + b * b + c * c);

const enum Part {
  Coat,
  Skin,
  Wool,
  Beard,
  Sleeve,
}

const ellipsoid = (x: number, y: number, z: number, rx: number, ry: number, rz: number): number => {
  const k0 = norm3(x / rx, y / ry, z / rz);
  const k1 = norm3(x / (rx * rx), y / (ry * ry), z / (rz * rz));
  return k1 > 1e-9 ? (k0 * (k0 - 1)) / k1 : -Math.min(rx, ry, rz);
};

function capsule(x: number, y: number, z: number, a: readonly number[], b: readonly number[], ra: number, rb: number): number {
  const [dx, dy, dz] = [b[0]! - a[0]!, b[1]! - a[1]!, b[2]! - a[2]!];
  const t = Math.min(1, Math.max(0, ((x - a[0]!) * dx + (y - a[1]!) * dy + (z - a[2]!) * dz) / (dx * dx + dy * dy + dz * dz)));
  return norm3(x - a[0]! - t * dx, y - a[1]! - t * dy, z - a[2]! - t * dz) - (ra + (rb - ra) * t);
}

const smooth = (a: number, b: number, k: number): number => {
  const h = Math.max(k - Math.abs(a - b), 0) / k;
  return Math.min(a, b) - (h * h * k) / 4;
};

/** Where the body stands at a time in frames: a slow sway and breath. */
export interface Pose {
  x: number;
  y: number;
  hand: readonly [number, number, number];
}
export const poseAt = (time: number): Pose => {
  const x = 470 + 5 * Math.sin((2 * Math.PI * time) / 52);
  const y = 1.6 * Math.sin((2 * Math.PI * time) / 30);
  return { x, y, hand: [x + 176, 268 + y + 4 * Math.sin((2 * Math.PI * time) / 40), 62] };
};

let part: Part = Part.Coat;

function distance(X: number, Y: number, z: number, pose: Pose): number {
  const x = X - pose.x;
  const y = Y - pose.y;
  part = Part.Coat;
  let d = smooth(ellipsoid(x, y - 480, z, 108, 236, 66), capsule(x, y, z, [-72, 300, 0], [72, 300, 0], 36, 36), 40);
  d = smooth(d, capsule(x, y, z, [-86, 306, 0], [-112, 480, 20], 36, 28), 16);
  const hx = pose.hand[0] - pose.x;
  const hy = pose.hand[1] - pose.y;
  const sleeve = Math.min(
    capsule(x, y, z, [82, 306, 0], [128, 380, 40], 35, 27),
    capsule(x, y, z, [128, 380, 40], [hx - 5, hy + 22, 60], 27, 19),
  );
  if (sleeve < d) part = Part.Sleeve;
  d = smooth(d, sleeve, 12);
  const head = smooth(ellipsoid(x, y - 168, z - 10, 54, 66, 54), ellipsoid(x + 2, y - 180, z - 64, 11, 17, 15), 14);
  const hand = ellipsoid(x - hx, y - hy, z - 62, 17, 20, 16);
  const skin = Math.min(head, hand);
  if (skin < d) {
    d = skin;
    part = Part.Skin;
  }
  const beard = smooth(ellipsoid(x, y - 216, z - 20, 50, 46, 46), ellipsoid(x, y - 246, z - 22, 34, 38, 34), 20);
  if (beard < d) {
    d = beard;
    part = Part.Beard;
  }
  const dome = ellipsoid(x, y - 122, z - 4, 60, 50, 60);
  const roll = Math.abs(norm2(norm2(x / 1.02, z - 6) - 55, (y - 134) * 0.8)) - 13;
  const cap = smooth(Math.max(dome, y - 140), roll, 8);
  if (cap < d) {
    d = cap;
    part = Part.Wool;
  }
  return d;
}

type Colour = readonly [number, number, number];

/** Colours of the cloth of body and sleeve in even light. */
export interface Coat {
  body: Colour;
  sleeve: Colour;
}
const OILSKIN: Coat = { body: [0.115, 0.115, 0.09], sleeve: [0.13, 0.125, 0.095] };

/** What is seen at a point of the picture, or null where the ray passes. */
export function traceFigure(X: number, Y: number, pose: Pose, coat = OILSKIN): Hit | null {
  const x = X - pose.x;
  if (x < -170 || x > 215 || Y < 60) return null;
  let z = 130;
  for (let i = 0; i < 48; i++) {
    const d = distance(X, Y, z, pose);
    if (d < 0.06) return shade(X, Y, z, pose, part, coat);
    z -= d * 0.92;
    if (z < -110) return null;
  }
  return null;
}

function shade(X: number, Y: number, z: number, pose: Pose, what: Part, coat: Coat): Hit {
  const e = 0.4;
  const g = [
    distance(X + e, Y, z, pose) - distance(X - e, Y, z, pose),
    distance(X, Y + e, z, pose) - distance(X, Y - e, z, pose),
    distance(X, Y, z + e, pose) - distance(X, Y, z - e, pose),
  ];
  const length = Math.hypot(g[0]!, g[1]!, g[2]!) || 1;
  let [nx, ny, nz] = [g[0]! / length, g[1]! / length, g[2]! / length];
  const x = X - pose.x;
  const y = Y - pose.y;
  let base: [number, number, number];
  let gloss = 0;
  if (what === Part.Skin) {
    const mottle = 0.85 + 0.3 * fractal(x * 0.09, y * 0.09, 3);
    base = [0.42 * mottle, 0.23 * mottle, 0.15 * mottle];
    const eye = Math.min(Math.hypot((x + 20) / 1.5, y - 166), Math.hypot((x - 20) / 1.5, y - 166));
    if (z > 20 && eye < 5) base = [0.05, 0.04, 0.035];
    gloss = 0.12;
  } else if (what === Part.Wool) {
    const knit = 0.75 + 0.35 * Math.sin(x * 0.85) * Math.sin(y * 0.62 + 0.6 * Math.sin(x * 0.85)) + 0.25 * (valueNoise(x, y, 9) - 0.5);
    base = [0.055 * knit, 0.085 * knit, 0.135 * knit];
    nx += 0.25 * Math.cos(x * 0.85);
  } else if (what === Part.Beard) {
    const strand = 0.7 + 0.5 * valueNoise(x * 0.6 + 0.1 * y, y * 0.08, 21);
    base = [0.4 * strand, 0.37 * strand, 0.33 * strand];
  } else {
    const folds = fractal(x * 0.03 + 4, y * 0.012, 5);
    nx += 0.8 * (fractal(x * 0.04 + 4.4, y * 0.016, 5) - folds);
    const k = 0.75 + 0.5 * folds;
    base = (what === Part.Sleeve ? coat.sleeve : coat.body).map((v) => v * k) as [number, number, number];
    if (Math.abs(x - 6) < 2.2 && y > 290) base = [0.05, 0.05, 0.045];
    gloss = 0.25;
  }
  const n = Math.hypot(nx, ny, nz);
  [nx, ny, nz] = [nx / n, ny / n, nz / n];
  const key = Math.max(0, -0.55 * nx - 0.5 * ny + 0.67 * nz);
  const fill = Math.max(0, 0.8 * nx - 0.1 * ny + 0.5 * nz);
  const half = Math.max(0, -0.3 * nx - 0.27 * ny + 0.91 * nz) ** 24;
  const colour = base.map((b, i) => {
    const light = [1.75, 1.55, 1.3][i]! * key + [0.28, 0.33, 0.4][i]! * fill + 0.14;
    return b * light + gloss * half * 0.35;
  }) as [number, number, number];
  return { colour, normal: [nx, ny, nz] };
}
