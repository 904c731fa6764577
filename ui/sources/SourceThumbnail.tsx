'use client';
import { useEffect, useRef } from 'react';
import type { Shot, Source } from '@/core/document/types';
import { drawSmall } from '../stage/draw-small';
import { useBench } from '../workbench/context';
import { requestFor } from '../workbench/use-picture';

/** The source by itself, as a shot of one lane, so that it needs no lane of its own. */
function alone(source: Source, shot: Shot): Shot {
  const lane = { id: 'alone', name: source.name, start: { source: source.id }, steps: [], muted: false, collapsed: false };
  return { ...shot, format: source.format, sources: [source], lanes: [lane], result: 'alone' };
}

export function SourceThumbnail({ source }: { source: Source }) {
  const { viewer, session } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const controller = new AbortController();
    const frames = source.frames ?? [];
    const frame = source.start + (frames[Math.floor(frames.length / 2)]?.frame ?? 1) - (frames[0]?.frame ?? 1);
    viewer
      .fetch(alone(source, session.store.getState().shot), requestFor({ lane: 'alone' }, frame, 0.25), 'thumbnail', controller.signal)
      .then((r) => canvas.current && drawSmall(canvas.current, r))
      .catch(() => undefined);
    return () => controller.abort();
  }, [viewer, session, source]);
  return <canvas ref={canvas} width={116} height={66} aria-hidden />;
}
