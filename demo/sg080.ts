import { fractal, hash, normal, valueNoise } from './noise';
import type { Rgb } from './plate-scene';

/** SG080, the reflection: a harbour basin under a bright sky, water that ripples; a buoy is to be added, and what the water makes of it. */
export const BASIN_FRAMES = { first: 1, last: 24 };
export const [WIDTH, HEIGHT] = [960, 540] as const;
const HORIZON = 196;
/** Where the buoy stands: its middle, and its waterline. */
export const BUOY = { x: 566, water: 322, half: 62, top: 118 } as const;
/** Of what is mirrored this part is seen, over the water's own colour. */
export const MIRRORED: Rgb = [0.5, 0.56, 0.6];
export const DEEP: Rgb = [0.012, 0.022, 0.024];
/** Pixels that a slope of 1 pushes at full reach. */
export const PUSH = { x: 34, y: 60 } as const;
/** Softness of the lens, σ in px; part of the light that is scattered widely, and how widely. */
export const LENS = { sigma: 1, scattered: 0.05, wide: 15 } as const;
/** Where the near water starts to be out of focus, and the radius at the bottom, px. */
export const FOCUS = { from: 380, radius: 9 } as const;
/** What the element is other than the plate: its light is the true one times this, plus that. */
export const ELEMENT = { gain: [1.42, 1.1, 0.8], lift: [0.012, 0.016, 0.024] } as const;
const NOISE = 0.011;
const SEED = 8080;

interface Wave {
  kx: number;
  kz: number;
  speed: number;
  phase: number;
  height: number;
}
const WAVES: readonly Wave[] = Array.from({ length: 14 }, (_, i) => {
  const length = 0.35 * 1.45 ** (i / 1.6);
  const angle = 1.9 * (hash(i, 3, SEED) - 0.5);
  const k = (2 * Math.PI) / length;
  // Deep water: the speed goes with the square root of the length.
  return { kx: k * Math.sin(angle), kz: k * Math.cos(angle), speed: 0.9 * Math.sqrt(k), phase: 6.3 * hash(i, 4, SEED), height: length };
});

/** Slopes of the water along x and away from the camera at a place of the frame; −1 to 1, nearly always. */
export function slopesAt(x: number, y: number, time: number): [number, number] {
  const below = Math.max(2, y - HORIZON);
  // Metres on the water of a camera that looks out from 2.6 m.
  const z = (2.6 * 700) / below;
  const mx = ((x - 480) * z) / 700;
  // Waves that are smaller than a pixel are seen as nothing.
  const pixel = (z * z) / (2.6 * 700);
  let [sx, sz] = [0, 0];
  for (const w of WAVES) {
    const k = Math.hypot(w.kx, w.kz);
    const share = Math.exp(-((pixel * k * 0.4) ** 2));
    if (share < 1e-3) continue;
    const s = share * Math.cos(w.kx * mx + w.kz * z - (w.speed * time) / 24 + w.phase);
    sx += (w.kx / k) * s;
    sz += (w.kz / k) * s;
  }
  return [Math.max(-1, Math.min(1, sx / 4)), Math.max(-1, Math.min(1, sz / 4))];
}

/** How far pushes reach at a height of the frame below a waterline: nothing on it, all at the bottom. */
export const reachAt = (y: number, water: number): number => Math.max(0, Math.min(1, (y - water) / (HEIGHT - water)));

/** What stands over the water, by place; light and whether it is the sky. */
function shore(x: number, y: number): Rgb {
  const up = Math.max(0, Math.min(1, (HORIZON - y) / HORIZON));
  const cloud = fractal(x * 0.004, y * 0.012, 88);
  const base = 1.18 - 0.55 * up + 0.35 * (cloud - 0.5);
  const sun = 0.75 * Math.exp(-(((x - 690) / 230) ** 2) - ((y - 120) / 90) ** 2);
  const sky: Rgb = [base * 0.96 + 1.02 * sun, base * 0.97 + 0.92 * sun, base + 0.75 * sun];
  const hill = HORIZON - 16 - 22 * valueNoise(x * 0.006, 1, 81) - 5 * valueNoise(x * 0.03, 2, 82);
  if (y > HORIZON - 7 - 3 * hash(Math.floor(x / 23), 1, 83)) {
    const stone = 0.06 + 0.05 * fractal(x * 0.08, y * 0.3, 84);
    return [stone, stone * 0.97, stone * 0.9];
  }
  if (y > hill) {
    const far = 0.2 + 0.06 * fractal(x * 0.03, y * 0.05, 85);
    return [far * 0.82, far * 0.92, far];
  }
  return sky;
}

