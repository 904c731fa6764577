/** A rectangle of whole pixels, half open: x0 ≤ x < x1, y0 ≤ y < y1, y down. */
export interface Rect {
  readonly x0: number;
  readonly y0: number;
  readonly x1: number;
  readonly y1: number;
}

export const EMPTY: Rect = { x0: 0, y0: 0, x1: 0, y1: 0 };

export const rect = (x0: number, y0: number, x1: number, y1: number): Rect => ({ x0, y0, x1, y1 });
export const width = (r: Rect): number => Math.max(0, r.x1 - r.x0);
export const height = (r: Rect): number => Math.max(0, r.y1 - r.y0);
export const area = (r: Rect): number => width(r) * height(r);
export const isEmpty = (r: Rect): boolean => r.x1 <= r.x0 || r.y1 <= r.y0;
export const sameRect = (a: Rect, b: Rect): boolean => a.x0 === b.x0 && a.y0 === b.y0 && a.x1 === b.x1 && a.y1 === b.y1;

export function intersect(a: Rect, b: Rect): Rect {
  const r = rect(Math.max(a.x0, b.x0), Math.max(a.y0, b.y0), Math.min(a.x1, b.x1), Math.min(a.y1, b.y1));
  return isEmpty(r) ? EMPTY : r;
}

/** The smallest rectangle around both; an empty one adds nothing. */
export function union(a: Rect, b: Rect): Rect {
  if (isEmpty(a)) return b;
  if (isEmpty(b)) return a;
  return rect(Math.min(a.x0, b.x0), Math.min(a.y0, b.y0), Math.max(a.x1, b.x1), Math.max(a.y1, b.y1));
}

/** Grown by dx and dy pixels on each side, rounded outward. */
export function grow(r: Rect, dx: number, dy = dx): Rect {
  if (isEmpty(r)) return r;
  return rect(Math.floor(r.x0 - dx), Math.floor(r.y0 - dy), Math.ceil(r.x1 + dx), Math.ceil(r.y1 + dy));
}
