'use client';
import { useEffect, useRef } from 'react';
import type { Shot, Source } from '@/core/document';
import { spanOf } from '@/core/document';
import type { Access } from '@/engine/browser';
import { drawSmall } from '../stage/draw-small';
import { useBench } from '../workbench/context';
import { requestFor } from '../workbench/use-picture';

/** The source by itself, as a shot of one lane, so that it needs no lane of its own. */
export function alone(source: Source, shot: Shot): Shot {
  const lane = { id: 'alone', name: source.name, start: { source: source.id }, steps: [], muted: false, collapsed: false };
  return { ...shot, format: source.format, sources: [source], lanes: [lane], result: 'alone' };
}

export function SourceThumbnail({ source, access }: { source: Source; access: Access }) {
  const { viewer, session } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const controller = new AbortController();
    const { shot } = session.store.getState();
    const { first, last } = spanOf(source, shot.frameRate);
    const frame = Math.floor((first + last) / 2);
    viewer
      .fetch(alone(source, shot), requestFor({ lane: 'alone' }, frame, 0.25), 'thumbnail', controller.signal)
      .then((r) => canvas.current && drawSmall(canvas.current, r))
      .catch(() => undefined);
    return () => controller.abort();
  }, [viewer, session, source, access]);
  return <canvas ref={canvas} width={116} height={66} aria-hidden />;
}
