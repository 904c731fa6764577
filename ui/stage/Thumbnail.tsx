'use client';
import { useEffect, useRef } from 'react';
import type { Tap } from '@/core/document';
import { requestFor } from '../workbench/use-picture';
import { useBench } from '../workbench/context';
import { drawSmall } from './draw-small';

/** Milliseconds. */
const REST = 500;

/** A small picture of a point of a lane at a frame, the middle of the range unless said; made when nothing more urgent is asked for. */
export function Thumbnail({ tap, width, height, matte, at }: { tap: Tap; width: number; height: number; matte?: boolean; at?: number }) {
  const { viewer, session } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { lane, after } = tap;
  useEffect(() => {
    let controller = new AbortController();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const draw = (): void => {
      const { shot } = session.store.getState();
      const frame = at ?? Math.floor((shot.range.first + shot.range.last) / 2);
      const of: Tap = after === undefined ? { lane } : { lane, after };
      viewer
        .fetch(shot, requestFor(of, frame, 0.25), 'thumbnail', controller.signal)
        .then((r) => canvas.current && drawSmall(canvas.current, r, matte))
        .catch(() => undefined);
    };
    // Edits come in quick succession: it is made once they rest, and nothing else is drawn again for it.
    const later = (): void => {
      clearTimeout(timer);
      controller.abort();
      controller = new AbortController();
      timer = setTimeout(draw, REST);
    };
    later();
    const stop = session.store.subscribe((now, before) => now.shot !== before.shot && later());
    return () => {
      stop();
      clearTimeout(timer);
      controller.abort();
    };
  }, [viewer, session, lane, after, matte, at]);
  return <canvas ref={canvas} width={width * 2} height={height * 2} aria-hidden />;
}
