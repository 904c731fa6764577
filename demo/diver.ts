import { fractal, valueNoise } from './noise';

/**
 * The brass diver: signed distances in metres, y up, feet on y = 0, turning slowly about the vertical. Object space is the
 * diver's own; world space has the camera at z > 0.
 */
export const OBJECTS = ['helmet', 'glass', 'suit', 'corselet', 'boots', 'lamp', 'hose', 'bollard'] as const;
/** Places in OBJECTS. */
export const LAMP = 5;
export const BOLLARD = 7;
export type ObjectName = (typeof OBJECTS)[number];

export type Vec = [number, number, number];
export const add = (a: Vec, b: Vec, k = 1): Vec => [a[0] + k * b[0], a[1] + k * b[1], a[2] + k * b[2]];
export const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const scaled = (a: Vec, k: number): Vec => [a[0] * k, a[1] * k, a[2] * k];
export const unit = (a: Vec): Vec => scaled(a, 1 / Math.max(1e-9, Math.sqrt(dot(a, a))));

const len2 = (x: number, y: number): number => Math.sqrt(x * x + y * y);
const len3 = (x: number, y: number, z: number): number => Math.sqrt(x * x + y * y + z * z);
const smooth = (a: number, b: number, k: number): number => {
  const h = Math.max(k - Math.abs(a - b), 0) / k;
  return Math.min(a, b) - (h * h * k) / 4;
};
const capsule = (x: number, y: number, z: number, a: Vec, b: Vec, ra: number, rb: number): number => {
  const [dx, dy, dz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const t = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy + (z - a[2]) * dz) / (dx * dx + dy * dy + dz * dz)));
  return len3(x - a[0] - t * dx, y - a[1] - t * dy, z - a[2] - t * dz) - (ra + (rb - ra) * t);
};
const ellipsoid = (x: number, y: number, z: number, rx: number, ry: number, rz: number): number => {
  const k0 = len3(x / rx, y / ry, z / rz);
  const k1 = len3(x / (rx * rx), y / (ry * ry), z / (rz * rz));
  return k1 > 1e-9 ? (k0 * (k0 - 1)) / k1 : -Math.min(rx, ry, rz);
};

/** Radians that the diver has turned, and where the lamp hangs in object space, at a time in frames. */
export const turnAt = (time: number): number => 0.32 * Math.sin((2 * Math.PI * time) / 60) - 0.25;
export const lampAt = (time: number): Vec => [0.47 + 0.03 * Math.sin((2 * Math.PI * time) / 24), 0.74, 0.3];

export const toWorld = ([x, y, z]: Vec, turn: number): Vec => {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  return [c * x + s * z, y, c * z - s * x];
};
export const toObject = (p: Vec, turn: number): Vec => toWorld(p, -turn);

/** What moves, at a time in frames: the diver's turn; the lamp and the bollard, which stands on the quay, in object space. */
export interface Pose {
  turn: number;
  lamp: Vec;
  bollard: Vec;
}
const BOLLARD_FOOT: Vec = [-0.56, 0, 0.42];
export const poseAt = (time: number): Pose => {
  const turn = turnAt(time);
  return { turn, lamp: lampAt(time), bollard: toObject(BOLLARD_FOOT, turn) };
};

/** Portholes look forward and to both sides. */
const PORTS: readonly Vec[] = [unit([0, -0.06, 1]), unit([0.94, 0, 0.34]), unit([-0.94, 0, 0.34])];
const HEAD: Vec = [0, 1.72, 0];
const HEAD_RADIUS = 0.205;
const PORT_RADIUS = 0.088;

/** Distance to the helmet's ring around a porthole, and how far inside the ring a point lies (negative is inside). */
function port(x: number, y: number, z: number, d: Vec): { ring: number; disc: number } {
  const along = x * d[0] + y * d[1] + z * d[2];
  const across = Math.sqrt(Math.max(0, x * x + y * y + z * z - along * along));
  const ring = len2(across - PORT_RADIUS, along - HEAD_RADIUS * 0.96) - 0.021;
  return { ring, disc: Math.max(across - PORT_RADIUS, Math.abs(along - HEAD_RADIUS * 0.93) - 0.012) };
}

/** Which object the last distance belonged to. */
export let nearest = 0;

