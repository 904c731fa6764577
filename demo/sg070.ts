import { fractal, hash, normal } from './noise';
import { directionAt, filmedAt } from './wide-lens';

/** SG070, the lens chart: a board filmed by the lens of the slipway in three tilts, noisy, with soft and dark corners, once with glare. */
export const CHART_FRAMES = { first: 1, last: 3 };

export interface ChartOptions {
  width: number;
  height: number;
  pattern: 'checker' | 'grid';
  /** Standard deviation at white. */
  noise: number;
  /** Radius of the blur in the middle, and what the corners have more, px at 960×540. */
  blur: number;
  corners: number;
  /** How much farther away than in the film the board stands: 1.5 shows all of it. */
  away: number;
  /** Share of the board behind round stickers. */
  covered: number;
  /** Looks across a pixel, and down it. */
  looks: number;
  seed: number;
}
export const SG070: ChartOptions = {
  width: 960,
  height: 540,
  pattern: 'checker',
  noise: 0.02,
  blur: 0.7,
  corners: 1.1,
  away: 1,
  covered: 0,
  looks: 5,
  seed: 7070,
};

/** Squares across and down; crossings are one less. The board reaches beyond the frame at places. */
export const SQUARES = { across: 16, down: 10 };

/** Board to camera: a turn (row by row) and a shift in squares. */
interface Tilt {
  turn: readonly number[];
  shift: readonly [number, number, number];
}

function tilted(rx: number, ry: number, rz: number, shift: readonly [number, number, number]): Tilt {
  const [a, b, c] = [Math.cos(rx), Math.cos(ry), Math.cos(rz)];
  const [d, e, f] = [Math.sin(rx), Math.sin(ry), Math.sin(rz)];
  return { turn: [b * c, d * e * c - a * f, a * e * c + d * f, b * f, d * e * f + a * c, a * e * f - d * c, -e, d * b, a * b], shift };
}

export function tiltOf(frame: number, away: number): Tilt {
  const tilt = [
    tilted(0.06, -0.05, 0.02, [0, 0, 8.6]),
    tilted(0.16, 0.5, -0.03, [0.5, -0.2, 8.4]),
    tilted(-0.46, -0.2, 0.06, [-0.3, 0.35, 8.5]),
  ][(frame - 1) % 3]!;
  const [x, y, z] = tilt.shift;
  return { turn: tilt.turn, shift: [x, y, z * away] };
}

/** Where a position of the board, in squares from its middle, is on the frame of 960×540. */
export function boardAt(frame: number, x: number, y: number, away = 1): [number, number] {
  const { turn: m, shift: s } = tiltOf(frame, away);
  const w = m[6]! * x + m[7]! * y + s[2];
  return filmedAt((m[0]! * x + m[1]! * y + s[0]) / w, (m[3]! * x + m[4]! * y + s[1]) / w);
}

/** The crossings that the frame shows, px: column and row from the board's top left, and whether a sticker or the glare hides it. */
export function chartTruth(frame: number, o: ChartOptions): { column: number; row: number; x: number; y: number; hidden: boolean }[] {
  const out: { column: number; row: number; x: number; y: number; hidden: boolean }[] = [];
  const k = o.width / 960;
  for (let row = 1; row < SQUARES.down; row++) {
    for (let column = 1; column < SQUARES.across; column++) {
      const [bx, by] = [column - SQUARES.across / 2, row - SQUARES.down / 2];
      const [x, y] = boardAt(frame, bx, by, o.away).map((v) => v * k) as [number, number];
      if (x < 0 || y < 0 || x > o.width || y > o.height) continue;
      out.push({ column, row, x, y, hidden: stickerAt(bx, by, o, 0.32) || glareAt(frame, bx, by) > 0.55 });
    }
  }
  return out;
}

/** A lamp that the second tilt mirrors: in its middle nothing of the board is seen. */
const glareAt = (frame: number, x: number, y: number): number =>
  frame % 3 === 2 ? 0.9 * Math.exp(-((x - 2.6) ** 2 + (y + 1.4) ** 2) / 2.2) : 0;

