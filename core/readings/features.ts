import type { Kernels, Plane } from '@/kernels';
import type { Gray } from './gray';
import type { Pyramid } from './pyramid';

export interface Feature {
  x: number;
  y: number;
  /** The smaller eigenvalue of its slopes' products: how well it holds against moving any way. */
  strength: number;
}

const REACH = 3;

/**
 * Corners that hold well (Shi and Tomasi 1994): at most `count`, each `apart` px from the others, where `inside` allows.
 */
export function goodFeatures(
  { width: w, height: h, data }: Gray,
  inside: (x: number, y: number) => boolean,
  count: number,
  apart: number,
  box = { x0: 0, y0: 0, x1: w, y1: h },
): Feature[] {
  const [x0, y0] = [Math.max(REACH + 1, Math.floor(box.x0)), Math.max(REACH + 1, Math.floor(box.y0))];
  const [x1, y1] = [Math.min(w - REACH - 1, Math.ceil(box.x1)), Math.min(h - REACH - 1, Math.ceil(box.y1))];
  const [bw, bh] = [x1 - x0 + 2 * REACH, y1 - y0 + 2 * REACH];
  if (x1 <= x0 || y1 <= y0) return [];
  const products = [new Float64Array((bw + 1) * (bh + 1)), new Float64Array((bw + 1) * (bh + 1)), new Float64Array((bw + 1) * (bh + 1))];
  const s = bw + 1;
  for (let y = 0; y < bh; y++) {
    const row = [0, 0, 0];
    for (let x = 0; x < bw; x++) {
      const at = (y0 - REACH + y) * w + x0 - REACH + x;
      const gx = (data[at + 1]! - data[at - 1]!) / 2;
      const gy = (data[at + w]! - data[at - w]!) / 2;
      row[0]! += gx * gx;
      row[1]! += gx * gy;
      row[2]! += gy * gy;
      for (let k = 0; k < 3; k++) products[k]![(y + 1) * s + x + 1] = products[k]![y * s + x + 1]! + row[k]!;
    }
  }
  const size = 2 * REACH + 1;
  const strength = new Float32Array((x1 - x0) * (y1 - y0));
  const wide = x1 - x0;
  for (let y = 0; y < y1 - y0; y++) {
    for (let x = 0; x < wide; x++) {
      const sum = (p: Float64Array): number =>
        p[(y + size) * s + x + size]! - p[y * s + x + size]! - p[(y + size) * s + x]! + p[y * s + x]!;
      const [a, b, c] = [sum(products[0]!), sum(products[1]!), sum(products[2]!)];
      strength[y * wide + x] = (a + c - Math.sqrt((a - c) ** 2 + 4 * b * b)) / 2;
    }
  }
  const list: Feature[] = [];
  for (let y = 1; y < y1 - y0 - 1; y++) {
    for (let x = 1; x < wide - 1; x++) {
      const at = y * wide + x;
      const v = strength[at]!;
      if (!(v > 1e-5)) continue;
      if (strength[at - 1]! > v || strength[at + 1]! > v || strength[at - wide]! > v || strength[at + wide]! > v) continue;
      if (inside(x0 + x + 0.5, y0 + y + 0.5)) list.push({ x: x0 + x + 0.5, y: y0 + y + 0.5, strength: v });
    }
  }
  list.sort((a, b) => b.strength - a.strength);
  // Spread out: a cell holds what was taken in it.
  const cells = new Map<string, Feature[]>();
  const taken: Feature[] = [];
  const least = (list[0]?.strength ?? 0) * 0.002;
  for (const f of list) {
    if (taken.length >= count || f.strength < least) break;
    const [cx, cy] = [Math.floor(f.x / apart), Math.floor(f.y / apart)];
    let free = true;
    for (let j = -1; j <= 1 && free; j++) {
      for (let i = -1; i <= 1 && free; i++) {
        free = !(cells.get(`${cx + i},${cy + j}`) ?? []).some((o) => Math.hypot(o.x - f.x, o.y - f.y) < apart);
      }
    }
    if (!free) continue;
    taken.push(f);
    const key = `${cx},${cy}`;
    cells.set(key, [...(cells.get(key) ?? []), f]);
  }
  return taken;
}

const HALF = 7;
const WINDOW = 2 * HALF + 1;
const STEPS = 20;
/** Pixels by which a feature moves at last; in a coarse picture near enough is enough, since the finer ones find it truly. */
const STILL = 0.004;
const ROUGH = 0.05;

/** Follows features from one picture into another, in the kernels' memory until it is closed. */
export class FeatureFollower {
  private readonly scratch: Plane;
  private readonly result: Float64Array;
  private readonly held: Plane;

  constructor(private readonly kernels: Kernels) {
    this.scratch = kernels.take(5 * WINDOW * (WINDOW + 3));
    this.held = kernels.take(8);
    this.result = new Float64Array(this.held.buffer, this.held.byteOffset, 3);
  }

  /**
   * Where a feature of one picture lies in another, looked for from coarse to fine (Bouguet 2000), with gain and bias; null where
   * it is lost or leaves. `match` is its correlation.
   */
  follow(
    from: Pyramid,
    to: Pyramid,
    x: number,
    y: number,
    guess: readonly [number, number],
  ): { x: number; y: number; match: number } | null {
    let [u, v] = guess;
    let match = 0;
    for (let l = from.levels.length - 1; l >= 0; l--) {
      const k = 2 ** l;
      const { width, height, data } = from.levels[l]!;
      const [px, py] = [x / k, y / k];
      const inside = px >= HALF + 2 && py >= HALF + 2 && px <= width - HALF - 3 && py <= height - HALF - 3;
      const found = inside && this.fit(data, to.levels[l]!, px, py, u / k, v / k, l > 0 ? ROUGH : STILL);
      if (found) [u, v, match] = [this.result[0]! * k, this.result[1]! * k, this.result[2]!];
      else if (l === 0) return null;
    }
    const { width, height } = to.levels[0]!;
    return u < 1 || v < 1 || u > width - 1 || v > height - 1 ? null : { x: u, y: v, match };
  }

  private fit(from: Plane, to: Gray, px: number, py: number, u: number, v: number, still: number): boolean {
    const { fn } = this.kernels;
    const [a, b] = [from.byteOffset, to.data.byteOffset];
    const at = this.scratch.byteOffset;
    return fn.followShift(a, b, to.width, to.height, WINDOW, px, py, u, v, still, STEPS, at, this.held.byteOffset) === 1;
  }

  close(): void {
    [this.scratch, this.held].forEach((p) => this.kernels.give(p));
  }
}
