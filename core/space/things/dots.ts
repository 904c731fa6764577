import type { Vec3 } from '../../geometry/vec3';
import { width } from '../../geometry/rect';
import { LRUCache } from 'lru-cache';
import { plainCamera } from '../../passes/camera';
import { cloudOf } from '../../passes/cloud';
import { readSurface, surfacePasses } from '../../passes/positions';
import type { PictureInfo } from '../../picture';
import { RGBA } from '../../picture';
import type { Affine3 } from '../../render/affine';
import { pointA3 } from '../../render/affine';
import type { Cloud } from '../../render/cloud';
import type { Mesh } from '../../render/mesh';
import { backTo } from '../../render/render';
import type { View } from '../../render/screen';
import { NEAR } from '../../render/screen';
import type { Given } from './pictures';

const FILM = 36;

/** The passes that places can be taken from, and the channels to read for it; null where a picture has none. */
export function cloudChannels(info: PictureInfo): string[] | null {
  const { position, depth } = surfacePasses(info, { focal: FILM, filmWidth: FILM });
  const pass = position ?? depth;
  return pass ? [...new Set([...RGBA.filter((c) => info.channels.includes(c)), ...pass.channels])] : null;
}

/**
 * Places that a picture shows, in the world, with its colours: from its position pass, or from its depth, seen through `view` (of a picture as wide as `across` px). Null where it has neither, or no
 * camera to see its depth through.
 */
export function pictureCloud({ info, tile }: Given, view: View | null, across: number, most: number): Cloud | null {
  const { format } = info;
  const { position, depth } = surfacePasses(info, { focal: FILM, filmWidth: FILM });
  if (!position && (!depth || !view)) return null;
  const k = format.width / across;
  const focal = (view?.focal ?? across) * k;
  const n = tile.planes[(position ?? depth)!.channels[0]!]?.length ?? 0;
  const planes: Record<string, Float32Array> = tile.planes.A ? tile.planes : { ...tile.planes, A: new Float32Array(n).fill(1) };
  // Where it was seen from is not asked: positions say where they are.
  const surface = readSurface(
    position ? { position } : { depth },
    planes,
    tile.region,
    format,
    { focal: (focal / format.width) * FILM, filmWidth: FILM },
    (m) => new Float32Array(m),
    position && { camera: plainCamera(focal, format), placed: false },
  );
  if (!position) {
    const from: View = { ...view!, focal, centre: [view!.centre[0] * k, view!.centre[1] * k] };
    const [w, { x0, y0 }] = [width(tile.region), tile.region];
    for (let i = 0; i < n; i++) {
      const z = surface.distance[i]!;
      if (z === Infinity) continue;
      const [x, y, d] = backTo(from, x0 + (i % w) + 0.5, y0 + Math.floor(i / w) + 0.5, z);
      surface.x[i] = x;
      surface.y[i] = y;
      surface.z[i] = d;
    }
  }
  return cloudOf(surface, planes, width(tile.region), most);
}

/** Of the pictures that were read last: moving the points reads none again. */
const recent = new LRUCache<string, { cloud: Cloud | null }>({ max: 8 });
export function cloudOnce(key: string, make: () => Cloud | null): Cloud | null {
  let had = recent.get(key);
  if (!had) recent.set(key, (had = { cloud: make() }));
  return had.cloud;
}

const CORNERS = 8;

/** Places as round dots that face a camera, so many pixels across wherever they are; those behind it are left out. In the world. */
export function dotsMesh(cloud: Cloud, place: Affine3, view: View, size: number): Mesh {
  const { matrix: m, focal } = view;
  const [right, down, ahead] = [0, 4, 8].map((r): Vec3 => [m[r]!, m[r + 1]!, m[r + 2]!]) as [Vec3, Vec3, Vec3];
  const seen: { at: Vec3; radius: number; colour: number }[] = [];
  for (let i = 0; i < cloud.places.length; i += 3) {
    const at = pointA3(place, [cloud.places[i]!, cloud.places[i + 1]!, cloud.places[i + 2]!]);
    const z = ahead[0] * at[0] + ahead[1] * at[1] + ahead[2] * at[2] + m[11]!;
    if (z > 10 * NEAR) seen.push({ at, radius: (size / 2) * (z / focal), colour: i });
  }
  const positions = new Float32Array(3 * CORNERS * seen.length);
  const normals = new Float32Array(positions.length);
  const colours = new Float32Array(4 * CORNERS * seen.length);
  const indices = new Uint32Array(3 * (CORNERS - 2) * seen.length);
  seen.forEach(({ at, radius, colour }, d) => {
    for (let c = 0; c < CORNERS; c++) {
      const turn = (2 * Math.PI * (c + 0.5)) / CORNERS;
      const [a, b] = [radius * Math.cos(turn), radius * Math.sin(turn)];
      const v = CORNERS * d + c;
      for (let q = 0; q < 3; q++) {
        positions[3 * v + q] = at[q]! + a * right[q]! + b * down[q]!;
        normals[3 * v + q] = -ahead[q]!;
        colours[4 * v + q] = cloud.colours[colour + q]!;
      }
      colours[4 * v + 3] = 1;
    }
    for (let c = 0; c + 2 < CORNERS; c++) indices.set([CORNERS * d, CORNERS * d + c + 2, CORNERS * d + c + 1], 3 * ((CORNERS - 2) * d + c));
  });
  return { positions, normals, colours, indices };
}
