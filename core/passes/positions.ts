import type { Rect } from '../geometry/rect';
import { width } from '../geometry/rect';
import type { Format, PictureInfo } from '../picture';
import type { PositionPlanes, RenderCamera } from './camera';
import { fitCamera, plainCamera } from './camera';
import { focalPixels, onlyChannel, takeFromSolid, toDistance } from './depth';
import type { PassFacts, RoledPass } from './roles';
import { passOf } from './roles';

/** Where a step finds the surface that each pixel shows. */
export interface SurfaceParams {
  readonly position?: string;
  readonly depth?: string;
  readonly normal?: string;
  readonly focal: number;
  readonly filmWidth: number;
}

export interface SurfacePasses {
  readonly position?: RoledPass | undefined;
  readonly depth?: RoledPass | undefined;
  readonly normal?: RoledPass | undefined;
}

export const surfacePasses = (main: PictureInfo | undefined, p: SurfaceParams): SurfacePasses => ({
  position: passOf(main?.passes, p.position ?? '', 'position'),
  depth: passOf(main?.passes, p.depth ?? '', 'depth'),
  normal: passOf(main?.passes, p.normal ?? '', 'normal'),
});

/** The channels to read for it. */
export const surfaceChannels = ({ position, depth, normal }: SurfacePasses): string[] => [
  ...(position ? position.channels : []),
  ...(depth ? [onlyChannel(depth)] : []),
  ...(normal ? normal.channels : []),
];

/** The signs of x, y, z that bring a pass to the usual axes. */
export const signsOf = ({ turned = '' }: PassFacts = {}): [number, number, number] => [
  turned.includes('x') ? -1 : 1,
  turned.includes('y') ? -1 : 1,
  turned.includes('z') ? -1 : 1,
];

/** How a scene is seen. */
export interface SceneView {
  readonly camera: RenderCamera;
  /** False where positions are of no pinhole camera: then nothing is known of what stands before what. */
  readonly placed: boolean;
}

/** Where each pixel's surface is: x, y, z in the scene's units, distance along the view, Infinity where nothing is. */
export interface Surface extends SceneView {
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly z: Float32Array;
  readonly distance: Float32Array;
  /** Unit normals towards the outside; absent where the picture has none. */
  readonly normals?: readonly [Float32Array, Float32Array, Float32Array];
}

/**
 * Reads positions, or makes them of depth and the lens given; the camera is found from the positions. At soft edges what the most covered neighbour shows
 * is taken. `take` gives scratch; a camera that is known already is not looked for.
 */
export function readSurface(
  passes: SurfacePasses,
  planes: Readonly<Record<string, Float32Array>>,
  region: Rect,
  format: Format,
  p: SurfaceParams,
  take: (n: number) => Float32Array,
  view?: SceneView,
): Surface {
  const alpha = planes.A!;
  const n = alpha.length;
  const w = width(region);
  const copy = (channel: string | undefined, sign = 1): Float32Array => {
    const to = take(n);
    const from = channel === undefined ? undefined : planes[channel];
    if (from) for (let i = 0; i < n; i++) to[i] = from[i]! * sign;
    else to.fill(0);
    return to;
  };
  const normals = passes.normal && readNormals(passes.normal, copy);
  const focal = focalPixels(p, format);
  const { position, depth } = passes;
  if (position) {
    const signs = signsOf(position.facts);
    const at = position.channels.slice(0, 3).map((c, i) => copy(c, signs[i]!)) as [Float32Array, Float32Array, Float32Array];
    takeFromSolid([...at, ...(normals ?? [])], alpha, w);
    const [x, y, z] = at;
    const { camera, placed } = view ?? viewOf({ x, y, z }, depth, copy, region, format, focal);
    const distance = take(n);
    const { eye, forward } = camera;
    for (let i = 0; i < n; i++) {
      const d = (x[i]! - eye[0]) * forward[0] + (y[i]! - eye[1]) * forward[1] + (z[i]! - eye[2]) * forward[2];
      distance[i] = alpha[i]! > 0 && Number.isFinite(d) && (d > 0 || !placed) ? (placed ? d : 1) : Infinity;
    }
    const [own, of] = [position.facts?.space ?? 'world', passes.normal?.facts?.space ?? 'world'];
    if (normals && own === 'world' && of === 'camera') toWorld(normals, camera);
    // How the camera stands in the world is not known of positions in its own axes: normals of the world say nothing there.
    const usable = normals && !(own === 'camera' && of === 'world');
    return { x, y, z, distance, camera, placed, ...(usable && { normals }) };
  }
  const camera = plainCamera(focal, format);
  const distance = copy(depth && onlyChannel(depth));
  toDistance(distance, region, depth?.facts, focal, format);
  takeFromSolid([distance, ...(normals ?? [])], alpha, w);
  const [x, y, z] = [take(n), take(n), take(n)];
  for (let i = 0; i < n; i++) {
    const d = distance[i]! === Infinity ? 0 : distance[i]!;
    x[i] = ((region.x0 + (i % w) + 0.5 - camera.centre[0]) / focal) * d;
    y[i] = (-(region.y0 + Math.floor(i / w) + 0.5 - camera.centre[1]) / focal) * d;
    z[i] = -d;
  }
  return { x, y, z, distance, camera, placed: true, ...(normals && { normals }) };
}

