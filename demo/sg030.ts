import type { Rect } from '@/core/geometry';
import { rect } from '@/core/geometry';
import { floatOfId, idOfName } from '@/core/formats';
import { EYE, project, rayAt } from './diver-camera';
import type { Hit } from './diver-light';
import { LIGHTS, MATERIAL, glassLight, materialOf, openness, shade, trace } from './diver-light';
import type { Vec } from './diver';
import { BOLLARD, LAMP, OBJECTS, add, lampAt, poseAt, toObject, toWorld, turnAt, uvAt } from './diver';

/** How the diver's passes are made. */
export interface DiverOptions {
  width: number;
  height: number;
  /** Rays a pixel. */
  samples: number;
}
export const SG030: DiverOptions = { width: 960, height: 540, samples: 8 };
export const DIVER_FRAMES = { first: 1, last: 24 };

/** Colour passes: three channels each, premultiplied by coverage; the parts make the beauty but for the glass. */
const COLOUR_LAYERS = [...MATERIAL, ...LIGHTS.map((l) => `light_${l}`), 'albedo'];
export const ID_NAME = 'CryptoObject';
/** What Z says where there is nothing. */
export const NOTHING = 1000;

export interface DiverFrame {
  bounds: Rect;
  /** Channels of the pass set over the bounds. */
  planes: Record<string, Float32Array>;
  /** What the passes leave out of the beauty: the light that comes through the glass. */
  glass: [Float32Array, Float32Array, Float32Array];
}

/** Where the diver can be seen in any frame of the shot. */
export function boundsOf(o: { width: number; height: number }): Rect {
  const corners = [-0.74, 0.64].flatMap((x) => [-0.02, 2.02].flatMap((y) => [-0.45, 0.55].map((z) => project([x, y, z], o))));
  const [xs, ys] = [corners.map((c) => c[0]), corners.map((c) => c[1])];
  return rect(
    Math.max(0, Math.floor(Math.min(...xs))),
    Math.max(0, Math.floor(Math.min(...ys))),
    Math.min(o.width, Math.ceil(Math.max(...xs))),
    Math.min(o.height, Math.ceil(Math.max(...ys))),
  );
}

/** All passes of a frame. Data passes are those of the nearest hit in a pixel, not blended; Z is NOTHING where there is none. */
export function renderDiver(frame: number, o: DiverOptions): DiverFrame {
  const bounds = boundsOf(o);
  const w = bounds.x1 - bounds.x0;
  const n = w * (bounds.y1 - bounds.y0);
  const planes: Record<string, Float32Array> = {};
  const plane = (name: string): Float32Array => (planes[name] ??= new Float32Array(n));
  const glass: DiverFrame['glass'] = [new Float32Array(n), new Float32Array(n), new Float32Array(n)];
  const pose = poseAt(frame);
  const from = toObject(EYE, pose.turn);
  for (const layer of COLOUR_LAYERS) for (const c of 'RGB') plane(`${layer}.${c}`);
  plane('Z').fill(NOTHING);
  for (let i = 0; i < n; i++) {
    const [px, py] = [bounds.x0 + (i % w), bounds.y0 + Math.floor(i / w)];
    const covered = new Map<number, number>();
    let front: { hit: Hit; depth: number } | null = null;
    const share = 1 / o.samples;
    const put = (layer: string, c: Vec): void => 'RGB'.split('').forEach((k, j) => (plane(`${layer}.${k}`)[i]! += c[j]! * share));
    for (let s = 0; s < o.samples; s++) {
      const view = toObject(rayAt(px + (s + 0.5) / o.samples, py + (((s * 5) % o.samples) + 0.5) / o.samples, o), pose.turn);
      const hit = trace(from, view, 5, 7.6, pose, 90);
      if (!hit) continue;
      const occlusion = openness(hit.at, hit.normal, pose);
      shade(hit, view, pose, occlusion, (part, light, c) => {
        put(part, c);
        if (light) put(`light_${light}`, c);
      });
      put('albedo', materialOf(hit, pose).colour);
      glassLight(hit, view).forEach((v, j) => (glass[j]![i]! += v * share));
      plane('occlusion.V')[i]! += occlusion * share;
      plane('A')[i]! += share;
      covered.set(hit.object, (covered.get(hit.object) ?? 0) + share);
      const depth = project(toWorld(hit.at, pose.turn), o)[2];
      if (!front || depth < front.depth) front = { hit, depth };
    }
    if (front) writeData(front.hit, front.depth, frame, i, plane, o);
    [...covered]
      .sort((a, b) => b[1] - a[1])
      .slice(0, 4)
      .forEach(([object, part], rank) => {
        const layer = `${ID_NAME}0${rank >> 1}`;
        plane(`${layer}.${rank % 2 ? 'B' : 'R'}`)[i] = floatOfId(idOfName(OBJECTS[object]!));
        plane(`${layer}.${rank % 2 ? 'A' : 'G'}`)[i] = part;
      });
  }
  'RGB'.split('').forEach((c, j) => {
    const sum = plane(c);
    for (let i = 0; i < n; i++) sum[i] = glass[j]![i]! + MATERIAL.reduce((s, l) => s + plane(`${l}.${c}`)[i]!, 0);
  });
  for (const l of ['00', '01']) for (const c of 'RGBA') plane(`${ID_NAME}${l}.${c}`);
  return { bounds, planes, glass };
}

function writeData(hit: Hit, depth: number, frame: number, i: number, plane: (name: string) => Float32Array, o: DiverOptions): void {
  const turn = turnAt(frame);
  const world = toWorld(hit.at, turn);
  const normal = toWorld(hit.normal, turn);
  plane('Z')[i] = depth;
  'XYZ'.split('').forEach((c, j) => {
    plane(`N.${c}`)[i] = normal[j]!;
    plane(`P.${c}`)[i] = world[j]!;
  });
  const [u, v] = uvAt(hit.at);
  plane('uv.U')[i] = u;
  plane('uv.V')[i] = v;
  plane('objectId.Y')[i] = hit.object + 1;
  const standing = hit.object === BOLLARD;
  const moved = (time: number): [number, number, number] => {
    if (standing) return project(world, o);
    const swing: Vec = hit.object === LAMP ? add(lampAt(time), lampAt(frame), -1) : [0, 0, 0];
    return project(toWorld(add(hit.at, swing), turnAt(time)), o);
  };
  const [a, b] = [moved(frame - 0.5), moved(frame + 0.5)];
  plane('motion.X')[i] = b[0] - a[0];
  plane('motion.Y')[i] = b[1] - a[1];
}
