import { width } from '../geometry/rect';
import type { RenderCamera } from './camera';
import type { Vec3 } from '../geometry/vec3';
import { fitCamera } from './camera';
import { cross3, dot3 } from '../geometry/vec3';
import { onlyChannel } from './depth';
import type { PassFrame } from './pass-frame';
import { normalsOf, signsOf } from './positions';
import type { PassFacts, PassNote, RoledPass } from './roles';

/** The camera that the positions are seen by, in the axes that the pass has, and what that says of it. */
export interface Placed {
  note: PassNote;
  camera: RenderCamera | null;
}

/** Depth as a distance along the view, if it is meant in one of the ways there are; null where that makes no sense of it. */
type DepthWay = { facts: PassFacts; text: string; of(value: number, length: number): number };
const WAYS: readonly DepthWay[] = [
  { facts: { along: 'view', as: 'distance' }, text: 'goes with the distance of the positions along the view', of: (v) => v },
  {
    facts: { along: 'ray', as: 'distance' },
    text: 'goes with the distance of the positions from the camera',
    of: (value, length) => value / length,
  },
  { facts: { along: 'view', as: 'inverse' }, text: 'goes with 1 / distance of the positions', of: (v) => 1 / v },
  {
    facts: { along: 'ray', as: 'inverse' },
    text: 'goes with 1 / distance of the positions from the camera',
    of: (value, length) => 1 / (value * length),
  },
];
/** Part of a distance within which it is the same. */
const SAME = 2e-3;

/** The camera of positions, and the way in which the depth goes with it. A shallow scene is seen alike by many cameras: the depth decides. */
export function placeCamera(
  frame: PassFrame,
  position: RoledPass,
  depth: RoledPass | undefined,
  solid: readonly number[],
): Placed & { way?: DepthWay } {
  const [x, y, z] = position.channels.map((c) => frame.planes[c]);
  const { bounds, format } = frame;
  const bare = x && y && z && fitCamera({ x, y, z }, bounds, format);
  if (!bare) return { note: positionNote(null, null), camera: null };
  const values = depth && frame.planes[onlyChannel(depth)];
  const w = width(bounds);
  for (const way of values && solid.length > 100 ? WAYS : []) {
    let { camera } = bare;
    let apart = Infinity;
    for (let round = 0; round < 3; round++) {
      const rayOf = (i: number): number => {
        const u = (bounds.x0 + (i % w) + 0.5 - camera.centre[0]) / camera.focal;
        const v = (bounds.y0 + Math.floor(i / w) + 0.5 - camera.centre[1]) / camera.focal;
        return Math.hypot(1, u, v);
      };
      const distance = new Float32Array(values!.length).fill(Infinity);
      for (const i of solid) distance[i] = way.of(values![i]!, rayOf(i));
      const found = fitCamera({ x, y, z }, bounds, format, distance);
      if (!found) break;
      camera = found.camera;
      const { eye, forward } = camera;
      apart = spreadOf(solid.map((i) => dot3([x[i]! - eye[0], y[i]! - eye[1], z[i]! - eye[2]], forward) / distance[i]!)).spread;
    }
    if (apart < SAME) return { note: positionNote({ camera, rms: bare.rms }, inCamera(frame, [x, y, z], solid)), camera, way };
  }
  return { note: positionNote(bare, inCamera(frame, [x, y, z], solid)), camera: bare.camera };
}

