'use client';
import { useEffect } from 'react';
import { create } from 'zustand';
import type { Shot, Tap } from '@/core/document';
import type { Request } from '@/core/evaluate';
import { PlayClock } from './play-clock';
import { useBench } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { channelsOf, playRange, stageRequest, useSeen } from '../workbench/use-picture';
import { RGBA } from '@/core/picture';

interface Ready {
  /** Frames of the range whose picture is in the cache. */
  ready: number[];
  /** Measured while playing. */
  fps: number | null;
  /** Frames left out since playback began, to keep time. */
  dropped: number;
}
export const useReady = create<Ready>(() => ({ ready: [], fps: null, dropped: 0 }));

/** Milliseconds of planning in one go. */
const SLICE = 5;

/** Frames that playback asks for ahead of the playhead. */
const AHEAD = 24;

const requestsOf = (shot: Shot, tap: Tap | null, frames: readonly number[]): Request[] => {
  const { scale, layer, area } = view.get();
  const channels =
    layer === ''
      ? RGBA
      : channelsOf(
          shot.sources.flatMap((s) => s.channels),
          layer,
        );
  return tap ? frames.map((f) => stageRequest(tap, f, scale, channels, area)) : [];
};

/** Plays, reads ahead, and keeps the list of frames that are ready. Lives once in the workbench. */
export function usePlayback(): void {
  const { viewer } = useBench();
  const { shot, tap } = useSeen();
  const playing = useView((s) => s.playing);
  const scale = useView((s) => s.scale);
  const area = useView((s) => s.area);
  const layer = useView((s) => s.layer);
  const inOut = useView((s) => s.inOut);

  useEffect(() => {
    const { first, last } = shot.range;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let keys: string[] = [];
    // Planning every frame of the range takes longer than the screen may stand still: it is done a few at a time.
    const refresh = (): void => {
      const end = performance.now() + SLICE;
      while (keys.length <= last - first && performance.now() < end) {
        const [request] = requestsOf(shot, tap, [first + keys.length]);
        try {
          keys.push(request ? viewer.key(shot, request) : '');
        } catch {
          keys.push('');
        }
      }
      if (keys.length <= last - first) {
        timer = setTimeout(refresh, 0);
        return;
      }
      timer = undefined;
      // What the play range needs is kept for longest.
      viewer.cache.want(new Set(keys));
      useReady.setState({ ready: keys.map((_, i) => first + i).filter((_, i) => viewer.cache.has(keys[i]!)) });
      keys = [];
    };
    // Many frames come in one after the other; the list is made again once for some of them.
    const soon = (): void => {
      timer ??= setTimeout(refresh, 250);
    };
    viewer.onCached = soon;
    soon();
    return () => {
      viewer.onCached = () => undefined;
      clearTimeout(timer);
    };
  }, [viewer, shot, tap, scale, layer, area]);

  useEffect(() => {
    if (!playing) {
      viewer.readAhead(shot, []);
      useReady.setState({ fps: null });
      return undefined;
    }
    let handle = 0;
    const { first, last } = playRange(shot, inOut);
    const clock = new PlayClock(first, last, shot.frameRate, view.get().frame, performance.now());
    const shownAt: number[] = [];
    useReady.setState({ dropped: 0 });
    const isReady = (f: number): boolean => {
      const [request] = requestsOf(shot, tap, [f]);
      return !request || viewer.settled(shot, request);
    };
    const tick = (now: number): void => {
      handle = requestAnimationFrame(tick);
      const { loop, pace, frame } = view.get();
      const step = clock.next(now, loop, pace, isReady);
      if (step.ended) {
        view.set({ playing: false });
        return;
      }
      viewer.readAhead(shot, requestsOf(shot, tap, clock.ahead(AHEAD, loop)));
      if (step.dropped > 0) useReady.setState((s) => ({ dropped: s.dropped + step.dropped }));
      if (step.frame === null || step.frame === frame) return;
      shownAt.push(now);
      if (shownAt.length > 25) shownAt.shift();
      const span = now - shownAt[0]!;
      if (span > 0 && shownAt.length > 6) useReady.setState({ fps: (1000 * (shownAt.length - 1)) / span });
      view.set({ frame: step.frame });
    };
    handle = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(handle);
  }, [playing, shot, tap, viewer, inOut]);
}
