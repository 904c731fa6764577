'use client';
import type Konva from 'konva';
import { useRef } from 'react';
import { newGesture } from '../../controls/NumberField';
import { view } from '../../workbench/state';

/** Where a drag stands: how far it has gone from the press, what held then, the event, the pointer on the stage, and its one undo. */
export interface Dragged<B> {
  dx: number;
  dy: number;
  from: B;
  event: PointerEvent;
  at: readonly [number, number];
  gesture: string;
}

/** What makes shapes on the stage draggable: `base` is taken at the press, `move` is told each step, and all of it is one gesture. */
export function useDrag() {
  const start = useRef<{ x: number; y: number; base: unknown; gesture: string } | null>(null);
  return <B>(base: () => B, move: (drag: Dragged<B>) => void, ended?: () => void) => ({
    draggable: true,
    // From the press on, not from where Konva takes it for a drag.
    onPointerDown: (e: Konva.KonvaEventObject<PointerEvent>): void => {
      start.current = { ...e.target.getStage()!.getPointerPosition()!, base: base(), gesture: newGesture() };
    },
    onDragStart: (): void => view.set({ dragging: true }),
    onDragMove: (e: Konva.KonvaEventObject<DragEvent>): void => {
      const p = e.target.getStage()!.getPointerPosition();
      const s = start.current;
      if (!p || !s) return;
      const event = e.evt as unknown as PointerEvent;
      move({ dx: p.x - s.x, dy: p.y - s.y, from: s.base as B, event, at: [p.x, p.y], gesture: s.gesture });
    },
    onDragEnd: (): void => {
      start.current = null;
      view.set({ dragging: false });
      ended?.();
    },
    // The shape is drawn where the values say; Konva's own dragging only tells where the pointer is.
    dragBoundFunc(this: Konva.Node): Konva.Vector2d {
      return this.getAbsolutePosition();
    },
  });
}
