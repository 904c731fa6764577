import type { Homography } from './homography';
import { mapPoint } from './homography';

/** x, y after each other; closed. */
export type Polygon = readonly number[];

/** Whether a position lies inside, by counting crossings. */
export function inPolygon(p: Polygon, x: number, y: number): boolean {
  let inside = false;
  const n = p.length / 2;
  for (let i = 0, j = n - 1; i < n; j = i++) {
    const [xi, yi, xj, yj] = [p[2 * i]!, p[2 * i + 1]!, p[2 * j]!, p[2 * j + 1]!];
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) inside = !inside;
  }
  return inside;
}

/** The least box around some polygons. */
export function boxAround(list: readonly Polygon[]): { x0: number; y0: number; x1: number; y1: number } {
  const xs = list.flatMap((p) => p.filter((_, i) => i % 2 === 0));
  const ys = list.flatMap((p) => p.filter((_, i) => i % 2 === 1));
  return { x0: Math.min(...xs), y0: Math.min(...ys), x1: Math.max(...xs), y1: Math.max(...ys) };
}

/** Twice the area, with the sign of its turn. */
export function doubleArea(p: Polygon): number {
  let sum = 0;
  const n = p.length / 2;
  for (let i = 0, j = n - 1; i < n; j = i++) sum += p[2 * j]! * p[2 * i + 1]! - p[2 * i]! * p[2 * j + 1]!;
  return sum;
}

/** Its corners taken elsewhere by a map. */
export const mapPolygon = (m: Homography, p: Polygon): number[] => p.flatMap((x, i) => (i % 2 ? [] : mapPoint(m, x, p[i + 1]!)));
