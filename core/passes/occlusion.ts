import type { Surface } from './positions';

export interface OcclusionOptions {
  /** How far things darken each other, in the scene's units. */
  readonly radius: number;
  readonly strength: number;
  readonly directions: number;
}

const STEPS = 6;

/**
 * How open each place is to its surroundings, 0..1, by what is seen around it: along some directions on the picture the highest horizon over
 * the tangent is found (Bavoil, Sainz and Dimitrov 2008), what is farther than the radius counting less. 1 where nothing is.
 */
export function occlusionOf(
  s: Surface & { normals: readonly [Float32Array, Float32Array, Float32Array] },
  w: number,
  o: OcclusionOptions,
  take: (n: number) => Float32Array,
  poll: () => void,
): Float32Array {
  const { x: px, y: py, z: pz, distance, normals, camera } = s;
  const [nx, ny, nz] = normals;
  const n = px.length;
  const h = n / w;
  const out = take(n);
  for (let i = 0; i < n; i++) {
    if (i % (64 * w) === 0) poll();
    const d = distance[i]!;
    out[i] = 1;
    if (!(d < Infinity) || (nx[i] === 0 && ny[i] === 0 && nz[i] === 0)) continue;
    const reach = Math.min(0.25 * w, (o.radius * camera.focal) / d);
    if (reach < 1) continue;
    const [x, y] = [i % w, (i / w) | 0];
    // Another start at each pixel: what is left of the pattern looks like grain.
    const start = ((x * 0.7548776662 + y * 0.5698402909) % 1) * Math.PI * 2;
    const first = 0.3 + 0.7 * ((x * 0.2451223338 + y * 0.4301597091) % 1);
    let sum = 0;
    for (let k = 0; k < o.directions; k++) {
      const a = start + (2 * Math.PI * k) / o.directions;
      const [dx, dy] = [Math.cos(a), Math.sin(a)];
      let horizon = 0;
      let hidden = 0;
      for (let t = 0; t < STEPS; t++) {
        const far = ((t + first) / STEPS) * reach;
        const [u, v] = [Math.round(x + dx * far), Math.round(y + dy * far)];
        if (u < 0 || v < 0 || u >= w || v >= h) break;
        const j = v * w + u;
        if (!(distance[j]! < Infinity)) continue;
        const ex = px[j]! - px[i]!;
        const ey = py[j]! - py[i]!;
        const ez = pz[j]! - pz[i]!;
        const length = Math.sqrt(ex * ex + ey * ey + ez * ez);
        if (length > o.radius || length < 1e-6) continue;
        const sine = (ex * nx[i]! + ey * ny[i]! + ez * nz[i]!) / length - 0.08;
        if (sine <= horizon) continue;
        const fades = 1 - (length / o.radius) ** 2;
        hidden += (sine - horizon) * fades;
        horizon = sine;
      }
      sum += hidden;
    }
    out[i] = Math.min(1, Math.max(0, 1 - (o.strength * sum) / o.directions));
  }
  return out;
}