/** Coverage and light of the buoy at a place, light times coverage not taken; the sky behind it is at its right. */
function buoy(x: number, y: number): readonly [number, number, number, number] | null {
  const [dx, dy] = [x - BUOY.x, BUOY.water - y];
  if (dy < -6 || dy > BUOY.water - BUOY.top) return null;
  const half = dy < 46 ? BUOY.half - 3 * (dy / 46) : dy < 60 ? BUOY.half - 3 - (dy - 46) * 2.4 : Math.max(5, 25 - 0.115 * (dy - 60));
  const cage = dy >= 60 && dy < 158;
  const lamp = dy >= 172;
  const edge = lamp ? 13 : half;
  // Below it is rounded: seen from a little above.
  if (dy < 0 && (dx / BUOY.half) ** 2 + (dy / 6) ** 2 > 1) return null;
  if (Math.abs(dx) > edge) return null;
  if (cage && Math.abs(dx) < edge - 4.5 && Math.abs(((dy - 60) % 33) - 16) > 2.2) {
    // A lattice that one looks through.
    const brace = Math.abs(Math.abs(dx) - (edge - 4) * Math.abs((((dy - 60) % 66) - 33) / 33));
    if (brace > 2.2) return null;
  }
  const turn = dx / edge;
  const lit =
    0.22 +
    0.8 * Math.max(0, 0.35 + 0.8 * turn) * Math.sqrt(Math.max(0, 1 - turn * turn)) +
    0.15 * Math.max(0, 1 - Math.abs(turn + 0.5) * 2);
  const rust = fractal(x * 0.06, y * 0.09, 86);
  let c: Rgb = dy < 11 ? [0.05, 0.052, 0.035] : [0.46, 0.075 + 0.05 * rust, 0.04];
  if (dy > 24 && dy < 38) c = [0.72, 0.7, 0.62];
  if (lamp) c = dy < 178 || dy > 198 ? [0.09, 0.09, 0.1] : [0.85, 0.8, 0.55];
  if (cage) c = [0.3 + 0.1 * rust, 0.06, 0.035];
  const worn = rust > 0.62 ? 0.55 : 1;
  return [c[0] * lit * worn, c[1] * lit * worn, c[2] * lit * worn, 1];
}

/** Light at a place of the scene, with or without the buoy, before the lens. */
function lightAt(x: number, y: number, time: number, withBuoy: boolean): Rgb {
  const own = withBuoy ? buoy(x, y) : null;
  if (own) return [own[0], own[1], own[2]];
  if (y < HORIZON) return shore(x, y);
  const [sx, sz] = slopesAt(x, y, time);
  const e = 0.55 * reachAt(y, HORIZON);
  const seen = shore(x + PUSH.x * e * sx, Math.min(HORIZON - 1, 2 * HORIZON - y - PUSH.y * e * sz));
  const mirrored = withBuoy ? mirroredBuoy(x, y, sx, sz) : null;
  const from = mirrored ?? seen;
  return [0, 1, 2].map((c) => DEEP[c]! + MIRRORED[c]! * from[c]!) as Rgb;
}

function mirroredBuoy(x: number, y: number, sx: number, sz: number): Rgb | null {
  if (y < BUOY.water - 2) return null;
  const r = reachAt(y, BUOY.water);
  const found = buoy(x + PUSH.x * r * sx, 2 * BUOY.water - (y + PUSH.y * r * sz));
  return found && [found[0], found[1], found[2]];
}

/** Samples within a pixel, each way. */
const FINE = 3;

/** The scene as the camera sees it, without noise: three floats a pixel. */
export function basinLight(frame: number, withBuoy: boolean, width: number = WIDTH, height: number = HEIGHT): Float32Array {
  const sharp = new Float32Array(3 * width * height);
  const k = WIDTH / width;
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i += 3) {
      for (let s = 0; s < FINE * FINE; s++) {
        const c = lightAt((x + ((s % FINE) + 0.5) / FINE) * k, (y + (Math.floor(s / FINE) + 0.5) / FINE) * k, frame, withBuoy);
        for (let j = 0; j < 3; j++) sharp[i + j]! += c[j]! / (FINE * FINE);
      }
    }
  }
  const focused = nearBlur(sharp, width, height, k);
  const own = gaussian(focused, width, height, LENS.sigma / k);
  const wide = gaussian(focused, width, height, LENS.wide / k);
  return own.map((v, i) => (1 - LENS.scattered) * v + LENS.scattered * wide[i]!);
}

