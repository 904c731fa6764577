import type { Kernels, Plane } from '@/kernels';
import type { Sheet } from './sheets';
import { Sheets } from './sheets';

/**
 * Dense motion from one picture to another: dense inverse search (Kroeger, Timofte, Dai & Van Gool 2016) from coarse to fine, and on each scale the
 * variational refinement of Brox, Bruhn, Papenberg & Weickert 2004.
 */
export interface FlowOptions {
  /** Halvings left out at the fine end: 0 looks at every pixel, 1 at every second. */
  finest: number;
}

/** Motion in pixels: where what is at a pixel's middle is found in the other picture, less where it is. Planes of the kernels. */
export interface Flow {
  readonly u: Plane;
  readonly v: Plane;
}

const PATCH = 8;
const APART = 3;
const SEARCH_STEPS = 6;
/** Sides under which a picture is not halved further. */
const LEAST_SIDE = 20;
/** Outer iterations of the refinement on a scale, and sweeps in each. */
const OUTER = 4;
const SWEEPS = 8;
const OMEGA = 1.6;
/** Weights of smoothness, brightness and slopes, where white is 255. */
const [ALPHA, DELTA, GAMMA] = [100, 5, 10];

export interface Level {
  readonly w: number;
  readonly h: number;
  readonly data: Plane;
}

/** A picture, where white is 255, calmed, and its halves, finest first. Give it back by `giveLevels`. */
export function levelsOf(kernels: Kernels, gray: Float32Array, w: number, h: number): Level[] {
  const scratch = kernels.take(w + 16);
  const given = kernels.copy(gray);
  const first = kernels.take(w * h + 16);
  kernels.fn.calm(given.byteOffset, first.byteOffset, w, h, scratch.byteOffset);
  [scratch, given].forEach((p) => kernels.give(p));
  const levels: Level[] = [{ w, h, data: first }];
  for (let at = levels[0]!; Math.min(at.w, at.h) >> 1 >= LEAST_SIDE; levels.push(at)) {
    const half = { w: at.w >> 1, h: at.h >> 1, data: kernels.take((at.w >> 1) * (at.h >> 1) + 16) };
    kernels.fn.boxReduce(at.data.byteOffset, half.data.byteOffset, half.w, half.h, at.w, 2);
    at = half;
  }
  return levels;
}

export const giveLevels = (kernels: Kernels, levels: readonly Level[]): void => levels.forEach((l) => kernels.give(l.data));

/** Motion from one picture to another of the same size; sides under 8 pixels do not move. Takes two planes, which are the caller's. */
export function denseFlow(
  kernels: Kernels,
  from: readonly Level[],
  to: readonly Level[],
  { finest }: FlowOptions,
  poll: () => void = () => {},
): Flow {
  const { w, h } = from[0]!;
  const last = Math.min(finest, from.length - 1);
  let found: Flow | null = null;
  let size = { w: 0, h: 0 };
  try {
    for (let k = from.length - 1; k >= last; k--) {
      poll();
      const level = from[k]!;
      if (Math.min(level.w, level.h) < PATCH) continue;
      const next: Flow = onLevel(kernels, level, to[k]!, found && enlarged(kernels, found, size, level), poll);
      give(kernels, found);
      [found, size] = [next, level];
    }
    if (!found) return { u: kernels.zeros(w * h), v: kernels.zeros(w * h) };
    if (size.w === w && size.h === h) return found;
    const whole = enlarged(kernels, found, size, { w, h });
    give(kernels, found);
    return whole;
  } catch (e) {
    give(kernels, found);
    throw e;
  }
}

function give(kernels: Kernels, flow: Flow | null): void {
  if (flow) [flow.u, flow.v].forEach((p) => kernels.give(p));
}

/** Motion of a smaller picture on a larger one, between its pixels. */
function enlarged(kernels: Kernels, flow: Flow, from: { w: number; h: number }, to: { w: number; h: number }): Flow {
  const row = kernels.take(from.w + 4);
  const [u, v] = [flow.u, flow.v].map((plane) => {
    const out = kernels.take(to.w * to.h);
    kernels.fn.flowEnlarge(plane.byteOffset, from.w, from.h, out.byteOffset, to.w, to.h, Math.round(to.w / from.w), row.byteOffset);
    return out;
  }) as [Plane, Plane];
  kernels.give(row);
  return { u, v };
}

