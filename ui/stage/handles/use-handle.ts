'use client';
import type Konva from 'konva';
import { useRef } from 'react';
import { admit, resolveParam } from '@/core/document/params';
import type { Value } from '@/core/document/types';
import { STEPS } from '@/core/steps';
import { setParams } from '@/store/commands';
import { useRun, useSelectedStep, useShot } from '../../workbench/context';
import { useView, view } from '../../workbench/state';

let gestures = 0;

/** Where a drag stands: how far it has gone from the press, the parameters then, the event, and the pointer on the stage. */
export interface Dragged<P> {
  dx: number;
  dy: number;
  from: P;
  event: PointerEvent;
  at: readonly [number, number];
}

/** A drag with Shift keeps to the axis along which it has gone further. */
export const alongAxis = ({ dx, dy, event }: Dragged<unknown>): [number, number] =>
  !event.shiftKey ? [dx, dy] : Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];

/**
 * The selected step's parameters at the frame, and what makes a shape on the stage draggable: each move sets what `move` makes of
 * it, and all of a drag is one undo.
 */
export function useHandle<P>() {
  const shot = useShot();
  const selected = useSelectedStep()!;
  const run = useRun();
  const frame = useView((s) => s.frame);
  const gesture = useRef('');
  const start = useRef<{ x: number; y: number; values: P } | null>(null);
  const definition = STEPS.get(selected.step.type)!;
  const values = Object.fromEntries(
    Object.entries(definition.params).map(([name, d]) => [
      name,
      admit(d, resolveParam(shot, selected.step.params[name], d.default, frame)),
    ]),
  ) as P;
  const drag = (label: string, move: (drag: Dragged<P>) => Partial<P>, ended?: () => void) => ({
    draggable: true,
    // From the press on, not from where Konva takes it for a drag.
    onPointerDown: (e: Konva.KonvaEventObject<PointerEvent>): void => {
      start.current = { ...e.target.getStage()!.getPointerPosition()!, values };
    },
    onDragStart: (): void => {
      gesture.current = `handle ${++gestures}`;
      view.set({ dragging: true });
    },
    onDragMove: (e: Konva.KonvaEventObject<DragEvent>): void => {
      const p = e.target.getStage()!.getPointerPosition();
      const s = start.current;
      if (!p || !s) return;
      const event = e.evt as unknown as PointerEvent;
      const change = move({ dx: p.x - s.x, dy: p.y - s.y, from: s.values, event, at: [p.x, p.y] });
      run(label, setParams(selected.step.id, change as Record<string, Value>, frame), gesture.current);
    },
    onDragEnd: (): void => {
      start.current = null;
      view.set({ dragging: false });
      ended?.();
    },
    // The shape is drawn where the parameters say; Konva's own dragging only tells where the pointer is.
    dragBoundFunc(this: Konva.Node): Konva.Vector2d {
      return this.getAbsolutePosition();
    },
  });
  return { shot, values, drag };
}
