import type Konva from 'konva';
import { useRef } from 'react';
import type { Change } from '@/store/commands';
import { newGesture } from '../controls/NumberField';
import { useRun } from '../workbench/context';

/** Makes a shape on the stage draggable for a reading: each move runs the command that `move` makes of it, one undo a drag. */
export function useReadingDrag(zoom: number) {
  const run = useRun();
  const start = useRef<{ x: number; y: number; gesture: string; base: unknown } | null>(null);
  return <T>(label: string, base: () => T, move: (dx: number, dy: number, base: T) => Change) => ({
    draggable: true,
    onPointerDown: (e: Konva.KonvaEventObject<PointerEvent>): void => {
      start.current = { ...e.target.getStage()!.getPointerPosition()!, gesture: newGesture(), base: base() };
    },
    onDragMove: (e: Konva.KonvaEventObject<DragEvent>): void => {
      const p = e.target.getStage()!.getPointerPosition();
      const s = start.current;
      if (p && s) run(label, move((p.x - s.x) / zoom, (p.y - s.y) / zoom, s.base as T), s.gesture);
    },
    onDragEnd: (): void => {
      start.current = null;
    },
    // Drawn where the reading says; Konva's own dragging only tells where the pointer is.
    dragBoundFunc(this: Konva.Node): Konva.Vector2d {
      return this.getAbsolutePosition();
    },
  });
}
