import { fractal, hash, normal, valueNoise } from './noise';
import { directionAt } from './wide-lens';

/**
 * SG050, the slipway: a dolly through crates and bollards on wet concrete, filmed by the wide lens. World in metres: x right, y down,
 * z into the picture, the ground at y = 0. Nothing moves but a chain of buoys.
 */
export const SLIPWAY_FRAMES = { first: 1, last: 96 };

export interface SlipwayOptions {
  width: number;
  height: number;
  noise: number;
  seed: number;
}
export const SG050: SlipwayOptions = { width: 960, height: 540, noise: 0.012, seed: 5050 };

type V = readonly [number, number, number];
const add = (a: V, b: V, k = 1): V => [a[0] + k * b[0], a[1] + k * b[1], a[2] + k * b[2]];
const dot = (a: V, b: V): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (a: V): V => add([0, 0, 0], a, 1 / Math.hypot(...a));

/** World to camera, row by row: turn | shift. */
export type Pose = readonly [number, number, number, number, number, number, number, number, number, number, number, number];

/** Where the dolly stands at a time in frames, and how it looks. */
export function slipwayCamera(t: number): { eye: V; pose: Pose } {
  const s = (t - 1) / 95;
  const along = s * s * (3 - 2 * s) * 0.35 + s * 0.65;
  const eye: V = [
    -1.5 + 2.7 * along,
    -1.55 - 0.1 * Math.sin(2.2 * s) + 0.006 * Math.sin(0.9 * t),
    -0.4 + 2.1 * along + 0.008 * Math.sin(0.7 * t),
  ];
  const yaw = 0.13 - 0.24 * along + 0.002 * Math.sin(0.5 * t);
  const pitch = -0.1 + 0.02 * along + 0.002 * Math.sin(0.63 * t + 1);
  const roll = 0.004 * Math.sin(0.21 * t);
  const [cy, sy, cp, sp, cr, sr] = [Math.cos(yaw), Math.sin(yaw), Math.cos(pitch), Math.sin(pitch), Math.cos(roll), Math.sin(roll)];
  // Axes of the camera in the world: turned about the upright, then tipped, then rolled.
  const right: V = [cy, 0, -sy];
  const forward: V = [sy * cp, -sp, cy * cp];
  const down: V = [sy * sp, cp, cy * sp];
  const x = add([cr * right[0], cr * right[1], cr * right[2]], down, sr);
  const y = add([cr * down[0], cr * down[1], cr * down[2]], right, -sr);
  const rows = [x, y, forward];
  return { eye, pose: rows.flatMap((r) => [...r, -dot(r, eye)]) as unknown as Pose };
}

interface Box {
  at: V;
  /** Half of its sides. */
  half: V;
  yaw: number;
  seed: number;
}
/** Crates stand on the ground or on one another; the last ones are the rails, a beam and its posts. */
const crate = (x: number, z: number, w: number, h: number, d: number, yaw: number, seed: number, on = 0): Box => ({
  at: [x, -on - h / 2, z],
  half: [w / 2, h / 2, d / 2],
  yaw,
  seed,
});
export const CRATES: readonly Box[] = [
  crate(-1.55, 4.3, 1.1, 0.9, 0.9, 0.32, 1),
  crate(-1.5, 4.35, 0.75, 0.6, 0.7, 0.05, 2, 0.9),
  crate(0.75, 5.6, 1.3, 1.05, 1, -0.22, 3),
  crate(2.55, 4.5, 0.95, 0.8, 0.8, -0.5, 4),
  crate(-3.4, 6.6, 1.4, 1.2, 1.1, 0.2, 5),
  crate(0.1, 8.6, 1.2, 1, 1, 0.4, 6),
  crate(3.9, 7.4, 1.4, 1.3, 1.2, -0.12, 7),
  crate(-0.5, 3.3, 0.5, 0.36, 0.42, -0.35, 8),
];
const STEEL: readonly Box[] = [
  { at: [-0.62, -0.05, 6], half: [0.05, 0.05, 9], yaw: 0, seed: 20 },
  { at: [1.62, -0.05, 6], half: [0.05, 0.05, 9], yaw: 0, seed: 21 },
  { at: [0.4, -3.55, 9.7], half: [4.4, 0.11, 0.11], yaw: 0, seed: 22 },
  { at: [-3.9, -1.8, 9.7], half: [0.1, 1.8, 0.1], yaw: 0, seed: 23 },
  { at: [4.7, -1.8, 9.7], half: [0.1, 1.8, 0.1], yaw: 0, seed: 24 },
];
const BOXES = [...CRATES, ...STEEL];
/** Upright cylinders with a round head: foot, radius, height. */
export const BOLLARDS = [
  { x: -0.15, z: 5.1, r: 0.16, h: 0.62 },
  { x: 1.75, z: 3.45, r: 0.14, h: 0.55 },
  { x: -2.6, z: 5.2, r: 0.17, h: 0.66 },
  { x: 2.2, z: 7.6, r: 0.18, h: 0.7 },
] as const;
const WALL = 11.5;
const SUN = unit([-0.55, -0.72, -0.42]);

