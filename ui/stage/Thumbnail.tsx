'use client';
import { useEffect, useRef } from 'react';
import type { Tap } from '@/core/document/types';
import { requestFor } from '../workbench/use-picture';
import { useBench, useShot } from '../workbench/context';
import { drawSmall } from './draw-small';

/** A small picture of a point of a lane at the middle of the range; made when nothing more urgent is asked for. */
export function Thumbnail({ tap, width, height, matte }: { tap: Tap; width: number; height: number; matte?: boolean }) {
  const { viewer } = useBench();
  const shot = useShot();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { lane, after } = tap;
  useEffect(() => {
    const controller = new AbortController();
    const frame = Math.floor((shot.range.first + shot.range.last) / 2);
    const timer = setTimeout(() => {
      const of: Tap = after === undefined ? { lane } : { lane, after };
      viewer
        .fetch(shot, requestFor(of, frame, 0.25), 'thumbnail', controller.signal)
        .then((r) => canvas.current && drawSmall(canvas.current, r, matte))
        .catch(() => undefined);
    }, 500);
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [viewer, shot, lane, after, matte]);
  return <canvas ref={canvas} width={width * 2} height={height * 2} aria-hidden />;
}
