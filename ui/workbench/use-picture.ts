'use client';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Lane, Shot, Tap } from '@/core/document';
import { findStep, isPicture, soloShot, sourceShot } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import type { Request } from '@/core/evaluate';
import { rect } from '@/core/geometry';
import { kindOfLayer } from '@/core/layers';
import { RGBA } from '@/core/picture';
import { colourOfLayer } from '@/core/steps';
import type { Scale, Viewer } from '@/engine/browser';
import type { Rendered } from '@/engine';
import { seenTap, useBench, useShot } from './context';
import type { Pin, ViewState } from './state';
import { LESSON_LANE, lessonShot, useTraining, withLive } from '../learn/live';
import { useView, view } from './state';

/** Channels that are fetched to look at a layer. */
export function channelsOf(available: readonly string[], layer: string): readonly string[] {
  if (layer === '') return RGBA;
  const colour = colourOfLayer(available, layer);
  // The fourth channel of ids is a coverage, not an alpha.
  const own = kindOfLayer(layer) === 'id' ? 'A' : `${layer}.A`;
  return colour.length ? [...colour, available.includes(own) ? own : 'A'] : RGBA;
}

export const requestFor = (tap: Tap, frame: number, scale: number, channels: readonly string[] = RGBA): Request => ({
  tap,
  frame,
  scale,
  channels,
});

/** What the stage asks for: the same, in the area alone where one is set. */
export function stageRequest(tap: Tap, frame: number, scale: number, channels: readonly string[], area: ViewState['area']): Request {
  const request = requestFor(tap, frame, scale, channels);
  if (!area) return request;
  const [x0, y0, x1, y1] = area.map((v) => v * scale) as [number, number, number, number];
  return { ...request, region: rect(Math.floor(x0), Math.floor(y0), Math.ceil(x1), Math.ceil(y1)) };
}

/** The shot without the step or zone that is selected: what "before" means. Without one, as it is. */
function withoutSelected(shot: Shot, selection: ViewState['selection']): Shot {
  if (selection?.kind === 'zone') {
    const off = (l: Lane): Lane => (l.zones ? { ...l, zones: l.zones.map((z) => (z.id === selection.id ? { ...z, on: false } : z)) } : l);
    return { ...shot, lanes: shot.lanes.map(off) };
  }
  const found = selection?.kind === 'step' ? findStep(shot, selection.id) : null;
  if (!found) return shot;
  const steps = found.lane.steps.map((s) => (s === found.step ? { ...s, on: false } : s));
  return { ...shot, lanes: shot.lanes.map((l) => (l === found.lane ? { ...l, steps } : l)) };
}

/** By the shot as it is, an immutable value: made once. */
const lookedAt = new WeakMap<Shot, { of: string; shot: Shot }>();

/** The shot as it is looked at: with some lanes alone, or a source in the place of the result, where that is wished. */
function seenShot(shot: Shot, { solo, looked }: Pick<ViewState, 'solo' | 'looked'>): Shot {
  if (solo.length === 0 && !looked) return shot;
  const of = `${looked} ${solo.join(' ')}`;
  const known = lookedAt.get(shot);
  if (known?.of === of) return known.shot;
  const made = looked ? sourceShot(shot, looked) : soloShot(shot, solo);
  lookedAt.set(shot, { of, shot: made });
  return made;
}

const isTable = (shot: Shot, id: string): boolean => shot.sources.some((s) => s.id === id && !isPicture(s));
/** What is looked at of a shot: a colour table is no picture. */
const lookedOf = (shot: Shot, v: ViewState): string | null => (v.looked && !isTable(shot, v.looked) ? v.looked : null);

/** The shot as it is looked at, the point of it that is seen, and whether that is a source. */
export function useSeen(): { shot: Shot; tap: Tap | null; looked: boolean } {
  const shot = useShot();
  const solo = useView((s) => s.solo);
  const seen = useView((s) => s.seen);
  const looked = useView((s) => lookedOf(shot, s));
  const trained = useTraining((s) => s.reading);
  const live = useTraining((s) => s.live);
  const lesson = useView((s) => (s.lessonNow && s.selection?.kind === 'reading' ? s.selection.id : null));
  const taught = withLive(shot, { reading: trained, live });
  const now = lesson && !looked ? lessonShot(taught, lesson) : null;
  const of = now ?? seenShot(taught, { solo, looked });
  const { lane, after } = now ? { lane: LESSON_LANE, after: undefined } : (seenTap(of, looked ? null : seen) ?? {});
  // The same point stays the same tap, so that nothing is asked for again.
  const tap = useMemo((): Tap | null => (lane === undefined ? null : after === undefined ? { lane } : { lane, after }), [lane, after]);
  return { shot: of, tap, looked: looked !== null };
}

export interface PictureOnScreen {
  rendered: Rendered | null;
  scale: number;
  /** The frame that is really seen: another one stands in until the one asked for is there. */
  frame: number | null;
  error: string | null;
  busy: boolean;
  /** What is asked for now is neither there nor refused yet: an earlier picture is still seen. */
  pending: boolean;
}

/** What has come, and the wish that it answers. */
interface Came extends Omit<PictureOnScreen, 'pending'> {
  wish: object | null;
}

const NOTHING: Came = { rendered: null, scale: 1, frame: null, error: null, busy: false, wish: null };