/** Of balls from this one on. */
const TEXTURED = 44;

/** The buoys of the chain that swings from the beam: the one thing that moves. */
export const buoysAt = (t: number): { at: V; r: number }[] =>
  [0, 1, 2, 3].map((k) => {
    const swing = 0.28 * Math.sin(0.13 * t + 0.5) * (0.5 + 0.2 * k);
    return { at: [1.5 + swing * (1 + k), -2.75 + 0.52 * k - 0.08 * Math.abs(swing), 7.1 + 0.2 * swing], r: 0.2 - 0.012 * k };
  });

interface Hit {
  t: number;
  normal: V;
  /** Of what, and where on it, for its look. */
  kind: 'ground' | 'wall' | 'crate' | 'steel' | 'bollard' | 'buoy';
  u: number;
  v: number;
  seed: number;
}

function hitBox(o: V, d: V, b: Box, best: number): Hit | null {
  const [c, s] = [Math.cos(b.yaw), Math.sin(b.yaw)];
  const [px, pz] = [o[0] - b.at[0], o[2] - b.at[2]];
  const p: V = [c * px - s * pz, o[1] - b.at[1], s * px + c * pz];
  const q: V = [c * d[0] - s * d[2], d[1], s * d[0] + c * d[2]];
  let [near, far, axis] = [-Infinity, Infinity, 0];
  for (let k = 0; k < 3; k++) {
    const inv = 1 / q[k]!;
    let [t0, t1] = [(-b.half[k]! - p[k]!) * inv, (b.half[k]! - p[k]!) * inv];
    if (t0 > t1) [t0, t1] = [t1, t0];
    if (t0 > near) [near, axis] = [t0, k];
    far = Math.min(far, t1);
    if (near > far) return null;
  }
  if (near < 1e-4 || near >= best) return null;
  const at = [0, 1, 2].map((k) => p[k]! + near * q[k]!) as unknown as V;
  const side = Math.sign(at[axis]!);
  const normal: V = axis === 1 ? [0, side, 0] : axis === 0 ? [c * side, 0, -s * side] : [s * side, 0, c * side];
  const u = axis === 0 ? at[2] : at[0];
  const v = axis === 1 ? at[2] : at[1];
  return { t: near, normal, kind: b.seed >= 20 ? 'steel' : 'crate', u: u + 10 * axis + 5 * side, v: v + b.half[1]!, seed: b.seed };
}

function hitBall(o: V, d: V, at: V, r: number, best: number): { t: number; normal: V } | null {
  const q = add(o, at, -1);
  const [b, c] = [dot(q, d), dot(q, q) - r * r];
  const disc = b * b - c;
  if (disc <= 0) return null;
  const t = -b - Math.sqrt(disc);
  return t < 1e-4 || t >= best ? null : { t, normal: unit(add(q, d, t)) };
}

