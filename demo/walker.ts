import { ease } from './plate-scene';
import { fractal, valueNoise } from './noise';

/** Where a passer-by stands, in scene pixels: between the feet; the step's phase in radians; how far the body leans, px at the head. */
export interface Stride {
  x: number;
  y: number;
  phase: number;
  lean: number;
  /** 1 walks to the right, −1 to the left. */
  side: 1 | -1;
}

/** Half of a body with its hat, coat and sleeves from the crown to the hem: x outward, y down, the feet at 0. */
const FRONT = [
  [0, -254],
  [11, -252],
  [18, -243],
  [20, -230],
  [19, -219],
  [14, -208],
  [13, -202],
  [25, -196],
  [37, -188],
  [43, -174],
  [46, -150],
  [49, -122],
  [47, -104],
  [43, -88],
  [45, -62],
] as const;
const BACK = FRONT.map(([x, y]) => [x * 0.94 + (y > -200 ? 2 : 0), y] as const);

/** Points between which the outline is smooth, once around, before the body moves. */
const AROUND: readonly (readonly [number, number])[] = [
  ...FRONT,
  [0, -58] as const,
  ...[...BACK]
    .reverse()
    .slice(0, -1)
    .map(([x, y]) => [-x, y] as const),
];

const DENSE = 8;

/** From a place on the body to the scene: it leans, and the coat's hem swings. */
function put([u, v]: readonly [number, number], s: Stride): [number, number] {
  const up = -v / 254;
  const swing = 1 + 0.05 * Math.sin(s.phase) * ease(-130, -62, v);
  return [
    s.x + s.side * (u * swing + 3.2 * Math.cos(s.phase) * ease(-110, -62, v)) + s.lean * up,
    s.y + v - 3 * Math.abs(Math.sin(s.phase)),
  ];
}

/** The outline of hat and coat in the scene, x and y after each other: Catmull and Rom through the points. */
export function coatOutline(s: Stride): number[] {
  const n = AROUND.length;
  const out: number[] = [];
  for (let i = 0; i < n; i++) {
    const [p, a, b, q] = [AROUND[(i + n - 1) % n]!, AROUND[i]!, AROUND[(i + 1) % n]!, AROUND[(i + 2) % n]!];
    for (let k = 0; k < DENSE; k++) {
      const t = k / DENSE;
      const at = (c: 0 | 1): number =>
        0.5 * (2 * a[c] + t * (b[c] - p[c] + t * (2 * p[c] - 5 * a[c] + 4 * b[c] - q[c] + t * (3 * a[c] - p[c] - 3 * b[c] + q[c]))));
      out.push(...put([at(0), at(1)], s));
    }
  }
  return out;
}

/** From hip to boot of both legs, in the scene: x, y, x, y. */
export const legLines = (s: Stride): [number, number, number, number][] =>
  LEGS.map((k) => {
    const [fx, fy] = bootOf(s, k);
    return [s.x + s.side * 6 * k, s.y + HIP, s.x + s.side * fx, s.y + fy];
  });

const LEGS = [-1, 1] as const;
const HIP = -84;
/** Where a boot is, counted from between the feet, forward and down. */
const bootOf = ({ phase }: Stride, k: -1 | 1): [number, number] => [
  26 * Math.sin(phase) * -k + 4 * k,
  -6 - 7 * Math.max(0, Math.cos(phase) * k),
];

/** How far a place is inside an outline, px; less than 0 outside. */
export function depthInside(outline: readonly number[], x: number, y: number): number {
  let inside = false;
  let near = Infinity;
  const n = outline.length / 2;
  for (let i = 0, j = n - 1; i < n; j = i++) {
    const [ax, ay, bx, by] = [outline[2 * j]!, outline[2 * j + 1]!, outline[2 * i]!, outline[2 * i + 1]!];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
    const [dx, dy] = [bx - ax, by - ay];
    const length = dx * dx + dy * dy;
    const t = length > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length)) : 0;
    const [u, v] = [x - ax - t * dx, y - ay - t * dy];
    near = Math.min(near, u * u + v * v);
  }
  return (inside ? 1 : -1) * Math.sqrt(near);
}

