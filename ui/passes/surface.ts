'use client';
import { useEffect, useState } from 'react';
import type { Shot, Step } from '@/core/document';
import type { Vec3 } from '@/core/geometry';
import { intersect, rect, width } from '@/core/geometry';
import type { RoledPass, SceneView } from '@/core/passes';
import type { Cloud } from '@/core/render';
import { focalPixels, normalsOf, onlyChannel, readSurface, surfaceChannels, surfacePasses, toDistance } from '@/core/passes';
import type { PictureInfo } from '@/core/picture';
import { scaleFormat } from '@/core/picture';
import { STEPS } from '@/core/steps';
import type { Viewer } from '@/engine/browser';
import { readingWorker } from '@/engine/browser';
import type { PassPixels } from './pass-pixels';
import { fetchPlanes, usePlanes } from './pass-pixels';
import type { Input } from './use-input';
import { infoAt, inputTap } from './use-input';

interface Named {
  position: string;
  depth: string;
  normal: string;
  focal: number;
  filmWidth: number;
}

/** What a step's parameters say of where surfaces are found; keys and links of the lens count as not said. */
export function namedBy(step: Step): Named {
  const schema = STEPS.get(step.type)?.params;
  const of = <T extends string | number>(name: string, fallback: T): T => {
    const v: unknown = step.params[name] ?? schema?.[name]?.default;
    return typeof v === typeof fallback ? (v as T) : fallback;
  };
  return {
    position: of('position', ''),
    depth: of('depth', ''),
    normal: of('normal', ''),
    focal: of('focal', 35),
    filmWidth: of('filmWidth', 36),
  };
}

export const surfaceChannelsOf = (step: Step, info: PictureInfo): string[] => {
  const channels = surfaceChannels(surfacePasses(info, namedBy(step)));
  return channels.length ? ['A', ...new Set(channels)] : [];
};

/** The depth of fetched pixels as distance along the view. */
export function distancesIn(step: Step, info: PictureInfo, depth: RoledPass, pixels: PassPixels): Float32Array {
  const format = scaleFormat(info.format, pixels.scale);
  const plane = pixels.plane(onlyChannel(depth));
  toDistance(plane, pixels.region, depth.facts, focalPixels(namedBy(step), format), format);
  return plane;
}

/** The same of one pixel. */
export function distanceAt(step: Step, info: PictureInfo, depth: RoledPass, pixels: PassPixels, index: number): number {
  const format = scaleFormat(info.format, pixels.scale);
  const [x, y] = pixels.placeOf(index);
  const one = Float32Array.of(pixels.at(onlyChannel(depth), index));
  toDistance(one, rect(x, y, x + 1, y + 1), depth.facts, focalPixels(namedBy(step), format), format);
  return one[0]!;
}

/** How a scene is seen, and some of the places that are, where those are wanted. */
export interface SceneSeen extends SceneView {
  readonly cloud: Cloud | null;
}

/** The camera of what a step stands on, in pixels of its format: found by a worker in a small picture, again only where the picture is another. */
export function useSceneView(step: Step | undefined, { info, ...input }: Input, withCloud = false): SceneSeen | null {
  const needed = step && info ? surfaceChannelsOf(step, info) : [];
  const channels = withCloud && needed.length ? [...new Set(['R', 'G', 'B', ...needed])] : needed;
  const pixels = usePlanes({ info, ...input }, channels, SMALL);
  const [view, setView] = useState<SceneSeen | null>(null);
  const named = step && JSON.stringify(namedBy(step));
  useEffect(() => {
    if (!pixels || !info || named === undefined) return;
    let live = true;
    seenIn(pixels, channels, info, JSON.parse(named) as Named, withCloud)
      .then((seen) => live && setView(seen))
      .catch(() => undefined);
    return () => {
      live = false;
    };
    // The pixels and the parameters say it all.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pixels, named]);
  return view;
}

/** The same at any frame; null where the picture there has no passes that tell it. */
export async function sceneViewAt(viewer: Viewer, shot: Shot, step: Step, frame: number): Promise<SceneSeen | null> {
  const tap = inputTap(shot, step.id);
  const info = infoAt(shot, tap, frame);
  const channels = info ? surfaceChannelsOf(step, info) : [];
  if (!tap || !info || channels.length === 0) return null;
  return seenIn(await fetchPlanes(viewer, shot, tap, frame, channels, SMALL), channels, info, namedBy(step), false);
}

async function seenIn(
  pixels: PassPixels,
  channels: readonly string[],
  info: PictureInfo,
  p: Named,
  withCloud: boolean,
): Promise<SceneSeen> {
  const planes = Object.fromEntries(channels.map((c) => [c, pixels.plane(c)]));
  const small = scaleFormat(info.format, SMALL);
  const { camera, placed, cloud } = await readingWorker.call((w) =>
    w.sceneView(surfacePasses(info, p), planes, pixels.region, small, p, withCloud),
  );
  const { width: w, height: h } = info.format;
  return { camera: { ...camera, focal: camera.focal / SMALL, centre: [w / 2, h / 2] }, placed, cloud };
}
const SMALL = 0.25;

/** The surface at a full-size pixel; null where nothing is. */
export function surfaceAt(
  step: Step,
  info: PictureInfo,
  pixels: PassPixels,
  view: SceneView,
  index: number,
): { at: Vec3; normal: Vec3; distance: number } | null {
  if (index < 0 || !(pixels.at('A', index) > 0)) return null;
  const [x, y] = pixels.placeOf(index);
  // Its neighbours tell which way it looks.
  const part = intersect(rect(x - 1, y - 1, x + 2, y + 2), pixels.region);
  const w = width(part);
  const cells = Array.from({ length: w * (part.y1 - part.y0) }, (_, i) => [part.x0 + (i % w), part.y0 + Math.floor(i / w)] as const);
  const planes = Object.fromEntries(
    surfaceChannelsOf(step, info).map((c) => [c, Float32Array.from(cells, ([u, v]) => pixels.at(c, pixels.indexAt(u + 0.5, v + 0.5)))]),
  );
  const take = (n: number): Float32Array => new Float32Array(n);
  const named = namedBy(step);
  const s = readSurface(surfacePasses(info, named), planes, part, info.format, named, take, view);
  const [nx, ny, nz] = s.normals ?? normalsOf(s, w, take);
  const i = (y - part.y0) * w + x - part.x0;
  if (!(s.distance[i]! < Infinity)) return null;
  return { at: [s.x[i]!, s.y[i]!, s.z[i]!], normal: [nx[i]!, ny[i]!, nz[i]!], distance: s.distance[i]! };
}
