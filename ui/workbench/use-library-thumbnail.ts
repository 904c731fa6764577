'use client';
import { useEffect } from 'react';
import { db } from '@/store/db';
import { drawSmall } from '../stage/gl';
import { useBench, useShot } from './context';
import { requestFor } from './use-picture';

/** Keeps the Library's picture of the shot up to date: the result at the middle of the range, some seconds after a change. */
export function useLibraryThumbnail(): void {
  const { viewer, session } = useBench();
  const shot = useShot();
  useEffect(() => {
    if (shot.result === null || session.store.getState().readOnly) return undefined;
    const { result } = shot;
    const controller = new AbortController();
    const timer = setTimeout(() => {
      const frame = Math.floor((shot.range.first + shot.range.last) / 2);
      viewer
        .fetch(shot, requestFor({ lane: result }, frame, 0.5), 'thumbnail', controller.signal)
        .then((rendered) => {
          const canvas = document.createElement('canvas');
          canvas.width = 480;
          canvas.height = 270;
          drawSmall(canvas, rendered);
          return db.shots.update(shot.id, { thumbnail: canvas.toDataURL('image/jpeg', 0.85) });
        })
        .catch(() => undefined);
    }, 1500);
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [viewer, session, shot]);
}
