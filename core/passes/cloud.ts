import type { Cloud } from '../render/cloud';
import type { Surface } from './positions';

const MOST = 16_000;

/** Places of pixels spread evenly over the picture, as many as `most`; only those that are covered by half. `w` is the surface's width, px. */
export function cloudOf(s: Surface, planes: Readonly<Record<string, Float32Array>>, w: number, most = MOST): Cloud {
  const alpha = planes.A!;
  const isThere = (i: number): boolean => alpha[i]! >= 0.5 && s.distance[i] !== Infinity;
  let count = 0;
  for (let i = 0; i < alpha.length; i++) if (isThere(i)) count++;
  const stride = Math.max(1, Math.ceil(Math.sqrt(count / most)));
  const places: number[] = [];
  const colours: number[] = [];
  for (let i = 0; i < alpha.length; i++) {
    if ((i % w) % stride !== 0 || Math.floor(i / w) % stride !== 0 || !isThere(i)) continue;
    places.push(s.x[i]!, s.y[i]!, s.z[i]!);
    colours.push(...['R', 'G', 'B'].map((c) => Math.max(0, (planes[c]?.[i] ?? 0.3) / alpha[i]!)));
  }
  return { places: Float32Array.from(places), colours: Float32Array.from(colours) };
}
