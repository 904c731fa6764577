'use client';
import { useEffect } from 'react';
import type { Shot } from '@/core/document/types';
import type { Request } from '@/core/evaluate/plan';
import type { Rendered } from '@/engine/host';
import { db } from '@/store/db';
import { drawSmall } from '../stage/draw-small';
import { useBench, useShot } from './context';
import { requestFor } from './use-picture';

/** A picture of the result at the middle of the range, as a data URL; empty where there is no result. */
export async function thumbnailOf(shot: Shot, render: (shot: Shot, request: Request) => Promise<Rendered>): Promise<string> {
  if (shot.result === null) return '';
  const frame = Math.floor((shot.range.first + shot.range.last) / 2);
  const rendered = await render(shot, requestFor({ lane: shot.result }, frame, 0.5));
  const canvas = document.createElement('canvas');
  canvas.width = 480;
  canvas.height = 270;
  drawSmall(canvas, rendered);
  return canvas.toDataURL('image/jpeg', 0.85);
}

/** Keeps the Library's picture of the shot up to date: the result at the middle of the range, some seconds after a change. */
export function useLibraryThumbnail(): void {
  const { viewer, session } = useBench();
  const shot = useShot();
  useEffect(() => {
    if (shot.result === null || session.store.getState().readOnly) return undefined;
    const controller = new AbortController();
    const timer = setTimeout(() => {
      thumbnailOf(shot, (s, request) => viewer.fetch(s, request, 'thumbnail', controller.signal))
        .then((thumbnail) => db.shots.update(shot.id, { thumbnail }))
        .catch(() => undefined);
    }, 1500);
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [viewer, session, shot]);
}