/** Of positions in the camera's axes, those whose sign is turned; null where they are in no camera's. */
function inCamera(
  { bounds, format }: PassFrame,
  [x, y, z]: readonly [Float32Array, Float32Array, Float32Array],
  solid: readonly number[],
): string | null {
  const w = width(bounds);
  const seen = (i: number): [number, number] => [
    bounds.x0 + (i % w) + 0.5 - format.width / 2,
    bounds.y0 + Math.floor(i / w) + 0.5 - format.height / 2,
  ];
  const fit = (plane: Float32Array, k: 0 | 1): { focal: number; rms: number } => {
    let [ab, aa] = [0, 0];
    for (const i of solid) {
      const a = plane[i]! / Math.abs(z[i]!);
      ab += a * seen(i)[k];
      aa += a * a;
    }
    const focal = ab / Math.max(1e-12, aa);
    const rms = Math.sqrt(
      solid.reduce((s, i) => s + (seen(i)[k] - (focal * plane[i]!) / Math.abs(z[i]!)) ** 2, 0) / Math.max(1, solid.length),
    );
    return { focal, rms };
  };
  const [across, down] = [fit(x, 0), fit(y, 1)];
  const alike = Math.abs(Math.abs(across.focal) / Math.abs(down.focal) - 1) < 0.03;
  if (!alike || !(across.rms < 1.5) || !(down.rms < 1.5)) return null;
  const behind = solid.filter((i) => z[i]! > 0).length > solid.length / 2;
  return `${across.focal < 0 ? 'x' : ''}${down.focal > 0 ? 'y' : ''}${behind ? 'z' : ''}`;
}

function positionNote(found: { camera: RenderCamera; rms: number } | null, camera: string | null): PassNote {
  if (!found) {
    const doubt = 'no camera sees these positions where they are; they are taken as of the world';
    return { role: 'position', facts: { space: 'world' }, reason: 'by its name', doubt };
  }
  const seen = `a camera sees them within ${found.rms.toFixed(1)} px`;
  if (camera !== null)
    return { role: 'position', facts: { space: 'camera', ...(camera && { turned: camera }) }, reason: `${seen}, which stands at 0, 0, 0` };
  const { eye, right, down, forward } = found.camera;
  // x to the right, y up and z towards the camera: along, down and forward then turn as a screw does.
  const mirrored = dot3(cross3(right, down), forward) < 0;
  return {
    role: 'position',
    facts: { space: 'world', ...(mirrored && { turned: 'z' }) },
    reason: `${seen}, at ${eye.map((v) => v.toFixed(2)).join(', ')}`,
    ...(mirrored && { doubt: 'its axes are mirrored: z is taken as turned, it may be another' }),
  };
}

/** How far values are from their mean, as a part of it. */
function spreadOf(values: readonly number[]): { mean: number; spread: number } {
  const sorted = [...values].filter(Number.isFinite).sort((a, b) => a - b);
  // Blended edges and holes are left out.
  const kept = sorted.slice(Math.floor(0.05 * sorted.length), Math.ceil(0.95 * sorted.length));
  const mean = kept.reduce((s, v) => s + v, 0) / Math.max(1, kept.length);
  const spread = Math.sqrt(kept.reduce((s, v) => s + (v - mean) ** 2, 0) / Math.max(1, kept.length)) / Math.max(1e-12, Math.abs(mean));
  return { mean, spread };
}

/** The value that stands where nothing is covered, most of the time. */
function emptyValue(frame: PassFrame, plane: Float32Array): number | undefined {
  const alpha = frame.planes.A;
  if (!alpha) return undefined;
  const counts = new Map<number, number>();
  let n = 0;
  for (let i = 0; i < plane.length; i += 3) {
    if (alpha[i] !== 0) continue;
    n++;
    counts.set(plane[i]!, (counts.get(plane[i]!) ?? 0) + 1);
  }
  const [best] = [...counts].sort((a, b) => b[1] - a[1]);
  return best && best[1] > 0.8 * n ? best[0] : undefined;
}

