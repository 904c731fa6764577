'use client';
import type { DragEndEvent, Modifier } from '@dnd-kit/core';
import { DndContext, DragOverlay, PointerSensor, pointerWithin, useSensor, useSensors } from '@dnd-kit/core';
import type { ReactNode } from 'react';
import { useState } from 'react';
import { create } from 'zustand';
import type { Tap } from '@/core/document';
import { findStep } from '@/core/document';
import type { Place } from '@/core/commands';
import { commands } from '@/core/commands';
import { useBench, useRun } from './context';
import { moveChip } from './deleting';
import { moveZoneTo } from './zones';
import { view } from './state';

/** What is dragged, and where it may be dropped. */
export type Dragged = { kind: 'source' | 'lane' | 'chip'; id: string; label: string };
export type Target =
  | { kind: 'board' }
  | { kind: 'strip'; lane: string }
  | { kind: 'feed'; step: string; /** None is the mask. */ feed: string | null };

/** How far in from its corner a dragged thing is held, in CSS pixels. */
const GRIP = 12;

/** The gap between chips that a dragged chip would fall into, and the zone whose bracket is over the pointer. */
export const useGap = create<{ lane: string | null; index: number; zone: string | null }>(() => ({ lane: null, index: 0, zone: null }));

/** The zone of a lane whose bracket reaches over a place on the page. */
function zoneAt(lane: string, x: number): string | null {
  const brackets = document.querySelectorAll<HTMLElement>(`[data-lane="${CSS.escape(lane)}"] .strip .zone`);
  const found = [...brackets].find((b) => x >= b.getBoundingClientRect().left && x <= b.getBoundingClientRect().right);
  return found?.querySelector<HTMLElement>('[data-zone]')?.dataset.zone ?? null;
}

/**
 * Before which of a lane's chips a place on the page lies. Chips are looked at where the pointer is: to measure every gap of a large
 * board before each drag would hold the page up.
 */
function gapAt(lane: string, x: number): number {
  const chips = document.querySelectorAll<HTMLElement>(`[data-lane="${CSS.escape(lane)}"] .strip .chip:not(.start)`);
  return [...chips].filter((c) => c.getBoundingClientRect().left + c.offsetWidth / 2 < x).length;
}

/** Between which rows of the board a dragged source or lane would fall. */
export const useRowGap = create<{ place: Place | null }>(() => ({ place: null }));

/** The row at a height of the page, and the half of it; none on the empty board, where what is dropped comes to the front. */
function placeAt(y: number): Place | null {
  const all = [...document.querySelectorAll<HTMLElement>('.board-row.lane[data-lane]')];
  const row = all.find((r) => y < r.getBoundingClientRect().bottom && y >= r.getBoundingClientRect().top);
  if (!row) return null;
  const { top, height } = row.getBoundingClientRect();
  return { lane: row.dataset.lane!, side: y < top + height / 2 ? 'above' : 'below' };
}

/** What is dragged is shown at the pointer: it may stand for a part of what was pressed. */
const atPointer: Modifier = ({ activatorEvent, draggingNodeRect, transform }) => {
  if (!draggingNodeRect || !(activatorEvent instanceof PointerEvent)) return transform;
  const { clientX, clientY } = activatorEvent;
  return { ...transform, x: transform.x + clientX - draggingNodeRect.left - GRIP, y: transform.y + clientY - draggingNodeRect.top - GRIP };
};

/** Dragging sources, lanes and chips over the whole workbench; Alt copies a chip. */
export function DragArea({ children }: { children: ReactNode }) {
  const { session } = useBench();
  const run = useRun();
  const [dragged, setDragged] = useState<Dragged | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));

  const drop = (e: DragEndEvent): void => {
    setDragged(null);
    const gap = useGap.getState();
    useGap.setState({ lane: null });
    const { place } = useRowGap.getState();
    useRowGap.setState({ place: null });
    const what = e.active.data.current as Dragged | undefined;
    const target = e.over?.data.current as Target | undefined;
    if (!what || !target) return;
    if (what.kind === 'source' && target.kind !== 'feed') {
      const made: { lane?: string } = {};
      const at = place ?? undefined;
      if (run('Add lane', commands.addLane(what.id, made, at)) && made.lane) view.set({ selection: { kind: 'lane', id: made.lane } });
    } else if (what.kind === 'lane' && target.kind !== 'feed') {
      if (place && place.lane !== what.id) run('Move lane', commands.placeLane(what.id, place));
    } else if (what.kind === 'chip' && target.kind === 'strip' && gap.lane === target.lane) {
      const copy = (e.activatorEvent as PointerEvent).altKey;
      const zone = commands.findZone(session.store.getState().shot, what.id);
      if (zone) moveZoneTo(session, what.id, target.lane, gap.index, copy);
      else moveChip(session, what.id, target.lane, gap.index, copy, gap.zone ?? undefined);
    } else if (target.kind === 'feed') {
      const tap = tapFor(what);
      if (!tap) return;
      const { shot } = session.store.getState();
      const mask = (findStep(shot, target.step)?.step ?? commands.findZone(shot, target.step)?.zone)?.mask;
      if (target.feed !== null) run('Connect feed', commands.setFeed(target.step, target.feed, tap));
      else run('Set mask', commands.setMask(target.step, { ...tap, channel: mask?.channel ?? 'A', invert: mask?.invert ?? false }));
    }
  };

  const tapFor = (what: Dragged): Tap | null => {
    const { shot } = session.store.getState();
    if (what.kind === 'lane') return { lane: what.id };
    if (what.kind === 'chip') {
      const found = findStep(shot, what.id);
      return found ? { lane: found.lane.id, after: what.id } : null;
    }
    const lane = shot.lanes.find((l) => 'source' in l.start && l.start.source === what.id);
    return lane ? { lane: lane.id, after: '' } : null;
  };

  return (
    <DndContext
      id="workbench"
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={(e) => setDragged((e.active.data.current as Dragged | undefined) ?? null)}
      onDragMove={(e) => {
        const target = e.over?.data.current as Target | undefined;
        const dragged = (e.active.data.current as Dragged | undefined)?.kind;
        const y = (e.activatorEvent as PointerEvent).clientY + e.delta.y;
        const place = dragged !== 'chip' && target && target.kind !== 'feed' ? placeAt(y) : null;
        const had = useRowGap.getState().place;
        if (had?.lane !== place?.lane || had?.side !== place?.side) useRowGap.setState({ place });
        const chip = (e.active.data.current as Dragged | undefined)?.kind === 'chip';
        const lane = chip && target?.kind === 'strip' ? target.lane : null;
        const x = (e.activatorEvent as PointerEvent).clientX + e.delta.x;
        const [index, zone] = lane === null ? [0, null] : [gapAt(lane, x), zoneAt(lane, x)];
        const gap = useGap.getState();
        if (gap.lane !== lane || gap.index !== index || gap.zone !== zone) useGap.setState({ lane, index, zone });
      }}
      onDragEnd={drop}
      onDragCancel={() => {
        setDragged(null);
        useGap.setState({ lane: null });
        useRowGap.setState({ place: null });
      }}
    >
      {children}
      <DragOverlay dropAnimation={null} modifiers={[atPointer]} style={{ width: 'auto', height: 'auto' }}>
        {dragged && <span className="chip selected">{dragged.label}</span>}
      </DragOverlay>
    </DndContext>
  );
}