export interface Cloth {
  coat: readonly [number, number, number];
  hat: readonly [number, number, number];
  /** Of the weave's lines, scene px. */
  check: number;
  seed: number;
}

/** Colour and coverage of a passer-by at a scene place; coverage 0 is nothing. `outline` is coatOutline's of the stride. */
export function walkerAt(
  x: number,
  y: number,
  s: Stride,
  outline: readonly number[],
  cloth: Cloth,
): readonly [number, number, number, number] {
  const [dx, dy] = [(x - s.x) * s.side, y - s.y];
  if (Math.abs(dx) > 76 || dy < -268 || dy > 8) return [0, 0, 0, 0];
  const depth = dy < -50 ? depthInside(outline, x, y) : -99;
  const cover = Math.min(1, Math.max(0, depth + 0.5));
  const body = cover > 0 ? colourAt(dx - (s.side * s.lean * -dy) / 254, dy, depth, cloth) : null;
  if (cover === 1) return [...body!, 1];
  // Legs behind the coat: from the hips to the boots.
  let legs = 0;
  let shade = 1;
  for (const k of LEGS) {
    const [hx, hy] = [6 * k, HIP];
    const [fx, fy] = bootOf(s, k);
    const t = Math.min(1, Math.max(0, ((dx - hx) * (fx - hx) + (dy - hy) * (fy - hy)) / ((fx - hx) ** 2 + (fy - hy) ** 2)));
    const d = Math.hypot(dx - hx - t * (fx - hx), dy - hy - t * (fy - hy));
    const c = Math.min(1, Math.max(0, 12 - 3 * t - d + 0.5));
    if (c > legs) [legs, shade] = [c, (k < 0 ? 0.7 : 1) * (0.6 + 0.4 * Math.sqrt(Math.max(0, 1 - (d / 12) ** 2)))];
  }
  const leg = [0.05 * shade, 0.05 * shade, 0.06 * shade] as const;
  if (!body) return [...leg, legs];
  const all = cover + legs * (1 - cover);
  return [...([0, 1, 2] as const).map((c) => (body[c]! * cover + leg[c] * legs * (1 - cover)) / all), all] as unknown as readonly [
    number,
    number,
    number,
    number,
  ];
}

function colourAt(u: number, v: number, depth: number, { coat, hat, check, seed }: Cloth): [number, number, number] {
  const round = 0.45 + 0.55 * Math.min(1, Math.sqrt(Math.max(0, depth) / 22));
  if (v < -232) return hat.map((h) => h * round * (0.8 + 0.4 * valueNoise(u * 0.5, v * 0.5, seed))) as [number, number, number];
  if (v < -203) {
    const beard = v > -216 && Math.abs(u - 4) < 13;
    const skin = beard ? [0.16, 0.12, 0.09] : [0.36, 0.22, 0.15];
    return skin.map((k) => k * round) as [number, number, number];
  }
  const weave = ((((u + 0.2 * v) % check) + check) % check < 2.2 ? 0.45 : 1) * ((((v - 0.1 * u) % check) + check) % check < 2.2 ? 0.5 : 1);
  const folds = 0.65 + 0.7 * fractal(u * 0.05, v * 0.018, seed + 1);
  const seam = Math.abs(u - 3) < 1 && v > -196 ? 0.4 : 1;
  const button = v > -190 && v < -80 && Math.hypot(u - 10, (((v % 24) + 24) % 24) - 12) < 3 ? 2.6 : 1;
  const pocket = Math.abs(v + 118) < 1.5 && Math.abs(u - 22) < 12 ? 0.35 : 1;
  const s = weave * folds * round * seam * button * pocket;
  return coat.map((c) => c * s) as [number, number, number];
}
