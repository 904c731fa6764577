'use client';
import type { DragEndEvent } from '@dnd-kit/core';
import { DndContext, DragOverlay, PointerSensor, pointerWithin, useSensor, useSensors } from '@dnd-kit/core';
import type { ReactNode } from 'react';
import { useState } from 'react';
import { findStep } from '@/core/document/params';
import type { Tap } from '@/core/document/types';
import * as commands from '@/store/commands';
import { useBench, useRun } from './context';
import { view } from './state';

/** What is dragged, and where it may be dropped. */
export type Dragged = { kind: 'source' | 'lane' | 'chip'; id: string; label: string };
export type Target = { kind: 'board' } | { kind: 'slot'; lane: string; index: number } | { kind: 'feed'; step: string; feed: string };

/** Dragging sources, lanes and chips over the whole workbench; Alt copies a chip. */
export function DragArea({ children }: { children: ReactNode }) {
  const { session } = useBench();
  const run = useRun();
  const [dragged, setDragged] = useState<Dragged | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));

  const drop = (e: DragEndEvent): void => {
    setDragged(null);
    const what = e.active.data.current as Dragged | undefined;
    const target = e.over?.data.current as Target | undefined;
    if (!what || !target) return;
    if (what.kind === 'source' && target.kind === 'board') {
      const made: { lane?: string } = {};
      if (run('Add lane', commands.addLane(what.id, made)) && made.lane) view.set({ selection: { kind: 'lane', id: made.lane } });
    } else if (what.kind === 'chip' && target.kind === 'slot') {
      const made: { step?: string } = {};
      const copy = (e.activatorEvent as PointerEvent).altKey;
      if (run(copy ? 'Copy step' : 'Move step', commands.moveStep(what.id, target.lane, target.index, copy, made)) && made.step) {
        view.set({ selection: { kind: 'step', id: made.step } });
      }
    } else if (target.kind === 'feed') {
      const tap = tapFor(what);
      if (tap) run('Connect feed', commands.setFeed(target.step, target.feed, tap));
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
      onDragEnd={drop}
      onDragCancel={() => setDragged(null)}
    >
      {children}
      <DragOverlay dropAnimation={null}>{dragged && <span className="chip selected">{dragged.label}</span>}</DragOverlay>
    </DndContext>
  );
}
