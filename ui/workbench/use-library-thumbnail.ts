'use client';
import { useEffect } from 'react';
import type { Shot } from '@/core/document';
import type { Request } from '@/core/evaluate';
import type { Rendered } from '@/engine';
import { db, loadSettings, saveByItself } from '@/store';
import { drawSmall } from '../stage/draw-small';
import { useBench, useShot } from './context';
import { requestFor } from './use-picture';

/** The frame of a shot at a share of its range. */
export const frameAt = ({ range: { first, last } }: Pick<Shot, 'range'>, share: number): number =>
  Math.floor(first + (last - first) * share);

/** A picture of the result at a frame, the middle one without it, as a data URL; empty where there is no result. */
export async function thumbnailOf(
  shot: Shot,
  render: (shot: Shot, request: Request) => Promise<Rendered>,
  frame = frameAt(shot, 0.5),
): Promise<string> {
  if (shot.result === null) return '';
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

const MINUTE = 60_000;

/** Keeps versions by the clock, as the settings say; they are looked at each time, so that a change of them holds at once. */
export function useVersionsByItself(): void {
  const { viewer, session } = useBench();
  useEffect(() => {
    let last = Date.now();
    const tick = async (): Promise<void> => {
      const { shot, readOnly, past } = session.store.getState();
      const { versionMinutes } = await loadSettings();
      if (readOnly || past.length === 0 || versionMinutes === 0 || Date.now() - last < versionMinutes * MINUTE) return;
      last = Date.now();
      await saveByItself(shot, await thumbnailOf(shot, (s, request) => viewer.fetch(s, request, 'thumbnail')).catch(() => ''));
    };
    // A version that could not be kept is tried again; what was changed is saved in any case.
    const timer = setInterval(() => void tick().catch(() => undefined), MINUTE / 2);
    return () => clearInterval(timer);
  }, [viewer, session]);
}