export function guessDepth(
  frame: PassFrame,
  pass: RoledPass,
  solid: readonly number[],
  placed: (Placed & { way?: DepthWay }) | undefined,
  position: RoledPass | undefined,
): PassNote {
  const plane = frame.planes[onlyChannel(pass)]!;
  const empty = emptyValue(frame, plane);
  const values = solid.map((i) => plane[i]!).filter((v) => Number.isFinite(v));
  const [least, most] = values.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, -Infinity]);
  const nothing = empty !== undefined && Number.isFinite(empty) && empty > most * 1.2 ? { nothing: empty } : {};
  if (placed?.way) return { role: 'depth', facts: { ...placed.way.facts, ...nothing }, reason: placed.way.text };
  const [px, py, pz] = (position?.channels ?? []).map((c) => frame.planes[c]);
  if (placed?.camera && px && py && pz && solid.length > 100) {
    const { eye, forward } = placed.camera;
    const line = lineThrough(
      solid.map((i) => dot3([px[i]! - eye[0], py[i]! - eye[1], pz[i]! - eye[2]], forward)),
      solid.map((i) => plane[i]!),
    );
    // v = 0 at the far end, 1 at the near one.
    const from = [-line.at0 / line.slope, (1 - line.at0) / line.slope] as const;
    if (line.slope < 0 && line.error < 0.02) {
      return {
        role: 'depth',
        facts: { along: 'view', as: 'nearness', from },
        reason: 'falls in a straight line with the distance of the positions',
      };
    }
  }
  if (most <= 1.0001 && least >= 0) {
    const near = empty === 0 || empty === undefined;
    return {
      role: 'depth',
      facts: near ? { along: 'view', as: 'nearness' } : { along: 'view', as: 'distance', ...nothing },
      reason: near ? 'between 0 and 1, and 0 where nothing is: 0 is taken as far' : 'between 0 and 1, and 1 where nothing is',
      doubt: near ? 'what distances 0 and 1 are cannot be told: type them in' : 'what distance 1 is cannot be told',
    };
  }
  return {
    role: 'depth',
    facts: { along: 'view', as: 'distance', ...nothing },
    reason: `from ${least.toPrecision(3)} to ${most.toPrecision(3)}${'nothing' in nothing ? `, ${nothing.nothing} where nothing is` : ''}`,
    doubt: 'whether it is along the view or along rays cannot be told without positions: along the view is taken',
  };
}

/** The straight line nearest to points, and how far they are from it as a part of their spread. */
function lineThrough(x: readonly number[], y: readonly number[]): { slope: number; at0: number; error: number } {
  const n = x.length;
  const [mx, my] = [x.reduce((s, v) => s + v, 0) / n, y.reduce((s, v) => s + v, 0) / n];
  let [xx, xy, yy] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    xx += (x[i]! - mx) ** 2;
    xy += (x[i]! - mx) * (y[i]! - my);
    yy += (y[i]! - my) ** 2;
  }
  const slope = xy / Math.max(1e-12, xx);
  const error = Math.sqrt(Math.max(0, yy - slope * xy) / Math.max(1e-12, n)) / Math.max(1e-12, Math.abs(my));
  return { slope, at0: my - slope * mx, error };
}

const AXIS = ['x', 'y', 'z'] as const;

