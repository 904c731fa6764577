'use client';
import { useEffect, useState } from 'react';
import type { Shot, Tap } from '@/core/document/types';
import type { Rect } from '@/core/geometry/rect';
import { width } from '@/core/geometry/rect';
import type { Viewer } from '@/engine/browser/viewer';
import { useBench, useShot } from '../workbench/context';
import { useView } from '../workbench/state';

/** Some channels of a picture as they are, by their names. */
export interface PassPixels {
  readonly region: Rect;
  readonly scale: number;
  readonly planes: Readonly<Record<string, Float32Array>>;
}

/** Fetches channels of a point, four at a time. */
export async function fetchPlanes(
  viewer: Viewer,
  shot: Shot,
  tap: Tap,
  frame: number,
  channels: readonly string[],
  scale: number,
  signal?: AbortSignal,
): Promise<PassPixels> {
  const planes: Record<string, Float32Array> = {};
  let region: Rect = { x0: 0, y0: 0, x1: 0, y1: 0 };
  for (let k = 0; k < channels.length; k += 4) {
    const four = channels.slice(k, k + 4);
    const got = await viewer.fetch(shot, { tap, frame, scale, channels: four }, 'view', signal);
    ({ region } = got);
    const n = got.pixels.length / 4;
    four.forEach((c, j) => {
      const plane = new Float32Array(n);
      for (let i = 0; i < n; i++) plane[i] = got.pixels[4 * i + j]!;
      planes[c] = plane;
    });
  }
  return { region, scale, planes };
}

/** Those of a point at the frame seen, once they have come. */
export function usePlanes(tap: Tap | null, channels: readonly string[], scale = 1): PassPixels | null {
  const { viewer } = useBench();
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const [found, setFound] = useState<PassPixels | null>(null);
  const names = channels.join(' ');
  useEffect(() => {
    if (!tap || !names) return setFound(null);
    const controller = new AbortController();
    fetchPlanes(viewer, shot, tap, frame, names.split(' '), scale, controller.signal)
      .then((planes) => !controller.signal.aborted && setFound(planes))
      .catch(() => undefined);
    return () => controller.abort();
    // The tap is another object at each drawing.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [viewer, shot, tap?.lane, tap?.after, frame, names, scale]);
  return found;
}

/** The place of a full-size position among the pixels; −1 outside. */
export function indexAt({ region, scale }: PassPixels, x: number, y: number): number {
  const [u, v] = [Math.floor(x * scale), Math.floor(y * scale)];
  if (u < region.x0 || v < region.y0 || u >= region.x1 || v >= region.y1) return -1;
  return (v - region.y0) * width(region) + u - region.x0;
}
