'use client';
import { useEffect, useState } from 'react';
import type { Shot, Tap } from '@/core/document';
import type { Rect } from '@/core/geometry';
import { width } from '@/core/geometry';
import type { Viewer } from '@/engine/browser';
import { useBench, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import type { Input } from './use-input';

/** Some channels of a picture as they are. They stay as they were delivered, four a pixel: few of them are ever looked at. */
export class PassPixels {
  constructor(
    readonly region: Rect,
    readonly scale: number,
    private readonly channels: readonly string[],
    private readonly fours: readonly Float32Array[],
  ) {}

  /** The value of a channel at a pixel of the region; 0 of one that was not fetched. */
  at(channel: string, index: number): number {
    const k = this.channels.indexOf(channel);
    return k < 0 ? 0 : this.fours[k >> 2]![4 * index + (k & 3)]!;
  }

  /** A channel by itself, another plane each time. */
  plane(channel: string): Float32Array {
    const k = this.channels.indexOf(channel);
    const four = this.fours[k >> 2];
    return new Float32Array((this.fours[0]?.length ?? 0) / 4).map((_, i) => four?.[4 * i + (k & 3)] ?? 0);
  }

  /** Where a full-size position lies among the pixels; −1 outside. */
  indexAt(x: number, y: number): number {
    const [u, v] = [Math.floor(x * this.scale), Math.floor(y * this.scale)];
    const { x0, y0, x1, y1 } = this.region;
    return u < x0 || v < y0 || u >= x1 || v >= y1 ? -1 : (v - y0) * width(this.region) + u - x0;
  }

  /** The pixel with an index. */
  placeOf(index: number): [number, number] {
    const w = width(this.region);
    return [this.region.x0 + (index % w), this.region.y0 + Math.floor(index / w)];
  }
}

/** Fetches channels of a point. */
export async function fetchPlanes(
  viewer: Viewer,
  shot: Shot,
  tap: Tap,
  frame: number,
  channels: readonly string[],
  scale: number,
  signal?: AbortSignal,
): Promise<PassPixels> {
  const fours: Float32Array[] = [];
  let region: Rect = { x0: 0, y0: 0, x1: 0, y1: 0 };
  for (let k = 0; k < channels.length; k += 4) {
    const got = await viewer.fetch(shot, { tap, frame, scale, channels: channels.slice(k, k + 4) }, 'view', signal);
    ({ region } = got);
    // The frame's memory is used again.
    fours.push(got.pixels.slice());
  }
  return new PassPixels(region, scale, channels, fours);
}

/** Those of a step's input at the frame seen, once they have come; fetched again only where its pixels are others. */
export function usePlanes({ tap, key }: Input, channels: readonly string[], scale = 1, later = 0): PassPixels | null {
  const { viewer } = useBench();
  const shot = useShot();
  const frame = useView((s) => s.frame) + later;
  const [found, setFound] = useState<PassPixels | null>(null);
  const names = channels.join(' ');
  useEffect(() => {
    if (!tap || !names) return setFound(null);
    const controller = new AbortController();
    fetchPlanes(viewer, shot, tap, frame, names.split(' '), scale, controller.signal)
      .then((planes) => !controller.signal.aborted && setFound(planes))
      .catch(() => undefined);
    return () => controller.abort();
    // The key stands for the point's pixels at the frame, whatever else of the shot has changed.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [viewer, key, names, scale]);
  return found;
}
