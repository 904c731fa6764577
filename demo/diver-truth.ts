import { EYE, FOCAL, lensRay, rayAt } from './diver-camera';
import type { AddedLamp, Hit, Light, Part } from './diver-light';
import { addedLight, glassLight, openness, shade, trace } from './diver-light';
import type { Vec } from './diver';
import { add, dot, poseAt, toObject } from './diver';
import { hash } from './noise';
import { boundsOf } from './sg030';

/** The diver rendered otherwise than its passes say: what a re-lit, refocused or blurred composite should look like. */
export interface TruthOptions {
  width: number;
  height: number;
  /** Rays a pixel. */
  samples: number;
  /** What is given of each lamp and of each part of the material; all of it unless said. */
  lights?: Partial<Record<Light, Vec>>;
  parts?: Partial<Record<Part, Vec>>;
  lamps?: readonly AddedLamp[];
  /** Only what the added lamps give. */
  addedOnly?: boolean;
  /** A thin lens: metres of its radius, and the distance in focus. */
  lens?: { radius: number; focus: number };
  /** Frames that the shutter stays open, around the frame. */
  shutter?: number;
  /** A picture on a card across the view, at a distance: light by pixel. */
  backdrop?: { depth: number; at(x: number, y: number): Vec };
}

/** R, G, B, A planes of the whole frame. */
export function renderDiverTruth(frame: number, o: TruthOptions): Float32Array[] {
  const { width, height, samples, lens, shutter = 0 } = o;
  const out = [0, 1, 2, 3].map(() => new Float32Array(width * height));
  const near = boundsOf(o);
  const still = poseAt(frame);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const close = x >= near.x0 - 60 && x < near.x1 + 60 && y >= near.y0 - 60 && y < near.y1 + 60;
      if (!close && !o.backdrop) continue;
      const sum = [0, 0, 0, 0];
      for (let s = 0; s < samples; s++) {
        const r = (k: number): number =>
          (hash(x + 1009 * k, y, 90001) + s * [0.7548776662, 0.5698402909, 0.6180339887, 0.8191725134, 0.6710436067][k]!) % 1;
        const [px, py] = [x + r(0), y + r(1)];
        const pose = shutter > 0 ? poseAt(frame + shutter * ((s + r(2)) / samples - 0.5)) : still;
        const turn = 2 * Math.PI * r(3);
        const wide = Math.sqrt(r(4)) * (lens?.radius ?? 0);
        const { from, dir } = lens
          ? lensRay(px, py, o, [wide * Math.cos(turn), wide * Math.sin(turn)], lens.focus)
          : { from: EYE, dir: rayAt(px, py, o) };
        const view = toObject(dir, pose.turn);
        const hit = close ? trace(toObject(from, pose.turn), view, 4.8, 7.8, pose, 96) : null;
        const c = hit ? lightOf(hit, view, pose, o) : backdropAt(from, dir, o);
        if (!c) continue;
        for (let j = 0; j < 3; j++) sum[j]! += c[j]!;
        sum[3]!++;
      }
      sum.forEach((v, j) => (out[j]![y * width + x] = v / samples));
    }
  }
  return out;
}

function lightOf(hit: Hit, view: Vec, pose: ReturnType<typeof poseAt>, o: TruthOptions): Vec {
  const sum: Vec = [0, 0, 0];
  if (!o.addedOnly) {
    shade(hit, view, pose, openness(hit.at, hit.normal, pose), (part, light, c) => {
      const [p, l] = [o.parts?.[part], light ? o.lights?.[light] : undefined];
      for (let j = 0; j < 3; j++) sum[j]! += c[j]! * (p?.[j] ?? 1) * (l?.[j] ?? 1);
    });
    glassLight(hit, view).forEach((v, j) => (sum[j]! += v));
  }
  for (const lamp of o.lamps ?? []) addedLight(hit, pose, lamp).forEach((v, j) => (sum[j]! += v));
  return sum;
}

/** The card stands across the view: where the ray meets it is seen from the middle of the lens at a pixel of the picture. */
function backdropAt(from: Vec, dir: Vec, o: TruthOptions): Vec | null {
  if (!o.backdrop) return null;
  const axis = rayAt(o.width / 2, o.height / 2, o);
  const far = (o.backdrop.depth - dot(add(from, EYE, -1), axis)) / dot(dir, axis);
  const at = add(add(from, EYE, -1), dir, far);
  const depth = dot(at, axis);
  const f = FOCAL * o.height;
  const up: Vec = [0, -axis[2], axis[1]];
  const [x, y] = [o.width / 2 + (f * at[0]) / depth, o.height / 2 - (f * dot(at, up)) / depth];
  return o.backdrop.at(x, y);
}