/** The near water out of focus: each pixel the mean over a disc, larger towards the camera. */
function nearBlur(light: Float32Array, w: number, h: number, k: number): Float32Array {
  const out = Float32Array.from(light);
  for (let y = 0; y < h; y++) {
    const radius = (FOCUS.radius * Math.max(0, ((y + 0.5) * k - FOCUS.from) / (HEIGHT - FOCUS.from))) / k;
    if (radius < 0.4) continue;
    const reach = Math.ceil(radius);
    const disc: [number, number, number][] = [];
    for (let v = -reach; v <= reach; v++) {
      for (let u = -reach; u <= reach; u++) {
        const share = Math.max(0, Math.min(1, radius + 0.5 - Math.hypot(u, v)));
        if (share > 0) disc.push([u, v, share]);
      }
    }
    const sum = disc.reduce((s, d) => s + d[2], 0);
    for (let x = 0; x < w; x++) {
      const to: Rgb = [0, 0, 0];
      for (const [u, v, share] of disc) {
        const at = 3 * (Math.min(h - 1, y + v) * w + Math.max(0, Math.min(w - 1, x + u)));
        for (let c = 0; c < 3; c++) to[c]! += share * light[at + c]!;
      }
      out.set(
        to.map((c) => c / sum),
        3 * (y * w + x),
      );
    }
  }
  return out;
}

function gaussian(light: Float32Array, w: number, h: number, sigma: number): Float32Array {
  const reach = Math.ceil(3 * sigma);
  const taps = Array.from({ length: 2 * reach + 1 }, (_, i) => Math.exp(-((i - reach) ** 2) / (2 * sigma * sigma)));
  const sum = taps.reduce((a, b) => a + b, 0);
  const pass = (from: Float32Array, dx: number, dy: number): Float32Array => {
    const to = new Float32Array(from.length);
    for (let y = 0, i = 0; y < h; y++) {
      for (let x = 0; x < w; x++, i += 3) {
        for (let t = -reach; t <= reach; t++) {
          const at = 3 * (Math.max(0, Math.min(h - 1, y + t * dy)) * w + Math.max(0, Math.min(w - 1, x + t * dx)));
          const k = taps[t + reach]! / sum;
          for (let c = 0; c < 3; c++) to[i + c]! += k * from[at + c]!;
        }
      }
    }
    return to;
  };
  return pass(pass(light, 1, 0), 0, 1);
}

/** The plate: the basin without the buoy, with the sensor's noise. */
export function renderBasin(frame: number): Float32Array {
  return withNoise(basinLight(frame, false), frame);
}

export const withNoise = (light: Float32Array, frame: number): Float32Array =>
  light.map((v, i) => {
    const g = normal(hash(i, frame, SEED), hash(i, frame, SEED + 1));
    return Math.max(0, v + NOISE * g * Math.sqrt(0.02 + Math.max(0, v)));
  });

/** The buoy as it comes from another camera: sharp, without grain, its light other than that of the plate; R, G, B premultiplied, A. */
export function buoyPlanes(): Record<'R' | 'G' | 'B' | 'A', Float32Array> {
  const n = WIDTH * HEIGHT;
  const planes = { R: new Float32Array(n), G: new Float32Array(n), B: new Float32Array(n), A: new Float32Array(n) };
  const fine = 5;
  for (let y = BUOY.top - 2; y < BUOY.water + 10; y++) {
    for (let x = BUOY.x - BUOY.half - 4; x < BUOY.x + BUOY.half + 4; x++) {
      const i = y * WIDTH + x;
      for (let s = 0; s < fine * fine; s++) {
        const c = buoy(x + ((s % fine) + 0.5) / fine, y + (Math.floor(s / fine) + 0.5) / fine);
        if (!c) continue;
        (['R', 'G', 'B'] as const).forEach(
          (name, k) => (planes[name][i]! += (c[k]! * ELEMENT.gain[k]! + ELEMENT.lift[k]!) / (fine * fine)),
        );
        planes.A[i]! += 1 / (fine * fine);
      }
    }
  }
  return planes;
}

/** Ripples as a picture that pushes, half the size: slopes along x in red, away in green, flat at one half. 0..255, three a pixel. */
export function renderRipples(frame: number): Uint8Array {
  const [w, h] = [WIDTH / 2, HEIGHT / 2];
  const out = new Uint8Array(3 * w * h);
  for (let y = 0, i = 0; y < h; y++) {
    for (let x = 0; x < w; x++, i += 3) {
      const [sx, sz] = 2 * y + 1 > HORIZON ? slopesAt(2 * x + 1, 2 * y + 1, frame) : [0, 0];
      out.set(
        [sx, sz, 0].map((v) => Math.round(127.5 + 127.5 * v)),
        i,
      );
    }
  }
  return out;
}
