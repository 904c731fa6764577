'use client';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { PointerEvent } from 'react';
import type { Step, Tap, Value } from '@/core/document';
import { findStep } from '@/core/document';
import { partKey } from '@/core/params';
import type { IdPick } from '@/core/passes';
import { idAt, idChannels, idSetOf, passOf } from '@/core/passes';
import type { PictureInfo } from '@/core/picture';
import { addLamp, setParams } from '@/core/commands';
import { newGesture } from '../controls/NumberField';
import type { StagePlace } from '../stage/place';
import { useStepSpace } from '../stage/handles/use-step-space';
import { toast } from '../theme/toast';
import { useBench, useRun, useShot } from '../workbench/context';
import type { Picking } from '../workbench/state';
import { view } from '../workbench/state';
import { PickedMarks } from './PickedMarks';
import { usePlanes } from './pass-pixels';
import { distanceAt, surfaceAt, surfaceChannelsOf, useSceneView } from './surface';
import { idNames, useInput } from './use-input';

interface Props {
  place: StagePlace;
  picking: Picking;
}

/** Of a step's parameter that is a layer, the name; '' where it is left to be found. */
export const layerParam = (step: Step, name: string): string => (typeof step.params[name] === 'string' ? step.params[name] : '');

function channelsFor(kind: NonNullable<Picking['data']>, step: Step, info: PictureInfo): readonly string[] {
  if (kind === 'id') {
    const set = idSetOf(info, layerParam(step, 'set'));
    return set ? idChannels(set) : [];
  }
  if (kind === 'focus') return passOf(info.passes, layerParam(step, 'depth'), 'depth')?.channels.slice(0, 1) ?? [];
  return surfaceChannelsOf(step, info);
}

/** How far a lamp stands off the surface that was clicked, as a part of its distance. */
const OFF = 0.06;
const NONE: readonly IdPick[] = [];

/** While things are picked the picture is seen that they are picked in; after that, what was seen before. */
function useSeenWhilePicking(tap: Tap | null): void {
  const [lane, after] = [tap?.lane, tap?.after];
  useEffect(() => {
    if (lane === undefined) return;
    const { seen } = view.get();
    view.set({ seen: { lane, ...(after !== undefined && { after }) } });
    return () => view.set({ seen });
  }, [lane, after]);
}