/** Patches are looked for and laid over each other; then all of it is refined. Gives back what it starts from. */
function onLevel(kernels: Kernels, from: Level, to: Level, start: Flow | null, poll: () => void): Flow {
  const { w, h } = from;
  const sheets = new Sheets(kernels, w, h);
  try {
    const [i0, i1] = [sheets.of(from.data.subarray(0, w * h)), sheets.of(to.data.subarray(0, w * h))];
    const [u, v] = start ? [sheets.of(start.u), sheets.of(start.v)] : [sheets.take(), sheets.take()];
    search(kernels, sheets, i0, i1, u, v);
    poll();
    refine(kernels, sheets, i0, i1, u, v, poll);
    const flow = { u: kernels.take(w * h), v: kernels.take(w * h) };
    sheets.read(u, flow.u);
    sheets.read(v, flow.v);
    return flow;
  } finally {
    give(kernels, start);
    sheets.close();
  }
}

function search(kernels: Kernels, sheets: Sheets, i0: Sheet, i1: Sheet, u: Sheet, v: Sheet): void {
  const { fn } = kernels;
  const { w, h, stride } = sheets;
  const [gx, gy] = [sheets.take(), sheets.take()];
  fn.flowSlopes(i0.at, stride, (w + 3) & ~3, h, gx.at, gy.at);
  const [nx, ny] = [Math.ceil((w - PATCH) / APART) + 1, Math.ceil((h - PATCH) / APART) + 1];
  const patches = kernels.take(3 * nx * ny);
  const [pu, pv, pc] = [0, 1, 2].map((k) => patches.byteOffset + 4 * k * nx * ny) as [number, number, number];
  fn.flowPatches(i0.at, gx.at, gy.at, i1.at, stride, w, h, u.at, v.at, pu, pv, pc, nx, ny, APART, SEARCH_STEPS);
  const weight = sheets.take();
  [u, v].forEach((s) => s.plane.fill(0));
  fn.flowSpread(i0.at, i1.at, stride, w, h, pu, pv, nx, ny, APART, u.at, v.at, weight.at);
  kernels.give(patches);
  [u, v].forEach((s) => sheets.repeatEdges(s));
}

function refine(kernels: Kernels, sheets: Sheets, i0: Sheet, i1: Sheet, u: Sheet, v: Sheet, poll: () => void): void {
  const { fn } = kernels;
  const { w, h, stride, floats } = sheets;
  const even = (w + 3) & ~3;
  const bytes = 4 * floats;
  const warped = sheets.take();
  const slopes = sheets.take(9);
  // Slopes of slopes need slopes a little beyond the edges.
  fn.flowWarp(i1.at, stride, w, h, -8, -8, even + 16, h + 16, u.at, v.at, warped.at, sheets.nth(slopes, 8));
  const [mean, apart] = [sheets.take(), sheets.take()];
  fn.addScaled(i0.plane.byteOffset, warped.plane.byteOffset, mean.plane.byteOffset, floats, 1);
  fn.affine(mean.plane.byteOffset, mean.plane.byteOffset, floats, 0.5, 0);
  fn.addScaled(warped.plane.byteOffset, i0.plane.byteOffset, apart.plane.byteOffset, floats, -1);
  const [ix, iy, iz, ixx, ixy, iyy, ixz, iyz] = Array.from({ length: 8 }, (_, k) => sheets.nth(slopes, k)) as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const out = 4 * (4 * stride + 4);
  fn.flowSlopes(mean.at - out, stride, even + 8, h + 8, ix - out, iy - out);
  slopes.plane.set(apart.plane.subarray(0, floats), 2 * floats);
  fn.flowSlopes(ix, stride, even, h, ixx, ixy);
  fn.flowSlopes(iy, stride, even, h, ixy, iyy);
  fn.flowSlopes(iz, stride, even, h, ixz, iyz);
  const equations = sheets.take(7);
  const [U, V] = [sheets.copy(u), sheets.copy(v)];
  const [sx, sy] = [sheets.take(), sheets.take()];
  for (let k = 0; k < OUTER; k++) {
    poll();
    fn.flowData(slopes.at, bytes, equations.at, u.at, v.at, U.at, V.at, stride, w, h, DELTA, GAMMA);
    fn.flowTies(U.at, V.at, stride, w, h, sx.at, sy.at, ALPHA);
    fn.flowRelax(equations.at, bytes, sx.at, sy.at, U.at, V.at, stride, w, h, OMEGA, SWEEPS);
    // The pixel to the right of the last one and that below are tied to nothing, but looked at.
    [U, V].forEach((s) => sheets.repeatEdges(s));
  }
  u.plane.set(U.plane.subarray(0, floats));
  v.plane.set(V.plane.subarray(0, floats));
}
