import type { Kernels } from '@/kernels';
import { gaussianBlur } from '../filters/gaussian';
import { rect } from '../geometry/rect';

/** σ of smoothing before slopes are taken, so that grain does less harm; and of the blur that edges are compared with. */
const BEFORE = 1;
const AGAIN = 1.4;

/** An edge, and the σ of the Gaussian that it looks blurred by, px. */
export interface Edge {
  x: number;
  y: number;
  sigma: number;
  /** How much it counts: the square of its slope, since grain disturbs weak ones most. */
  weight: number;
}

interface Slopes {
  gx: Float32Array;
  gy: Float32Array;
  size: Float32Array;
}

function slopes(plane: Float32Array, w: number, h: number): Slopes {
  const [gx, gy, size] = [new Float32Array(w * h), new Float32Array(w * h), new Float32Array(w * h)];
  for (let y = 1; y < h - 1; y++) {
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      gx[i] = (plane[i + 1]! - plane[i - 1]!) / 2;
      gy[i] = (plane[i + w]! - plane[i - w]!) / 2;
      size[i] = Math.hypot(gx[i]!, gy[i]!);
    }
  }
  return { gx, gy, size };
}

/** How much steeper than the usual slope of what is flat an edge has to be. */
const OVER_NOISE = 6;
/** And which part of the steepest slopes there are. */
const OF_STEEPEST = 0.25;

/**
 * Edges inside a place and how soft each is: a step that was blurred by σ loses, blurred again by s, slope by √(1 + s²/σ²); so its ratio tells σ (after Zhuo & Sim
 * 2011). What the measure's own smoothing adds is taken out.
 */
export function edgeSoftness(kernels: Kernels, luma: Float32Array, inside: Uint8Array, w: number, h: number): Edge[] {
  const whole = rect(0, 0, w, h);
  const [given, soft] = [kernels.copy(luma), kernels.take(w * h)];
  const [first, again] = [BEFORE, Math.hypot(BEFORE, AGAIN)].map((sigma) => {
    gaussianBlur(kernels, given, whole, soft, whole, sigma, sigma, whole);
    return slopes(soft, w, h);
  }) as [Slopes, Slopes];
  [given, soft].forEach((p) => kernels.give(p));
  const all: number[] = [];
  for (let i = 0; i < luma.length; i++) if (inside[i]) all.push(first.size[i]!);
  if (all.length === 0) return [];
  all.sort((a, b) => a - b);
  const least = Math.max(OVER_NOISE * all[Math.floor(0.3 * all.length)]!, OF_STEEPEST * all[Math.floor(0.998 * (all.length - 1))]!, 1e-6);
  const edges: Edge[] = [];
  const reach = 4;
  for (let y = reach; y < h - reach; y++) {
    for (let x = reach; x < w - reach; x++) {
      const i = y * w + x;
      const g = first.size[i]!;
      if (!inside[i] || g < least) continue;
      const [ux, uy] = [first.gx[i]! / g, first.gy[i]! / g];
      const at = (d: number): number => {
        const [px, py] = [x + d * ux, y + d * uy];
        const [u, v] = [Math.floor(px), Math.floor(py)];
        const [s, t] = [px - u, py - v];
        const p = v * w + u;
        const top = first.size[p]! * (1 - s) + first.size[p + 1]! * s;
        return top * (1 - t) + (first.size[p + w]! * (1 - s) + first.size[p + w + 1]! * s) * t;
      };
      // The steepest place across the edge, and nothing else near it: a line has two sides.
      if (at(1) > g || at(-1) >= g) continue;
      if (at(3) > 0.8 * g || at(-3) > 0.8 * g) continue;
      if (!inside[i + Math.round(3 * ux) + w * Math.round(3 * uy)] || !inside[i - Math.round(3 * ux) - w * Math.round(3 * uy)]) continue;
      const ratio = g / Math.max(1e-12, again.size[i]!);
      if (!(ratio > 1.01)) continue;
      const seen = (AGAIN * AGAIN) / (ratio * ratio - 1);
      edges.push({ x, y, sigma: Math.sqrt(Math.max(0.01, seen - BEFORE * BEFORE)), weight: g * g });
    }
  }
  return edges;
}