/** Stickers of one square's radius, so many that they hide the share asked for. */
function stickerAt(x: number, y: number, o: ChartOptions, beyond: number): boolean {
  if (o.covered === 0) return false;
  const count = Math.round((-Math.log(1 - o.covered) * SQUARES.across * SQUARES.down) / Math.PI);
  for (let k = 0; k < count; k++) {
    const sx = (hash(k, 1, o.seed) - 0.5) * SQUARES.across;
    const sy = (hash(k, 2, o.seed) - 0.5) * SQUARES.down;
    if ((x - sx) ** 2 + (y - sy) ** 2 < (1 + beyond) ** 2) return true;
  }
  return false;
}

/** Light of the board or of what lies behind it. */
function paint(x: number, y: number, o: ChartOptions): number {
  const [w, h] = [SQUARES.across / 2, SQUARES.down / 2];
  const out = Math.max(Math.abs(x) - w, Math.abs(y) - h);
  if (out > 0.7) return 0.1 + 0.08 * fractal(x * 0.6, y * 0.6, 71);
  if (stickerAt(x, y, o, 0)) return 0.3 + 0.2 * fractal(x * 3, y * 3, 73);
  const paper = 0.72 + 0.03 * fractal(x * 0.8, y * 0.8, 72);
  if (o.pattern === 'grid') {
    const line = Math.min(Math.abs(x - Math.round(x)), Math.abs(y - Math.round(y)));
    return out <= 0.03 && line < 0.035 ? 0.04 : paper;
  }
  return out <= 0 && ((Math.floor(x + w) + Math.floor(y + h)) & 1) === 0 ? 0.035 : paper;
}

/** The chart as filmed. Scene-linear, three floats a pixel. */
export function renderChart(frame: number, o: ChartOptions): Float32Array {
  const { width, height, looks } = o;
  const { turn: m, shift: s } = tiltOf(frame, o.away);
  const k = 960 / width;
  const sharp = new Float32Array(width * height);
  const normalZ = m[2]! * s[0] + m[5]! * s[1] + m[8]! * s[2];
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      let sum = 0;
      for (let q = 0; q < looks * looks; q++) {
        const [dx, dy] = directionAt((x + ((q % looks) + 0.5) / looks) * k, (y + (Math.floor(q / looks) + 0.5) / looks) * k);
        const t = normalZ / (m[2]! * dx + m[5]! * dy + m[8]!);
        const [px, py, pz] = [t * dx - s[0], t * dy - s[1], t - s[2]];
        const [bx, by] = [m[0]! * px + m[3]! * py + m[6]! * pz, m[1]! * px + m[4]! * py + m[7]! * pz];
        // The fall of the light over the board.
        sum += paint(bx, by, o) * (1 + 0.035 * bx - 0.02 * by) + glareAt(frame, bx, by);
      }
      sharp[i] = sum / (looks * looks);
    }
  }
  const soft = blurred(sharp, width, height, (r2) => (o.blur + o.corners * r2 * r2) / k);
  const out = new Float32Array(3 * width * height);
  for (let i = 0; i < width * height; i++) {
    const [x, y] = [i % width, Math.floor(i / width)];
    const [dx, dy] = [(x + 0.5) / width - 0.5, (y + 0.5) / height - 0.5];
    const light = soft[i]! * (1 - 0.75 * (dx * dx + dy * dy));
    for (let c = 0; c < 3; c++) {
      const grain = normal(hash(x + 977 * c, y, o.seed + frame), hash(x + 977 * c, y, o.seed + 30011 + frame));
      out[3 * i + c] = Math.max(0, light * [1, 0.98, 0.92][c]! + o.noise * grain * Math.sqrt(0.02 + light));
    }
  }
  return out;
}

/** A Gaussian whose sigma depends on the squared distance from the middle, 1 at the corners. */
function blurred(from: Float32Array, w: number, h: number, sigmaAt: (r2: number) => number): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0, i = 0; y < h; y++) {
    for (let x = 0; x < w; x++, i++) {
      const r2 = 2 * (((x + 0.5) / w - 0.5) ** 2 + ((y + 0.5) / h - 0.5) ** 2);
      const sigma = sigmaAt(r2);
      const reach = Math.ceil(3 * sigma);
      let [sum, total] = [0, 0];
      for (let v = -reach; v <= reach; v++) {
        for (let u = -reach; u <= reach; u++) {
          const weight = Math.exp(-(u * u + v * v) / (2 * sigma * sigma));
          sum += weight * from[Math.min(h - 1, Math.max(0, y + v)) * w + Math.min(w - 1, Math.max(0, x + u))]!;
          total += weight;
        }
      }
      out[i] = sum / total;
    }
  }
  return out;
}