function nearest(o: V, d: V, buoys: ReturnType<typeof buoysAt>, shadow: boolean): Hit | null {
  let hit: Hit | null = null;
  let best = Infinity;
  const take = (h: Hit | null): void => {
    if (h && h.t < best) [hit, best] = [h, h.t];
  };
  for (const b of BOXES) {
    take(hitBox(o, d, b, best));
    if (shadow && hit) return hit;
  }
  for (const { x, z, r, h } of BOLLARDS) {
    const [px, pz] = [o[0] - x, o[2] - z];
    const [a, b, c] = [d[0] * d[0] + d[2] * d[2], px * d[0] + pz * d[2], px * px + pz * pz - r * r];
    const disc = b * b - a * c;
    if (disc > 0) {
      const t = (-b - Math.sqrt(disc)) / a;
      const y = o[1] + t * d[1];
      if (t > 1e-4 && t < best && y < 0 && y > -h) {
        const normal: V = [(px + t * d[0]) / r, 0, (pz + t * d[2]) / r];
        take({ t, normal, kind: 'bollard', u: Math.atan2(normal[2], normal[0]) * r, v: y, seed: 30 });
      }
    }
    const ball = hitBall(o, d, [x, -h, z], r * 1.25, best);
    if (ball) take({ ...ball, kind: 'bollard', u: ball.normal[0], v: ball.normal[1] - 2, seed: 31 });
    if (shadow && hit) return hit;
  }
  buoys.forEach(({ at, r }, k) => {
    const ball = hitBall(o, d, at, r, best);
    if (ball) take({ ...ball, kind: 'buoy', u: ball.normal[0], v: ball.normal[1], seed: 40 + k });
  });
  if (shadow) return hit;
  if (d[1] > 1e-6) {
    const t = -o[1] / d[1];
    if (t < best) take({ t, normal: [0, -1, 0], kind: 'ground', u: o[0] + t * d[0], v: o[2] + t * d[2], seed: 50 });
  }
  const t = (WALL - o[2]) / d[2];
  const y = o[1] + t * d[1];
  if (d[2] > 1e-6 && t < best && y > -2.6 && y <= 0) take({ t, normal: [0, 0, -1], kind: 'wall', u: o[0] + t * d[0], v: y, seed: 60 });
  return hit;
}

