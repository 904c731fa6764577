import { fractal, hash, valueNoise } from './noise';

/** The night harbour behind the keeper: sky, the light on its rock, quay lamps and their reflections. Scene-linear RGB. */
export function renderHarbour(width: number, height: number): Float32Array {
  const out = new Float32Array(3 * width * height);
  const k = 960 / width;
  for (let py = 0; py < height; py++) {
    for (let px = 0; px < width; px++) {
      const c = colourAt((px + 0.5) * k, (py + 0.5) * k);
      out.set(c, 3 * (py * width + px));
    }
  }
  return out;
}

const HORIZON = 330;
const LAMPS = [
  [92, 312, 1],
  [168, 316, 0.8],
  [236, 318, 0.6],
  [700, 314, 0.7],
  [768, 310, 1],
  [842, 313, 0.85],
  [905, 318, 0.5],
] as const;
const LIGHT = [258, 132] as const;

function colourAt(x: number, y: number): [number, number, number] {
  if (y < HORIZON) return sky(x, y);
  const depth = (y - HORIZON) / (540 - HORIZON);
  const wave = Math.sin(y * (0.9 - 0.6 * depth) + 6 * valueNoise(x * 0.02, y * 0.15, 3)) * (1 + 9 * depth);
  const mirrored = sky(x + wave, HORIZON - (y - HORIZON) * 0.9 - 1);
  const c: [number, number, number] = [mirrored[0] * 0.42 + 0.0015, mirrored[1] * 0.46 + 0.0026, mirrored[2] * 0.5 + 0.004];
  for (const [lx, , power] of LAMPS) {
    const spread = 2.2 + 16 * depth;
    const glint = 0.45 + 0.55 * Math.sin(y * 1.4 + 9 * valueNoise(x * 0.09, y * 0.4, 8));
    const e = power * Math.exp(-(((x - lx + wave * 0.6) / spread) ** 2)) * Math.exp(-depth * 2.6) * Math.max(0, glint);
    c[0] += 0.42 * e;
    c[1] += 0.27 * e;
    c[2] += 0.1 * e;
  }
  return c;
}

function sky(x: number, y: number): [number, number, number] {
  const up = Math.min(1, Math.max(0, 1 - y / HORIZON));
  const cloud = Math.max(0, fractal(x * 0.006, y * 0.014, 77) - 0.42);
  let c: [number, number, number] = [
    0.012 + 0.03 * (1 - up) ** 2 + 0.02 * cloud,
    0.02 + 0.042 * (1 - up) ** 2 + 0.028 * cloud,
    0.036 + 0.052 * (1 - up) ** 2 + 0.036 * cloud,
  ];
  const star = hash(Math.floor(x / 2), Math.floor(y / 2), 5);
  if (star > 0.9988 && cloud < 0.08) c = c.map((v) => v + (star - 0.9988) * 160 * up) as typeof c;
  const [dx, dy] = [x - LIGHT[0], y - LIGHT[1]];
  const angle = Math.abs(Math.atan2(dy, dx) + 0.06);
  const beam = dx > 0 ? Math.exp(-((angle / 0.055) ** 2)) * Math.exp(-dx / 420) * 0.3 : 0;
  const halo = 0.55 * Math.exp(-Math.hypot(dx, dy) / 16) + 4 * Math.exp(-((dx * dx + dy * dy) / 10));
  for (let i = 0; i < 3; i++) c[i]! += (beam + halo) * [1, 0.88, 0.62][i]!;
  const tower = y > LIGHT[1] + 8 && Math.abs(dx) < 7 + (y - LIGHT[1]) * 0.045;
  const gallery = Math.abs(dy) < 10 && Math.abs(dx) < 10 && (Math.abs(dx) > 8 || dy > 7 || dy < -8);
  const rock = y > 288 + 26 * Math.abs(dx / 120) ** 1.4 + 12 * (fractal(x * 0.05, 1, 12) - 0.5);
  const wall = y > 308 + 3 * (hash(Math.floor(x / 11), 2, 3) - 0.5) && (x < 330 || x > 655);
  const roofs = x > 660 && y > 268 + 26 * hash(Math.floor(x / 34), 9, 4) + 7 * Math.abs(((x / 34) % 1) - 0.5);
  if (gallery || rock || wall || roofs) c = [0.005, 0.0065, 0.009];
  if (tower) {
    const side = dx / (7 + (y - LIGHT[1]) * 0.045);
    const band = Math.floor((y - LIGHT[1]) / 34) % 2 ? 0.028 : 0.011;
    c = [band * (1 - 0.6 * side), band * (1 - 0.6 * side) * 1.02, band * (1 - 0.6 * side) * 1.15];
  }
  if (roofs && hash(Math.floor(x / 9), Math.floor(y / 8), 31) > 0.86 && (x / 9) % 1 < 0.5 && (y / 8) % 1 < 0.6) c = [0.16, 0.1, 0.035];
  for (const [lx, ly, power] of LAMPS) {
    const d = Math.hypot(x - lx, y - ly);
    const e = power * (3 * Math.exp(-((d / 1.7) ** 2)) + 0.16 * Math.exp(-d / 13));
    c[0] += e;
    c[1] += 0.66 * e;
    c[2] += 0.27 * e;
    if (Math.abs(x - lx) < 0.8 && y > ly && y < HORIZON) c = [0.004, 0.004, 0.005];
  }
  return c;
}