/** What data say where the picture is clicked: a thing, a distance, a place in the scene. Hovering says what is there. */
export function DataPick({ place, picking }: Props) {
  const shot = useShot();
  const run = useRun();
  const { session } = useBench();
  const kind = picking.data!;
  const input = useInput(picking.step);
  const { tap, info } = input;
  const step = findStep(shot, picking.step)?.step;
  const pixels = usePlanes(input, step && info ? channelsFor(kind, step, info) : []);
  const scene = useSceneView(kind === 'lamp' || kind === 'place' ? step : undefined, input);
  const space = useStepSpace(tap ?? { lane: '' }, place);
  const [said, setSaid] = useState<{ x: number; y: number; text: string } | null>(null);
  /** Things that a drag has gone over, and its one undo. */
  const dragged = useRef<{ things: Set<string>; gesture: string } | null>(null);
  useSeenWhilePicking(kind === 'id' ? tap : null);
  const picked =
    kind === 'id' && step && Array.isArray(step.params[picking.param])
      ? (step.params[picking.param] as unknown as readonly IdPick[])
      : NONE;
  const set = kind === 'id' && step && info ? idSetOf(info, layerParam(step, 'set')) : undefined;
  const setName = set?.name;
  const names = useMemo(() => (setName === undefined ? {} : idNames(shot, setName)), [shot, setName]);
  if (!step || !info || !tap) return null;
  const frame = (): number => view.get().frame;
  const ready = pixels !== null && (scene !== null || kind === 'id' || kind === 'focus');

  const at = (e: PointerEvent): { index: number; own: [number, number] } | null => {
    if (!space || !pixels) return null;
    const r = e.currentTarget.getBoundingClientRect();
    const own = space.from(e.clientX - r.left, e.clientY - r.top);
    return { index: pixels.indexAt(...own), own };
  };
  const thingAt = (index: number): string | null => (index < 0 || !set || !pixels ? null : idAt(set, (c) => pixels.at(c, index)));
  const distanceOf = (index: number): number => {
    const pass = passOf(info.passes, layerParam(step, 'depth'), 'depth');
    if (index < 0 || !pass || !pixels) return Infinity;
    return distanceAt(step, info, pass, pixels, index);
  };
  const words = (index: number): string => {
    if (!ready) return 'Reading the data…';
    if (kind === 'id') {
      const id = thingAt(index);
      return id === null ? 'nothing' : (names[id] ?? id);
    }
    if (kind === 'focus') {
      const d = distanceOf(index);
      return d === Infinity ? 'nothing is there' : `${d.toFixed(2)} away`;
    }
    const s = pixels && scene && surfaceAt(step, info, pixels, scene, index);
    return s ? s.at.map((v) => v.toFixed(2)).join(', ') : 'nothing is there';
  };
  const pickThing = (id: string | null, only: 'toggle' | 'add', gesture?: string): void => {
    if (id === null) return;
    // As it stands now: a drag picks several before this is drawn again.
    const now = findStep(session.store.getState().shot, picking.step)?.step;
    const had = (Array.isArray(now?.params[picking.param]) ? now.params[picking.param] : []) as unknown as readonly IdPick[];
    const there = had.some((p) => p.id === id);
    if (there && only === 'add') return;
    const name = names[id];
    const list = there ? had.filter((p) => p.id !== id) : [...had, { id, ...(name !== undefined && { name }) }];
    run(
      there ? `Drop ${name ?? id}` : `Pick ${name ?? id}`,
      setParams(picking.step, { [picking.param]: list as unknown as Value }, frame()),
      gesture,
    );
  };
  const click = (index: number): void => {
    if (kind === 'id') return pickThing(thingAt(index), 'toggle');
    if (kind === 'focus') {
      const d = distanceOf(index);
      if (d === Infinity) return toast('info', 'Nothing is there: the depth has no distance at that pixel.');
      if (run('Focus', setParams(picking.step, { focus: Number(d.toPrecision(5)) }, frame()))) view.set({ picking: null });
      return;
    }
    const s = pixels && scene && surfaceAt(step, info, pixels, scene, index);
    if (!s) return toast('info', 'Nothing is there: click a surface of the render.');
    const round = (v: readonly number[]): number[] => v.map((x) => Number(x.toPrecision(5)));
    if (kind === 'place') {
      if (run('Place', setParams(picking.step, { centre: round(s.at) }, frame()))) view.set({ picking: null });
      return;
    }
    // In front of the surface, along its normal.
    const stands = round(s.at.map((v, i) => v + OFF * s.distance * s.normal[i]!)) as [number, number, number];
    const done = picking.part
      ? run('Place lamp', setParams(picking.step, { [partKey(picking.part, 'at')]: stands }, frame()))
      : run('Set a lamp', addLamp(picking.step, stands));
    if (done) view.set({ picking: null });
  };
  return (
    <div
      className="overlay datapick"
      style={{ pointerEvents: 'auto', cursor: 'crosshair' }}
      data-testid="datapick"
      data-ready={ready}
      onPointerDown={(e) => {
        if (e.button !== 0 || document.body.dataset.space === 'down') return;
        e.currentTarget.setPointerCapture(e.pointerId);
        dragged.current = { things: new Set(), gesture: newGesture() };
      }}
      onPointerMove={(e) => {
        const here = at(e);
        const r = e.currentTarget.getBoundingClientRect();
        setSaid({ x: e.clientX - r.left, y: e.clientY - r.top, text: words(here?.index ?? -1) });
        if (!dragged.current || kind !== 'id' || !here) return;
        const id = thingAt(here.index);
        const { things, gesture } = dragged.current;
        if (id === null || things.has(id)) return;
        things.add(id);
        if (things.size > 1) things.forEach((one) => pickThing(one, 'add', gesture));
      }}
      onPointerUp={(e) => {
        const several = (dragged.current?.things.size ?? 0) > 1;
        dragged.current = null;
        const here = at(e);
        if (!several && here) click(here.index);
      }}
      onPointerLeave={() => setSaid(null)}
    >
      {set && pixels && space && <PickedMarks set={set} picked={picked} pixels={pixels} space={space} place={place} />}
      {said && (
        <span className="data-said mono" style={{ left: said.x + 14, top: said.y + 12 }}>
          {said.text}
        </span>
      )}
    </div>
  );
}