/** The distance from a point of object space to the diver. */
export function distance(x: number, y: number, z: number, { lamp, bollard }: Pose): number {
  let d = suit(x, y, z, lamp);
  nearest = 2;
  const take = (other: number, object: number): void => {
    if (other < d) {
      d = other;
      nearest = object;
    }
  };
  if (y > 1.25) {
    const [hx, hy, hz] = [x - HEAD[0], y - HEAD[1], z - HEAD[2]];
    take(Math.min(len3(hx, hy, hz) - HEAD_RADIUS, capsule(hx, hy, hz, [0, 0.19, 0], [0, 0.235, 0], 0.035, 0.02)), 0);
    for (const p of PORTS) {
      const { ring, disc } = port(hx, hy, hz, p);
      take(ring, 0);
      take(disc, 1);
    }
    // Collar, plate over the shoulders, and its rim.
    take(len2(len2(x, z) - 0.165, y - 1.53) - 0.032, 3);
    take(Math.max(ellipsoid(x, y - 1.38, z, 0.285, 0.17, 0.205), 1.33 - y), 3);
    take(len2(ellipsoid(x, 0, z, 0.288, 1, 0.208), y - 1.345) - 0.016, 3);
  }
  if (y > 0.8 && y < 1.15) {
    // A belt of weights.
    const around = ellipsoid(x, 0, z, 0.262, 1, 0.222);
    take(Math.max(Math.abs(around) - 0.012, Math.abs(y - 0.93) - 0.035), 4);
    const sector = Math.abs(((Math.atan2(x, z) / 0.5236 + 6.5) % 1) - 0.5);
    take(Math.max(Math.abs(around - 0.015) - 0.022, Math.abs(y - 0.93) - 0.055, (sector - 0.36) * 0.13), 3);
  }
  if (y < 0.45) {
    for (const s of [-1, 1]) {
      const bx = x - s * 0.155;
      take(Math.max(ellipsoid(bx, y - 0.06, z - 0.07, 0.1, 0.14, 0.21), -y, y - 0.17), 4);
      take(Math.max(ellipsoid(bx, y - 0.02, z - 0.07, 0.112, 0.03, 0.225), -y), 3);
      take(Math.max(len2(bx, z + 0.01) - 0.1, Math.abs(y - 0.2) - 0.07) - 0.012, 4);
      take(len2(len2(bx, z + 0.01) - 0.108, y - 0.21) - 0.011, 3);
    }
  }
  const [lx, ly, lz] = [x - lamp[0], y - lamp[1], z - lamp[2]];
  const off = len3(lx, ly, lz);
  // What is far away is only kept from being stepped over.
  if (off > 0.6) take(off - 0.4, LAMP);
  else {
    take(Math.min(capsule(lx, ly, lz, [0, -0.05, 0], [0, 0.05, 0], 0.062, 0.062)), 5);
    take(len2(len2(lx, ly - 0.13) - 0.05, lz) - 0.008, 3);
  }
  if (y > 1.55) {
    // The air hose, thin, over the shoulder and away.
    take(capsule(x, y, z, [0, 1.86, -0.16], [0.2, 1.93, -0.2], 0.014, 0.013), 6);
    take(capsule(x, y, z, [0.2, 1.93, -0.2], [0.42, 1.86, -0.16], 0.013, 0.012), 6);
    take(capsule(x, y, z, [0.42, 1.86, -0.16], [0.56, 1.6, -0.1], 0.012, 0.011), 6);
  }
  const across = len2(x - bollard[0], z - bollard[2]);
  if (across > 0.4) take(across - 0.2, BOLLARD);
  else {
    take(Math.max(across - 0.1 - 0.03 * smoothRise(0.52, 0.6, y), y - 0.64, -y) * 0.9, BOLLARD);
    // Two turns of a thin line around it.
    take(len2(across - 0.106, y - 0.42 - 0.006 * Math.sin(5 * x + 9 * z)) - 0.007, 6);
    take(len2(across - 0.106, y - 0.45) - 0.007, 6);
  }
  return d;
}

const smoothRise = (from: number, to: number, v: number): number => {
  const t = Math.min(1, Math.max(0, (v - from) / (to - from)));
  return t * t * (3 - 2 * t);
};