/** Holds the memory of the picture that is shown, until another one is. */
function useHeld(viewer: Viewer): (picture: Rendered | null) => void {
  const held = useRef<Rendered | null>(null);
  const show = useRef((picture: Rendered | null): void => {
    if (picture === held.current) return;
    if (picture) viewer.hold(picture);
    if (held.current) viewer.release(held.current);
    held.current = picture;
  });
  useEffect(() => {
    const { current } = show;
    return () => current(null);
  }, []);
  return show.current;
}

/** How far a frame may lie from the one asked for to stand in for it. */
const STAND_IN = 48;

/** The picture of the point that is seen: at the scale that keeps up while a control is dragged, then full. */
export function usePicture(): PictureOnScreen {
  const { viewer, session } = useBench();
  const { shot: whole, tap } = useSeen();
  const { frame, scale, dragging, layer, before, selection, area } = useView();
  const held = before ? selection : null;
  const shot = useMemo(() => (held ? withoutSelected(whole, held) : whole), [whole, held]);
  const [state, setState] = useState<Came>(NOTHING);
  const hold = useHeld(viewer);
  const available = state.rendered?.available;
  const channels = channelsOf(available ?? RGBA, layer).join(' ');
  const last = useRef({ frame, shot });
  /** The lane whose picture stands on the stage. */
  const shownOf = useRef<string | null>(null);
  // Another object for each thing that is asked for.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const wish = useMemo(() => ({}), [shot, tap, frame, scale, dragging, channels, area]);

  // An edit is on its way to the workers before the page is drawn again.
  useEffect(
    () =>
      session.store.subscribe(({ shot: edited }, { shot: before }) => {
        const now = view.get();
        if (edited === before) return;
        const looked = lookedOf(edited, now);
        const of = seenShot(edited, { solo: now.solo, looked });
        const tap = seenTap(of, looked ? null : now.seen);
        if (!tap) return;
        const at = now.dragging ? viewer.governor.pick(now.scale) : now.scale;
        viewer.show(of, stageRequest(tap, now.frame, at, channels.split(' '), now.area)).catch(() => undefined);
      }),
    [session, viewer, channels],
  );

  useEffect(() => {
    if (!tap) {
      hold(null);
      setState({ ...NOTHING, wish });
      return undefined;
    }
    const scrubbed = last.current.frame !== frame && last.current.shot === shot;
    last.current = { frame, shot };
    let live = true;
    const run = async (at: Scale): Promise<void> => {
      const request = stageRequest(tap, frame, at, channels.split(' '), area);
      const known = viewer.cached(shot, request);
      if (known) {
        hold(known);
        shownOf.current = tap.lane;
        if (!view.get().playing) view.set({ remarks: known.remarks });
        setState({ rendered: known, scale: at, frame, error: null, busy: false, wish });
        return;
      }
      if (scrubbed) {
        const near = Array.from({ length: 2 * STAND_IN + 1 }, (_, i) => frame - STAND_IN + i);
        const other = viewer.nearest(shot, request, near);
        if (other) {
          hold(other.rendered);
          setState((s) => ({ ...s, rendered: other.rendered, scale: at, frame: other.frame }));
        }
      }
      const timer = setTimeout(() => live && setState((s) => ({ ...s, busy: true })), 200);
      try {
        const rendered = await viewer.show(shot, request);
        shownOf.current = tap.lane;
        viewer.governor.report(at, rendered.milliseconds);
        if (!live) return;
        hold(rendered);
        if (!view.get().playing) view.set({ remarks: rendered.remarks });
        setState({ rendered, scale: at, frame, error: null, busy: false, wish });
      } catch (e) {
        if (!live || e instanceof Cancelled) return;
        // A picture of another lane is no background for what is wrong with this one.
        const own = shownOf.current === tap.lane;
        if (!own) hold(null);
        setState((s) => ({ ...s, ...(!own && { rendered: null, frame: null }), error: messageOf(e), busy: false, wish }));
      } finally {
        clearTimeout(timer);
      }
    };
    void run(dragging ? viewer.governor.pick(scale) : scale);
    return () => {
      live = false;
    };
  }, [viewer, shot, tap, frame, scale, dragging, channels, area, wish, hold]);
  return { ...state, pending: state.wish !== wish };
}

/** The range that plays. */
export const playRange = (shot: Pick<Shot, 'range'>, inOut: { first: number; last: number } | null) => inOut ?? shot.range;

/** The picture of a pin at the frame and size of the stage; the last one stays until the next is there. */
export function usePinned(pin: Pin | null): { rendered: Rendered; scale: number } | null {
  const { viewer } = useBench();
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const scale = useView((s) => s.scale);
  const [picture, setPicture] = useState<{ rendered: Rendered; scale: number } | null>(null);
  const hold = useHeld(viewer);
  useEffect(() => {
    if (!pin) return undefined;
    if (pin.snapshot) {
      hold(pin.snapshot.rendered);
      setPicture(pin.snapshot);
      return undefined;
    }
    const tap = seenTap(shot, pin.tap);
    if (!tap) return undefined;
    const controller = new AbortController();
    viewer
      .fetch(
        shot,
        requestFor(
          tap,
          frame,
          scale,
          channelsOf(
            shot.sources.flatMap((s) => s.channels),
            pin.layer,
          ),
        ),
        'view',
        controller.signal,
      )
      .then((rendered) => {
        if (controller.signal.aborted) return;
        hold(rendered);
        setPicture({ rendered, scale });
      })
      .catch(() => undefined);
    return () => controller.abort();
  }, [viewer, shot, pin, frame, scale, hold]);
  return pin ? picture : null;
}