export function guessNormal(
  frame: PassFrame,
  pass: RoledPass,
  placed: Placed | undefined,
  solid: readonly number[],
  position?: RoledPass,
): PassNote {
  const planes = pass.channels.slice(0, 3).map((c) => frame.planes[c]!);
  if (planes.length < 3 || solid.length < 100)
    return { role: 'normal', reason: 'by its name', doubt: 'too little of it is covered to tell how it is meant' };
  const lengths = (packed: boolean): number =>
    spreadOf(solid.map((i) => Math.hypot(...planes.map((p) => (packed ? 2 * p[i]! - 1 : p[i]!))))).mean;
  const negative = solid.some((i) => planes.some((p) => p[i]! < -0.02));
  const packed = !negative && Math.abs(lengths(true) - 1) < Math.abs(lengths(false) - 1);
  const at = (i: number): Vec3 => planes.map((p) => (packed ? 2 * p[i]! - 1 : p[i]!)) as unknown as Vec3;
  const base: PassFacts = packed ? { packed } : {};
  const size = lengths(packed);
  const odd = Math.abs(size - 1) > 0.1 ? `its vectors are ${size.toFixed(2)} long; they are made one long` : undefined;
  const geometric = placed?.camera && position ? geometry(frame, position, placed.camera) : null;
  if (geometric && placed?.camera) {
    // The axes that the positions are turned to are those of the world.
    const signs = signsOf(placed.note.facts);
    const world = compare(solid, at, (i) => geometric(i).map((v, k) => v * signs[k]!) as unknown as Vec3);
    const { right, down, forward } = placed.camera;
    const camera = compare(solid, at, (i) => {
      const g = geometric(i);
      return [dot3(g, right), -dot3(g, down), -dot3(g, forward)];
    });
    // Of positions in the camera's axes those are all there is.
    const seen = placed.note.facts?.space === 'camera' || camera.agree > world.agree + 0.02;
    const [space, best] = seen ? (['camera', camera] as const) : (['world', world] as const);
    if (best.agree > 0.8) {
      return {
        role: 'normal',
        facts: { ...base, space, ...(best.turned && { turned: best.turned }) },
        reason: `looks as the positions' surface does, in the axes of the ${space}`,
        ...(odd && { doubt: odd }),
      };
    }
  }
  const front = solid.filter((i) => at(i)[2] > -0.1).length / solid.length;
  const camera = front > 0.985 || front < 0.015;
  const doubts = [odd, 'which way y and z point cannot be told without positions'].filter(Boolean).join('; ');
  return {
    role: 'normal',
    facts: { ...base, space: camera ? 'camera' : 'world', ...(front < 0.015 && { turned: 'z' }) },
    reason: camera ? 'all of it looks towards the camera' : 'some of it looks away from the camera along z, so it is of the world',
    doubt: doubts,
  };
}

/** How well vectors agree with others but for the signs of their axes, and which of those are turned. */
function compare(solid: readonly number[], a: (i: number) => Vec3, b: (i: number) => Vec3): { agree: number; turned: string } {
  const sums = [0, 0, 0];
  let n = 0;
  for (const i of solid) {
    const [p, q] = [a(i), b(i)];
    if (!Number.isFinite(q[0]) || (q[0] === 0 && q[1] === 0 && q[2] === 0)) continue;
    n++;
    for (let k = 0; k < 3; k++) sums[k]! += p[k]! * q[k]!;
  }
  return {
    agree: sums.reduce((s, v) => s + Math.abs(v), 0) / Math.max(1, n),
    turned: AXIS.filter((_, k) => sums[k]! < 0).join(''),
  };
}

/** Normals of the surface that positions show. */
function geometry(frame: PassFrame, position: RoledPass, camera: RenderCamera): (i: number) => Vec3 {
  const [x, y, z] = position.channels.map((c) => frame.planes[c]!) as [Float32Array, Float32Array, Float32Array];
  const distance = x.map((_, i) => {
    const d = dot3([x[i]! - camera.eye[0], y[i]! - camera.eye[1], z[i]! - camera.eye[2]], camera.forward);
    return d > 0 && (frame.planes.A?.[i] ?? 1) > 0 ? d : Infinity;
  });
  const n = normalsOf({ x, y, z, distance, camera, placed: true }, width(frame.bounds), (k) => new Float32Array(k));
  // In mirrored axes the product of two vectors points the other way.
  const sign = dot3(cross3(camera.right, camera.down), camera.forward) < 0 ? -1 : 1;
  return (i) => [sign * n[0][i]!, sign * n[1][i]!, sign * n[2][i]!];
}

/** Means of nine, so that a look between pixels softens nothing more. */
function softened(plane: Float32Array, w: number): Float32Array {
  return plane.map((_, i) => {
    let sum = 0;
    for (const k of [-w - 1, -w, -w + 1, -1, 0, 1, w - 1, w, w + 1]) sum += plane[i + k] ?? plane[i]!;
    return sum / 9;
  });
}

