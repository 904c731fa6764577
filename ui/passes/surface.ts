import type { Step } from '@/core/document/types';
import type { RenderCamera, Vec3 } from '@/core/passes/camera';
import { surfaceChannels, surfacePasses, readSurface, normalsOf } from '@/core/passes/positions';
import type { Surface } from '@/core/passes/positions';
import type { PictureInfo } from '@/core/picture';
import { scaleFormat } from '@/core/picture';
import { width } from '@/core/geometry/rect';
import { schemaOf } from '@/core/params/parts';
import { STEPS } from '@/core/steps';
import type { PassPixels } from './pass-pixels';

interface Named {
  position: string;
  depth: string;
  normal: string;
  focal: number;
  filmWidth: number;
}

/** What a step's parameters say of where surfaces are found. */
function namedBy(step: Step): Named {
  const schema = schemaOf(STEPS.get(step.type)?.params, step.params);
  const value = (name: string, fallback: string | number): string | number => {
    const v = step.params[name] ?? schema[name]?.default;
    return typeof v === typeof fallback ? (v as string | number) : fallback;
  };
  return {
    position: String(value('position', '')),
    depth: String(value('depth', '')),
    normal: String(value('normal', '')),
    focal: Number(value('focal', 35)),
    filmWidth: Number(value('filmWidth', 36)),
  };
}

export const surfaceChannelsOf = (step: Step, info: PictureInfo): string[] => {
  const channels = surfaceChannels(surfacePasses(info, namedBy(step)));
  return channels.length ? ['A', ...new Set(channels)] : [];
};

/** By pixels, which are another object on each frame: read once. */
const read = new WeakMap<PassPixels, { key: string; surface: Surface & { normals: NonNullable<Surface['normals']> } }>();

/** The surfaces that a step's picture shows, of pixels that were fetched for it. */
export function surfaceOf(step: Step, info: PictureInfo, pixels: PassPixels): Surface & { normals: NonNullable<Surface['normals']> } {
  const named = namedBy(step);
  const key = JSON.stringify(named);
  const known = read.get(pixels);
  if (known?.key === key) return known.surface;
  const take = (n: number): Float32Array => new Float32Array(n);
  const format = scaleFormat(info.format, pixels.scale);
  const s = readSurface(surfacePasses(info, named), pixels.planes, pixels.region, format, named, take);
  const surface = { ...s, normals: s.normals ?? normalsOf(s, width(pixels.region), take) };
  read.set(pixels, { key, surface });
  return surface;
}

/** The surface at a pixel; null where nothing is. */
export function surfaceAt(
  step: Step,
  info: PictureInfo,
  pixels: PassPixels,
  index: number,
): { at: Vec3; normal: Vec3; distance: number; camera: RenderCamera } | null {
  if (index < 0 || !pixels.planes.A || !(pixels.planes.A[index]! > 0)) return null;
  const s = surfaceOf(step, info, pixels);
  const distance = s.distance[index]!;
  if (!(distance < Infinity)) return null;
  return {
    at: [s.x[index]!, s.y[index]!, s.z[index]!],
    normal: [s.normals[0][index]!, s.normals[1][index]!, s.normals[2][index]!],
    distance,
    camera: s.camera,
  };
}
