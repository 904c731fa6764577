import type { Vec } from './diver';
import { fractal, hash, normal, valueNoise } from './noise';

/** The wet quay at night: a wall with lamps, cobbles that mirror them, light mist. Also what the diver's brass reflects. */
const LAMPS = [
  { x: 170, y: 150, colour: [1, 0.62, 0.26], power: 1 },
  { x: 455, y: 166, colour: [1, 0.68, 0.34], power: 0.7 },
  { x: 745, y: 148, colour: [1, 0.58, 0.22], power: 1.15 },
] as const;
const GROUND = 318;

/** Scene-linear light from a direction of the world, blurred by a roughness of 0..1. */
export function environment([x, y, z]: Vec, roughness: number): Vec {
  const up = Math.min(1, Math.max(0, 0.5 + y / (1 + 1.4 * roughness)));
  const c: Vec = [0.012 + 0.035 * up, 0.016 + 0.05 * up, 0.024 + 0.085 * up];
  const spot = (dx: number, dy: number, dz: number, size: number, r: number, g: number, b: number): void => {
    const cos = x * dx + y * dy + z * dz;
    const spread = size + 0.35 * roughness;
    const e = Math.exp((cos - 1) / (0.5 * spread * spread)) * (size / spread) ** 1.2;
    c[0] += r * e;
    c[1] += g * e;
    c[2] += b * e;
  };
  spot(-0.51, 0.7, 0.5, 0.28, 0.9, 1.05, 1.3);
  spot(0.68, 0.34, -0.65, 0.2, 3.2, 1.9, 0.8);
  spot(-0.8, 0.12, 0.58, 0.09, 4.2, 2.6, 1.1);
  spot(0.55, 0.1, 0.83, 0.06, 2.8, 1.7, 0.7);
  const horizon = Math.exp(-(((y + 0.04) / (0.05 + 0.3 * roughness)) ** 2));
  return [c[0] + 0.05 * horizon, c[1] + 0.04 * horizon, c[2] + 0.03 * horizon];
}

/** A frame of the plate, interleaved RGB, scene-linear, with sensor noise; `scale` is pixels a pixel of 960×540. */
export function renderQuay(frame: number, width: number, height: number): Float32Array {
  const out = new Float32Array(3 * width * height);
  const k = 960 / width;
  const flicker = 1 + 0.02 * Math.sin(frame * 1.7);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const c = quayAt((x + 0.5) * k, (y + 0.5) * k, frame);
      for (let j = 0; j < 3; j++) {
        const light = c[j]! * flicker;
        const noise = normal(hash(x + 977 * j, y, 30011 + frame), hash(x + 977 * j, y, 60013 + frame));
        out[3 * (y * width + x) + j] = Math.max(0, light + 0.011 * noise * Math.sqrt(0.01 + light));
      }
    }
  }
  return out;
}

function quayAt(x: number, y: number, frame: number): Vec {
  if (y < GROUND) return wallAt(x, y);
  const near = (y - GROUND) / (540 - GROUND);
  const row = 34 * Math.log(1 + 5 * near);
  const wide = (x - 480) / (0.25 + near);
  const [cx, cy] = [wide * 0.045 + (Math.floor(row) % 2) * 0.5, row];
  const [fx, fy] = [cx - Math.floor(cx) - 0.5, cy - Math.floor(cy) - 0.5];
  const stone = Math.max(0, 1 - 1.9 * (fx * fx + fy * fy));
  const shade = 0.45 + 0.7 * hash(Math.floor(cx), Math.floor(cy), 33);
  // Water stands in the low places and trembles.
  const wet = Math.min(1, Math.max(0, 2.6 * fractal(x * 0.006, y * 0.02, 34) - 0.75));
  const wave = (1 - 0.6 * wet) * 9 * (fy + fx) + 3 * (valueNoise(x * 0.03, y * 0.12 + 0.25 * frame, 35) - 0.5);
  const mirrored = wallAt(x + wave, GROUND - (y - GROUND) * 0.82 - 2 + wave);
  const shine = (0.16 + 0.62 * wet) * (0.4 + 0.6 * (1 - near));
  const base = 0.011 * shade * (0.25 + stone) * (1 - 0.55 * wet) * (1 - 0.5 * near);
  const c: Vec = [base * 1.05 + shine * mirrored[0], base + shine * mirrored[1], base * 1.02 + shine * mirrored[2]];
  for (const l of LAMPS) {
    const pool = (0.075 * l.power) / (1 + ((x - l.x) / (60 + 150 * near)) ** 2 + (6 * near) ** 2);
    for (let j = 0; j < 3; j++) c[j]! += pool * l.colour[j]! * stone * shade * 0.6;
  }
  return c;
}

function wallAt(x: number, y: number): Vec {
  const sky = Math.max(0, (100 - y) / 100);
  const ridge = 92 + 14 * valueNoise(x * 0.012, 0, 36) - (x > 610 && x < 700 ? 26 : 0);
  if (y < ridge) return [0.006 + 0.004 * sky, 0.009 + 0.007 * sky, 0.017 + 0.015 * sky];
  const course = Math.floor(y / 17);
  const block = Math.floor((x + (course % 2) * 21) / 42);
  const [bx, by] = [((x + (course % 2) * 21) / 42) % 1, (y / 17) % 1];
  const joint = Math.min(1, 7 * Math.min(bx, 1 - bx, by, 1 - by) + 0.35);
  const grain = 0.7 + 0.6 * fractal(x * 0.08, y * 0.08, 37);
  const stone = 0.055 * joint * grain * (0.65 + 0.6 * hash(block, course, 38));
  const c: Vec = [0.004, 0.005, 0.008];
  for (const l of LAMPS) {
    const d2 = ((x - l.x) / 88) ** 2 + ((y - l.y) / 74) ** 2;
    const falls = (1.6 * l.power) / (0.35 + d2);
    const glow = 0.05 * l.power * Math.exp(-d2 * 0.9) + 5.5 * l.power * Math.exp(-(((x - l.x) / 7) ** 2 + ((y - l.y) / 9) ** 2));
    for (let j = 0; j < 3; j++) c[j]! += l.colour[j]! * (stone * falls + glow);
  }
  // A doorway, and mooring rings' dark.
  const door = x > 560 && x < 628 && y > 214 ? 0.12 : 1;
  return [c[0] * door, c[1] * door, c[2] * door];
}