export function guessMotion(frame: PassFrame, next: PassFrame | undefined, pass: RoledPass, solid: readonly number[]): PassNote {
  const [mx, my] = pass.channels.map((c) => frame.planes[c]!);
  const base: PassNote = { role: 'motion', facts: { unit: 'px', towards: 'next' }, reason: 'by its name' };
  if (!mx || !my) return base;
  const size = solid.reduce((s, i) => Math.max(s, Math.abs(mx[i]!), Math.abs(my[i]!)), 0);
  const small: PassFacts['unit'] = size > 0 && size < 0.3 ? 'frame' : 'px';
  const assumed: PassNote = {
    role: 'motion',
    facts: { unit: small, towards: 'next' },
    reason: `up to ${size.toPrecision(3)}`,
    doubt: 'how it is meant could not be tried out on the next frame: it is taken as pixels along the movement',
  };
  if (!next || size === 0) return assumed;
  const { format, bounds } = frame;
  const w = width(bounds);
  const nw = width(next.bounds);
  if (!frame.planes.G || !next.planes.G) return assumed;
  const soft = new Map([frame, next].map((f) => [f, softened(f.planes.G!, width(f.bounds))]));
  const luma = (f: PassFrame, i: number): number => soft.get(f)![i]!;
  const moving = solid.filter((i) => Math.hypot(mx[i]!, my[i]!) > 0.25 * size);
  const error = (unit: PassFacts['unit'], sign: number, up: number): number => {
    const [sx, sy] = unit === 'px' ? [1, 1] : unit === 'frame' ? [format.width, format.height] : [format.width / 2, format.height / 2];
    let [sum, n] = [0, 0];
    for (const i of moving) {
      const x = bounds.x0 + (i % w) + sign * mx[i]! * sx - next.bounds.x0;
      const y = bounds.y0 + Math.floor(i / w) + sign * up * my[i]! * sy - next.bounds.y0;
      const [u, v] = [Math.floor(x), Math.floor(y)];
      const at = v * nw + u;
      if (u < 0 || v < 0 || u >= nw - 1 || (v + 1) * nw + u + 1 >= next.planes.G!.length) continue;
      const [a, b] = [x - u, y - v];
      const there =
        (luma(next, at) * (1 - a) + luma(next, at + 1) * a) * (1 - b) + (luma(next, at + nw) * (1 - a) + luma(next, at + nw + 1) * a) * b;
      const here = luma(frame, i);
      sum += Math.min(0.5, Math.abs(there - here) / (0.02 + Math.abs(here)));
      n++;
    }
    return n > 0.5 * moving.length ? sum / n : Infinity;
  };
  const tries = (['px', 'frame', 'half'] as const).flatMap((unit) =>
    [1, -1].flatMap((sign) => [1, -1].map((up) => ({ unit, sign, up, error: error(unit, sign, up) }))),
  );
  tries.sort((a, b) => a.error - b.error);
  const best = tries[0]!;
  const still = error('px', 0, 1);
  const rival = (differs: (t: typeof best) => boolean): number => Math.min(...tries.filter(differs).map((t) => t.error));
  if (!(best.error < 0.93 * still && best.error < 0.97 * rival((t) => t.sign !== best.sign))) return assumed;
  const unitDoubt = best.error > 0.96 * rival((t) => t.unit !== best.unit && t.sign === best.sign);
  const updown = tries.find((t) => t.unit === best.unit && t.sign === best.sign && t.up !== best.up)!;
  return {
    role: 'motion',
    facts: { unit: best.unit, towards: best.sign > 0 ? 'next' : 'previous', ...(best.up < 0 && { turned: 'y' }) },
    reason: 'leads from each pixel to the one that looks like it on the next frame',
    ...((unitDoubt || updown.error < 1.02 * best.error) && {
      doubt: unitDoubt ? 'too little moves to tell its unit' : 'hardly anything moves up or down: whether y points down cannot be told',
    }),
  };
}