function suit(x: number, y: number, z: number, lamp: Vec): number {
  const folds = 0.008 * Math.sin(34 * y + 5 * Math.sin(7 * x) + 3 * z) * Math.min(1, Math.max(0, (1.3 - y) * 4));
  let d = smooth(ellipsoid(x, y - 1.1, z, 0.25, 0.36, 0.19), ellipsoid(x, y - 0.82, z, 0.225, 0.2, 0.185), 0.12);
  for (const s of [-1, 1]) {
    d = smooth(d, capsule(x, y, z, [s * 0.115, 0.8, 0], [s * 0.15, 0.22, 0], 0.125, 0.085), 0.07);
  }
  d = smooth(d, capsule(x, y, z, [-0.29, 1.3, 0], [-0.42, 0.98, 0.03], 0.1, 0.085), 0.06);
  d = smooth(d, capsule(x, y, z, [-0.42, 0.98, 0.03], [-0.38, 0.7, 0.1], 0.085, 0.062), 0.03);
  d = smooth(d, capsule(x, y, z, [0.29, 1.3, 0], [0.44, 1.04, 0.04], 0.1, 0.085), 0.06);
  d = smooth(d, capsule(x, y, z, [0.44, 1.04, 0.04], [lamp[0], lamp[1] + 0.19, lamp[2]], 0.085, 0.058), 0.03);
  return d + folds;
}

/** How a surface takes light. */
export interface Material {
  colour: Vec;
  /** Reflectance at normal incidence, and of the mirror pass. */
  specular: Vec;
  roughness: number;
  emission: Vec;
}

const BRASS: Vec = [0.86, 0.56, 0.24];

/** The material at a point of object space; of the bollard, of the world. */
export function materialAt(object: number, [x, y, z]: Vec): Material {
  const none: Vec = [0, 0, 0];
  const tarnish = fractal(9 * x + 5 * z, 9 * y, 71);
  switch (OBJECTS[object]!) {
    case 'helmet':
    case 'corselet': {
      const dull = Math.min(1, Math.max(0, (tarnish - 0.42) * 3.2));
      const green: Vec = [0.09, 0.17, 0.12];
      return {
        colour: add(scaled([0.2, 0.11, 0.04], 1 - dull), green, dull),
        specular: scaled(BRASS, 1 - 0.75 * dull),
        roughness: 0.16 + 0.3 * dull,
        emission: none,
      };
    }
    case 'glass':
      return { colour: [0.01, 0.013, 0.014], specular: [0.06, 0.06, 0.06], roughness: 0.05, emission: none };
    case 'boots':
      return { colour: [0.075, 0.07, 0.068], specular: [0.09, 0.085, 0.08], roughness: 0.35, emission: none };
    case 'lamp': {
      const bars = Math.abs(Math.sin(3 * Math.atan2(x, z)));
      return bars < 0.18
        ? { colour: [0.16, 0.09, 0.03], specular: scaled(BRASS, 0.6), roughness: 0.3, emission: none }
        : { colour: [0.3, 0.26, 0.2], specular: [0.04, 0.04, 0.04], roughness: 0.2, emission: [7.5, 4.6, 1.7] };
    }
    case 'hose':
      return { colour: [0.16, 0.06, 0.035], specular: [0.05, 0.05, 0.05], roughness: 0.3, emission: none };
    case 'bollard': {
      const chipped = fractal(22 * Math.atan2(x + 0.56, z - 0.42), 14 * y, 74);
      return { colour: scaled([0.1, 0.105, 0.11], 0.5 + chipped), specular: [0.03, 0.03, 0.03], roughness: 0.5, emission: none };
    }
    case 'suit': {
      const weave = 0.85 + 0.15 * valueNoise(260 * Math.atan2(x, z + 0.0001), 260 * y, 72);
      const stain = 0.7 + 0.5 * fractal(6 * x + 3 * z, 4 * y, 73);
      return { colour: scaled([0.2, 0.15, 0.085], weave * stain), specular: [0.025, 0.025, 0.025], roughness: 0.6, emission: none };
    }
  }
}

/** Texture coordinates of an object's surface in 0..1: around the vertical, and upward. */
export const uvAt = ([x, y, z]: Vec): [number, number] => [Math.atan2(x, z) / (2 * Math.PI) + 0.5, Math.min(1, Math.max(0, y / 2))];
