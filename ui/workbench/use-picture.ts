'use client';
import { useEffect, useRef, useState } from 'react';
import type { Shot, Tap } from '@/core/document/types';
import { Cancelled, messageOf } from '@/core/errors';
import type { Request } from '@/core/evaluate/plan';
import { RGBA } from '@/core/picture';
import { colourOfLayer } from '@/core/steps/channels/pick-layer';
import type { Rendered } from '@/engine/host';
import { seenTap, useBench, useShot } from './context';
import { useView } from './state';

/** Channels that are fetched to look at a layer. */
export function channelsOf(available: readonly string[], layer: string): readonly string[] {
  if (layer === '') return RGBA;
  const colour = colourOfLayer(available, layer);
  const own = `${layer}.A`;
  return colour.length ? [...colour, available.includes(own) ? own : 'A'] : RGBA;
}

export const requestFor = (tap: Tap, frame: number, scale: number, channels: readonly string[] = RGBA): Request => ({
  tap,
  frame,
  scale,
  channels,
});

export interface PictureOnScreen {
  rendered: Rendered | null;
  scale: number;
  error: string | null;
  busy: boolean;
}

/** The picture of the point that is seen: coarse while a control is dragged, then full. */
export function usePicture(): PictureOnScreen {
  const { viewer } = useBench();
  const shot = useShot();
  const { seen, frame, scale, dragging, layer } = useView();
  const [state, setState] = useState<PictureOnScreen>({ rendered: null, scale: 1, error: null, busy: false });
  const lastCost = useRef(0);
  const available = state.rendered?.available;
  const channels = channelsOf(available ?? RGBA, layer).join(' ');

  useEffect(() => {
    const tap = seenTap(shot, seen);
    if (!tap) {
      setState({ rendered: null, scale: 1, error: null, busy: false });
      return undefined;
    }
    let live = true;
    const names = channels.split(' ');
    const run = async (at: number): Promise<void> => {
      const request = requestFor(tap, frame, at, names);
      const known = viewer.cached(shot, request);
      if (known) {
        setState({ rendered: known, scale: at, error: null, busy: false });
        return;
      }
      const timer = setTimeout(() => live && setState((s) => ({ ...s, busy: true })), 200);
      try {
        const rendered = await viewer.show(shot, request);
        if (at === 1) lastCost.current = rendered.milliseconds;
        if (live) setState({ rendered, scale: at, error: null, busy: false });
      } catch (e) {
        if (live && !(e instanceof Cancelled)) setState((s) => ({ ...s, error: messageOf(e), busy: false }));
      } finally {
        clearTimeout(timer);
      }
    };
    const coarse = lastCost.current > 240 ? 0.25 : lastCost.current > 50 ? 0.5 : 1;
    void run(dragging ? Math.min(scale, coarse) : scale);
    return () => {
      live = false;
    };
  }, [viewer, shot, seen, frame, scale, dragging, channels]);
  return state;
}

/** The range that plays. */
export const playRange = (shot: Shot, inOut: { first: number; last: number } | null) => inOut ?? shot.range;
