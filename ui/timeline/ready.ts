'use client';
import { useEffect } from 'react';
import { create } from 'zustand';
import type { Shot } from '@/core/document/types';
import type { Request } from '@/core/evaluate/plan';
import { useBench, useShot, seenTap } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { channelsOf, playRange, requestFor } from '../workbench/use-picture';
import { RGBA } from '@/core/picture';

interface Ready {
  /** Frames of the range whose picture is in the cache. */
  ready: number[];
  /** Measured while playing. */
  fps: number | null;
}
export const useReady = create<Ready>(() => ({ ready: [], fps: null }));

/** Frames that playback asks for ahead of the playhead. */
const AHEAD = 24;

const requestsOf = (shot: Shot, frames: readonly number[]): Request[] => {
  const { seen, scale, layer } = view.get();
  const tap = seenTap(shot, seen);
  const channels =
    layer === ''
      ? RGBA
      : channelsOf(
          shot.sources.flatMap((s) => s.channels),
          layer,
        );
  return tap ? frames.map((f) => requestFor(tap, f, scale, channels)) : [];
};

/** Plays, reads ahead, and keeps the list of frames that are ready. Lives once in the workbench. */
export function usePlayback(): void {
  const { viewer } = useBench();
  const shot = useShot();
  const playing = useView((s) => s.playing);
  const seen = useView((s) => s.seen);
  const scale = useView((s) => s.scale);
  const layer = useView((s) => s.layer);
  const inOut = useView((s) => s.inOut);

  useEffect(() => {
    const refresh = (): void => {
      const { first, last } = shot.range;
      const frames = Array.from({ length: last - first + 1 }, (_, i) => first + i);
      const requests = requestsOf(shot, frames);
      const has = requests.map((r) => {
        try {
          return viewer.cache.has(viewer.key(shot, r));
        } catch {
          return false;
        }
      });
      useReady.setState({ ready: frames.filter((_, i) => has[i]) });
    };
    let timer: ReturnType<typeof setTimeout> | undefined;
    // Many frames come in one after the other; the list is made anew once for some of them.
    const soon = (): void => {
      timer ??= setTimeout(() => {
        timer = undefined;
        refresh();
      }, 250);
    };
    viewer.onCached = soon;
    soon();
    return () => {
      viewer.onCached = () => undefined;
      clearTimeout(timer);
    };
  }, [viewer, shot, seen, scale, layer]);

  useEffect(() => {
    if (!playing) {
      viewer.readAhead(shot, []);
      useReady.setState({ fps: null });
      return undefined;
    }
    let handle = 0;
    let due = performance.now();
    let direction = 1;
    const shownAt: number[] = [];
    const { first, last } = playRange(shot, inOut);
    const after = (f: number): number | null => {
      const { loop } = view.get();
      const next = f + direction;
      if (next >= first && next <= last) return next;
      if (loop === 'once') return null;
      if (loop === 'loop' || first === last) return first;
      direction = -direction;
      return f + direction;
    };
    const step = 1000 / shot.frameRate;
    const tick = (now: number): void => {
      handle = requestAnimationFrame(tick);
      if (now < due) return;
      const at = view.get().frame;
      const next = after(at);
      if (next === null) {
        view.set({ playing: false });
        return;
      }
      const ahead: number[] = [];
      for (let i = 0, f = next; i < Math.min(AHEAD, last - first + 1); i++, f = f + 1 > last ? first : f + 1) ahead.push(f);
      viewer.readAhead(shot, requestsOf(shot, ahead));
      const [request] = requestsOf(shot, [next]);
      // Every frame is shown: a frame that is not there yet is waited for.
      if (request && !viewer.cached(shot, request)) return;
      due = Math.max(due + step, now - step);
      shownAt.push(now);
      if (shownAt.length > 25) shownAt.shift();
      const span = now - shownAt[0]!;
      if (span > 0 && shownAt.length > 6) useReady.setState({ fps: (1000 * (shownAt.length - 1)) / span });
      view.set({ frame: next });
    };
    handle = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(handle);
  }, [playing, shot, viewer, inOut]);
}
