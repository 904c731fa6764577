/**
 * The lens of SG050 and SG070, as a camera has it: radial terms and decentring (Brown 1966) about a centre that is not quite the frame's.
 * Written apart from the application's own lenses, so that it is a truth to hold those against.
 */
export const WIDE = { focal: 604, centre: [484.6, 266.3], k1: -0.236, k2: 0.072, k3: -0.009, p1: 0.0007, p2: -0.0005 } as const;

/** Where an ideal direction (x/z, y/z) lands on the frame of 960×540. */
export function filmedAt(x: number, y: number): [number, number] {
  const r2 = x * x + y * y;
  const radial = 1 + r2 * (WIDE.k1 + r2 * (WIDE.k2 + r2 * WIDE.k3));
  const dx = x * radial + 2 * WIDE.p1 * x * y + WIDE.p2 * (r2 + 2 * x * x);
  const dy = y * radial + WIDE.p1 * (r2 + 2 * y * y) + 2 * WIDE.p2 * x * y;
  return [WIDE.centre[0] + WIDE.focal * dx, WIDE.centre[1] + WIDE.focal * dy];
}

/** The direction (x/z, y/z) that lands at a position of the frame, by Newton's method with differences. */
export function directionAt(u: number, v: number): [number, number] {
  let [x, y] = [(u - WIDE.centre[0]) / WIDE.focal, (v - WIDE.centre[1]) / WIDE.focal];
  const h = 1e-5;
  for (let i = 0; i < 30; i++) {
    const [fx, fy] = filmedAt(x, y);
    const [ex, ey] = [u - fx, v - fy];
    if (Math.abs(ex) + Math.abs(ey) < 1e-9) break;
    const [ax, ay] = filmedAt(x + h, y);
    const [bx, by] = filmedAt(x, y + h);
    const [a, b, c, d] = [(ax - fx) / h, (bx - fx) / h, (ay - fy) / h, (by - fy) / h];
    const det = a * d - b * c;
    x += (d * ex - b * ey) / det;
    y += (a * ey - c * ex) / det;
  }
  return [x, y];
}