/** The colour of a surface, and how much it mirrors. */
function surface({ kind, u, v, seed }: Hit): { r: number; g: number; b: number; mirror: number } {
  if (kind === 'ground') {
    const slab = Math.min(Math.abs(u - 2.4 * Math.round(u / 2.4)), Math.abs(v - 1.8 * Math.round(v / 1.8))) < 0.018 ? 0.45 : 1;
    const rough = fractal(u * 5, v * 5, 51);
    const stones = valueNoise(u * 34, v * 34, 52) > 0.78 ? 1.5 : 1;
    const wet = Math.min(1, Math.max(0, 3.2 * (fractal(u * 0.7, v * 0.7, 53) - 0.52)));
    const s = slab * stones * (0.12 + 0.3 * rough) * (1 - 0.55 * wet);
    const weed = Math.max(0, fractal(u * 1.3, v * 1.3, 54) - 0.56) * 2;
    return { r: s * (1 - 0.5 * weed), g: s * 0.98, b: s * (0.94 - 0.4 * weed), mirror: 0.02 + 0.3 * wet };
  }
  if (kind === 'wall') {
    const row = Math.floor(v / 0.36);
    const shift = 0.5 * (row & 1) + 0.3 * hash(row, 3, 61);
    const stone = Math.floor(u / 0.82 + shift);
    const [fx, fy] = [(u / 0.82 + shift - stone) * 0.82, v - row * 0.36];
    const joint = Math.min(fx, 0.82 - fx, fy, 0.36 - fy) < 0.022 ? 0.4 : 1;
    const s = joint * (0.14 + 0.2 * hash(stone, row, 62)) * (0.55 + 0.9 * fractal(u * 6, v * 6, 63));
    const moss = v > -0.6 ? 0.5 * (v + 0.6) : 0;
    return { r: s * (1 - moss), g: s * 0.97, b: s * (0.9 - moss), mirror: 0 };
  }
  if (kind === 'crate') {
    const plank = Math.floor(v / 0.15);
    const fy = v - plank * 0.15;
    const gap = fy < 0.01 ? 0.15 : 1;
    const grain = fractal(u * 3 + 17 * plank, v * 50, 70 + seed) * 0.8 + 0.3 * fractal(u * 24, v * 90, 90 + seed);
    const nail = Math.hypot(u - 0.2 * Math.round(u / 0.2), fy - 0.075) < 0.009 ? 0.3 : 1;
    const stencil =
      hash(Math.floor(u / 0.045), Math.floor(v / 0.06), 110 + seed) > 0.55 && Math.abs(fy - 0.075) < 0.04 && plank === 2 ? 0.35 : 1;
    const s = gap * nail * stencil * (0.3 + 0.8 * grain) * (0.75 + 0.5 * hash(plank, seed, 120));
    const tint = hash(seed, 5, 121);
    return { r: 0.34 * s, g: (0.2 + 0.06 * tint) * s, b: (0.1 + 0.1 * tint) * s, mirror: 0 };
  }
  if (kind === 'steel') {
    const s = 0.4 + 0.7 * fractal(u * 7, v * 7, 130 + seed);
    return { r: 0.2 * s, g: 0.1 * s, b: 0.06 * s, mirror: 0.04 };
  }
  if (kind === 'bollard') {
    const s = 0.35 + 0.8 * fractal(u * 11, v * 11, 140);
    const band = v > -0.42 && v < -0.3 ? 3.6 : 1;
    return { r: 0.1 * s * band, g: 0.1 * s * band, b: 0.11 * s * band, mirror: 0.03 };
  }
  // Of clips for the camera: balls that a tracker finds detail on.
  if (seed >= TEXTURED) {
    const s = 0.25 + 0.9 * fractal(u * 9 + seed, v * 9, 180) + (valueNoise(u * 22 + seed, v * 22, 181) > 0.7 ? 0.5 : 0);
    return { r: 0.5 * s, g: 0.42 * s, b: 0.34 * s, mirror: 0 };
  }
  return (seed & 1) === 0 ? { r: 0.6, g: 0.17, b: 0.05, mirror: 0.04 } : { r: 0.55, g: 0.5, b: 0.4, mirror: 0.04 };
}

function sky(d: V): readonly [number, number, number] {
  const up = Math.max(0, -d[1]);
  const cloud = fractal(d[0] * 3 + 9, d[1] * 9, 150);
  const k = 0.55 + 0.5 * cloud;
  return [k * (0.62 - 0.35 * up), k * (0.66 - 0.25 * up), k * (0.74 - 0.1 * up)];
}

/** Light that comes along a ray, with balls in the place of the buoys. */
export const slipwayLight = (eye: V, direction: V, balls: readonly { at: V; r: number }[]): readonly [number, number, number] =>
  look(eye, unit(direction), [...balls], 0);

/** Light that comes along a ray. */
function look(o: V, d: V, buoys: ReturnType<typeof buoysAt>, depth: number): readonly [number, number, number] {
  const hit = nearest(o, d, buoys, false);
  if (!hit) return sky(d);
  const p = add(o, d, hit.t - 1e-4);
  const s = surface(hit);
  const facing = Math.max(0, dot(hit.normal, SUN));
  const sun = facing > 0 && !nearest(add(p, hit.normal, 1e-3), SUN, buoys, true) ? 1.5 * facing : 0;
  // What stands on the ground takes sky from it: darker near the foot.
  const foot = hit.kind === 'ground' ? 1 : Math.min(1, 0.55 - 0.6 * p[1]);
  const above = (0.3 + 0.22 * -hit.normal[1]) * foot;
  let out: readonly [number, number, number] = [s.r * (1.08 * sun + above), s.g * (sun + 1.02 * above), s.b * (0.88 * sun + 1.12 * above)];
  if (s.mirror > 0.05 && depth === 0) {
    const n: V =
      hit.kind === 'ground'
        ? unit(add(hit.normal, [fractal(hit.u * 6, hit.v * 6, 160) - 0.5, 0, fractal(hit.u * 6, hit.v * 6, 170) - 0.5], 0.05))
        : hit.normal;
    const r = add(d, n, -2 * dot(d, n));
    const seen = look(p, r[1] < 0 ? r : ([r[0], -r[1], r[2]] as V), buoys, 1);
    const m = s.mirror * (0.25 + 0.75 * (1 - Math.abs(dot(d, n))) ** 2);
    out = [out[0] + m * seen[0], out[1] + m * seen[1], out[2] + m * seen[2]];
  }
  const far = 1 - Math.exp(-hit.t * 0.018);
  return [out[0] + far * (0.42 - out[0]) * 0.5, out[1] + far * (0.46 - out[1]) * 0.5, out[2] + far * (0.52 - out[2]) * 0.5];
}