/** The camera of positions, and of the depth where that is distance along the view. */
function viewOf(
  at: PositionPlanes,
  depth: RoledPass | undefined,
  copy: (c: string) => Float32Array,
  region: Rect,
  format: Format,
  focal: number,
): SceneView {
  const known = depth && depth.facts?.along !== 'ray' && depth.facts?.as !== 'nearness' ? copy(onlyChannel(depth)) : undefined;
  if (known) toDistance(known, region, depth!.facts);
  const found = (known && fitCamera(at, region, format, known)) ?? fitCamera(at, region, format);
  return { camera: found?.camera ?? plainCamera(focal, format), placed: found !== null };
}

function readNormals(
  pass: RoledPass,
  copy: (c: string | undefined, sign?: number) => Float32Array,
): [Float32Array, Float32Array, Float32Array] {
  const signs = signsOf(pass.facts);
  const planes = [0, 1, 2].map((i) => copy(pass.channels[i])) as [Float32Array, Float32Array, Float32Array];
  const [x, y, z] = planes;
  const [gain, offset] = pass.facts?.packed ? [2, -1] : [1, 0];
  const [sx, sy, sz] = signs;
  for (let i = 0; i < x.length; i++) {
    const a = gain * x[i]! + offset;
    const b = gain * y[i]! + offset;
    const c = gain * z[i]! + offset;
    // Those that are not one long, as at blended edges, are made so; those that are nothing stay nothing.
    const length = Math.sqrt(a * a + b * b + c * c);
    const k = length > 1e-3 && length < Infinity ? 1 / length : 0;
    x[i] = k === 0 ? 0 : a * k * sx;
    y[i] = k === 0 ? 0 : b * k * sy;
    z[i] = k === 0 ? 0 : c * k * sz;
  }
  return planes;
}

/** From the camera's axes, x right, y up, z towards it, to the world's. */
function toWorld([x, y, z]: readonly [Float32Array, Float32Array, Float32Array], { right, down, forward }: RenderCamera): void {
  for (let i = 0; i < x.length; i++) {
    const [a, b, c] = [x[i]!, -y[i]!, -z[i]!];
    x[i] = a * right[0] + b * down[0] + c * forward[0];
    y[i] = a * right[1] + b * down[1] + c * forward[1];
    z[i] = a * right[2] + b * down[2] + c * forward[2];
  }
}

/** Normals of surfaces of which only positions are known, by the nearer of the two differences along each axis; towards the camera. */
export function normalsOf(s: Surface, w: number, take: (n: number) => Float32Array): [Float32Array, Float32Array, Float32Array] {
  const n = s.x.length;
  const h = n / w;
  const out = [take(n), take(n), take(n)] as [Float32Array, Float32Array, Float32Array];
  const across: [number, number, number] = [0, 0, 0];
  const downward: [number, number, number] = [0, 0, 0];
  const difference = (i: number, before: number, after: number, to: [number, number, number]): boolean => {
    const d = s.distance[i]!;
    const ahead = after >= 0 ? Math.abs(s.distance[after]! - d) : Infinity;
    const behind = before >= 0 ? Math.abs(s.distance[before]! - d) : Infinity;
    if (ahead === Infinity && behind === Infinity) return false;
    const [a, b] = ahead <= behind ? [i, after] : [before, i];
    to[0] = s.x[b]! - s.x[a]!;
    to[1] = s.y[b]! - s.y[a]!;
    to[2] = s.z[b]! - s.z[a]!;
    return true;
  };
  for (let i = 0; i < n; i++) {
    const [x, y] = [i % w, Math.floor(i / w)];
    const there =
      s.distance[i]! < Infinity &&
      difference(i, x > 0 ? i - 1 : -1, x < w - 1 ? i + 1 : -1, across) &&
      difference(i, y > 0 ? i - w : -1, y < h - 1 ? i + w : -1, downward);
    let [a, b, c] = [0, 0, 0];
    if (there) {
      // Down the picture times along it points to the camera.
      a = downward[1] * across[2] - downward[2] * across[1];
      b = downward[2] * across[0] - downward[0] * across[2];
      c = downward[0] * across[1] - downward[1] * across[0];
      const k = 1 / (Math.hypot(a, b, c) || 1);
      [a, b, c] = [a * k, b * k, c * k];
    }
    [out[0][i], out[1][i], out[2][i]] = [a, b, c];
  }
  return out;
}
