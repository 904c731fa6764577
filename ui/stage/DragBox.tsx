'use client';
import { useRef, useState } from 'react';
import type { StagePlace } from './place';

export type Box = [x0: number, y0: number, x1: number, y1: number];

interface Props {
  place: StagePlace;
  testId: string;
  toPicture(e: { clientX: number; clientY: number }): [number, number];
  /** A box that was dragged, in full-size pixels; a mere click has no extent. */
  onBox(box: Box): void;
  /** A box that stays drawn. */
  shown?: Box | null;
}

/** Boxes dragged over the picture; middle-button and Space-drags still pan. */
export function DragBox({ place, testId, toPicture, onBox, shown }: Props) {
  const from = useRef<[number, number] | null>(null);
  const [dragged, setDragged] = useState<Box | null>(null);
  const between = ([a, b]: [number, number], [x, y]: [number, number]): Box => [
    Math.min(a, x),
    Math.min(b, y),
    Math.max(a, x),
    Math.max(b, y),
  ];
  const box = dragged ?? shown;
  return (
    <div
      className="overlay"
      style={{ pointerEvents: 'auto' }}
      data-testid={testId}
      onPointerDown={(e) => {
        if (e.button !== 0 || document.body.dataset.space === 'down') return;
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = toPicture(e);
      }}
      onPointerMove={(e) => {
        if (from.current) setDragged(between(from.current, toPicture(e)));
      }}
      onPointerUp={(e) => {
        if (!from.current) return;
        const made = between(from.current, toPicture(e));
        from.current = null;
        setDragged(null);
        onBox(made[2] - made[0] < 2 && made[3] - made[1] < 2 ? [made[0], made[1], made[0], made[1]] : made);
      }}
    >
      {box && (
        <div
          className="pickbox"
          style={{
            left: place.x + box[0] * place.zoom,
            top: place.y + box[1] * place.zoom,
            width: Math.max(2, (box[2] - box[0]) * place.zoom),
            height: Math.max(2, (box[3] - box[1]) * place.zoom),
          }}
        />
      )}
    </div>
  );
}
