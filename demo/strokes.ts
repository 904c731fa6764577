import { random } from './noise';

/** A premultiplied RGBA layer, four floats a pixel. */
export interface Layer {
  width: number;
  height: number;
  data: Float32Array;
}

export const newLayer = (width: number, height: number): Layer => ({ width, height, data: new Float32Array(4 * width * height) });

/** Lays coverage of a colour over a pixel. */
export function lay(layer: Layer, x: number, y: number, coverage: number, r: number, g: number, b: number): void {
  if (x < 0 || y < 0 || x >= layer.width || y >= layer.height || coverage <= 0) return;
  const i = 4 * (y * layer.width + x);
  const keep = 1 - coverage;
  const d = layer.data;
  d[i] = d[i]! * keep + r * coverage;
  d[i + 1] = d[i + 1]! * keep + g * coverage;
  d[i + 2] = d[i + 2]! * keep + b * coverage;
  d[i + 3] = d[i + 3]! * keep + coverage;
}

/** A line of a width that may be under a pixel: coverage by area along its normal. */
export function stroke(
  layer: Layer,
  x0: number,
  y0: number,
  x1: number,
  y1: number,
  w0: number,
  w1: number,
  colour: readonly number[],
): void {
  const reach = Math.max(w0, w1) / 2 + 1;
  const [dx, dy] = [x1 - x0, y1 - y0];
  const len2 = dx * dx + dy * dy || 1e-9;
  for (let y = Math.floor(Math.min(y0, y1) - reach); y <= Math.max(y0, y1) + reach; y++) {
    for (let x = Math.floor(Math.min(x0, x1) - reach); x <= Math.max(x0, x1) + reach; x++) {
      const [px, py] = [x + 0.5 - x0, y + 0.5 - y0];
      const along = (px * dx + py * dy) / len2;
      const t = Math.min(1, Math.max(0, along));
      // Ends are cut square, so that the pieces of a curve do not pile up.
      if (Math.abs(along - t) * Math.sqrt(len2) > 0.25) continue;
      const w = w0 + (w1 - w0) * t;
      const [ex, ey] = [px - t * dx, py - t * dy];
      const d = Math.sqrt(ex * ex + ey * ey);
      lay(layer, x, y, Math.max(0, Math.min(1, Math.min(w, (w + 1) / 2 - d))), colour[0]!, colour[1]!, colour[2]!);
    }
  }
}

export interface Hair {
  /** Root, bend and tip relative to the body. */
  points: readonly [number, number, number, number, number, number];
  width: number;
  colour: readonly [number, number, number];
}

/** Beard, brows' and nape's strays, and the wool's fuzz: some thousands of fibres, most of them thinner than a pixel. */
export function growHair(seed: number): Hair[] {
  const next = random(seed);
  const hairs: Hair[] = [];
  const add = (x: number, y: number, dx: number, dy: number, length: number, curl: number, width: number, colour: Hair['colour']): void => {
    const n = Math.hypot(dx, dy) || 1;
    const [ux, uy] = [dx / n, dy / n];
    const [mx, my] = [x + ux * length * 0.5 - uy * curl, y + uy * length * 0.5 + ux * curl];
    hairs.push({
      points: [x, y, mx, my, x + ux * length - uy * curl * 0.4, y + uy * length + ux * curl * 0.4 + length * 0.12],
      width,
      colour,
    });
  };
  for (let i = 0; i < 3400; i++) {
    const a = Math.PI * (-0.12 + 1.24 * next());
    const r = i < 1200 ? 0.2 + 0.6 * next() : 0.72 + 0.33 * next();
    const [x, y] = [Math.cos(a) * 49 * r, 214 + Math.sin(a) * 68 * r];
    const grey = 0.2 + 0.42 * next();
    add(
      x,
      y,
      Math.cos(a) + 0.5 * (next() - 0.5),
      Math.sin(a) * 0.9 + 0.35 + 0.5 * (next() - 0.5),
      9 + 26 * next() ** 2,
      14 * (next() - 0.5),
      0.35 + 0.55 * next(),
      [grey, grey * 0.94, grey * 0.86],
    );
  }
  for (let i = 0; i < 700; i++) {
    const side = next() < 0.5 ? -1 : 1;
    const grey = 0.18 + 0.3 * next();
    add(
      side * (50 + 7 * next()),
      150 + 46 * next(),
      side * (0.5 + next()),
      0.4 + next(),
      8 + 18 * next(),
      10 * (next() - 0.5),
      0.3 + 0.5 * next(),
      [grey, grey * 0.95, grey * 0.88],
    );
  }
  for (let i = 0; i < 1500; i++) {
    const a = Math.PI * (1 + next());
    const k = 0.02 + 0.1 * next();
    add(
      Math.cos(a) * 59,
      124 + Math.sin(a) * 50,
      Math.cos(a) + 1.6 * (next() - 0.5),
      Math.sin(a) + 1.6 * (next() - 0.5),
      2 + 5 * next(),
      4 * (next() - 0.5),
      0.25 + 0.3 * next(),
      [k, k * 1.3, k * 1.9],
    );
  }
  return hairs;
}

/** Draws hairs into a layer, their tips trailing behind by `lag` pixels. */
export function drawHair(layer: Layer, hairs: readonly Hair[], dx: number, dy: number, lag: number, scale: number): void {
  const pieces = 6;
  for (const h of hairs) {
    const [ax, ay, bx, by, cx, cy] = h.points;
    let px = 0;
    let py = 0;
    for (let i = 0; i <= pieces; i++) {
      const t = i / pieces;
      const r = 1 - t;
      const x = (r * r * ax + 2 * r * t * bx + t * t * cx + lag * t * t + dx) * scale;
      const y = (r * r * ay + 2 * r * t * by + t * t * cy + dy) * scale;
      const w = (s: number): number => h.width * scale * (1 - 0.6 * s);
      if (i > 0) stroke(layer, px, py, x, y, w(t - 1 / pieces), w(t), h.colour);
      px = x;
      py = y;
    }
  }
}