/** Places in a pixel, one a moment of the shutter. */
const SPOTS = [
  [0.19, 0.31],
  [0.81, 0.56],
  [0.44, 0.88],
  [0.62, 0.12],
  [0.06, 0.75],
  [0.94, 0.94],
] as const;
const directions = new Map<number, Float64Array>();

/** The direction of each sample of each pixel; the lens stays the same. */
function directionsFor(width: number, height: number): Float64Array {
  let known = directions.get(width);
  if (known) return known;
  known = new Float64Array(2 * SPOTS.length * width * height);
  const k = 960 / width;
  for (let i = 0; i < width * height; i++) {
    SPOTS.forEach(([sx, sy], s) =>
      known!.set(directionAt(((i % width) + sx) * k, (Math.floor(i / width) + sy) * k), 2 * (i * SPOTS.length + s)),
    );
  }
  directions.set(width, known);
  return known;
}

/** The plate: shutter of half a frame, vignette and noise. Scene-linear, three floats a pixel. */
export function renderSlipway(frame: number, { width, height, noise, seed }: SlipwayOptions): Float32Array {
  const rays = directionsFor(width, height);
  const moments = SPOTS.map((_, s) => {
    const time = frame + 0.5 * ((s + 0.5) / SPOTS.length - 0.5);
    return { ...slipwayCamera(time), buoys: buoysAt(time) };
  });
  const plate = new Float32Array(3 * width * height);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const sum = [0, 0, 0];
      moments.forEach(({ eye, pose: m, buoys }, s) => {
        const at = 2 * (i * SPOTS.length + s);
        const [u, v] = [rays[at]!, rays[at + 1]!];
        const d = unit([m[0] * u + m[4] * v + m[8], m[1] * u + m[5] * v + m[9], m[2] * u + m[6] * v + m[10]]);
        const light = look(eye, d, buoys, 0);
        for (let c = 0; c < 3; c++) sum[c]! += light[c]! / SPOTS.length;
      });
      const [dx, dy] = [(x + 0.5) / width - 0.5, (y + 0.5) / height - 0.5];
      const vignette = 1 - 0.55 * (dx * dx + dy * dy);
      for (let c = 0; c < 3; c++) {
        const light = sum[c]! * vignette;
        const grain = normal(hash(x + 977 * c, y, seed + frame), hash(x + 977 * c, y, seed + 30011 + frame));
        plate[3 * i + c] = Math.max(0, light + noise * grain * Math.sqrt(0.01 + Math.max(0, light)));
      }
    }
  }
  return plate;
}

/** What a ray meets first: for how far, its normal, and whether the sun is seen from there; null of the sky. `of` are the kinds that count. */
export function slipwayHit(
  eye: V,
  direction: V,
  of: readonly string[],
): { t: number; kind: string; normal: V; at: V; sunlit: boolean; shadowOf: string | null } | null {
  const d = unit(direction);
  const hit = nearest(eye, d, [], false);
  if (!hit || !of.includes(hit.kind)) return null;
  const at = add(eye, d, hit.t);
  const shade = nearest(add(add(eye, d, hit.t - 1e-4), hit.normal, 1e-3), SUN, [], true);
  return { t: hit.t, kind: hit.kind, normal: hit.normal, at, sunlit: !shade && dot(hit.normal, SUN) > 0, shadowOf: shade?.kind ?? null };
}

export const SLIPWAY_BOXES: readonly Box[] = BOXES;
export const SLIPWAY_SUN: V = SUN;
