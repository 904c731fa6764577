'use client';
import type Konva from 'konva';
import { useRef, useState } from 'react';
import { Circle, Layer, Stage as KonvaStage } from 'react-konva';
import { POINT_SIZE } from '@/core/shape';
import { newGesture } from '../controls/NumberField';
import type { Space } from '../stage/handles/use-step-space';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import { view } from '../workbench/state';
import { useShaping } from './shaping';
import type { Seen, useShapes } from './use-shapes';
import { pointAt } from './use-shapes';

interface Props {
  place: StagePlace;
  shapes: ReturnType<typeof useShapes>;
  space: Space;
  inHand: Seen;
}

/** A soft round brush that takes the points under it along. */
export function PushPoints({ place, shapes, space, inHand }: Props) {
  const reach = useShaping((s) => s.reach);
  const [at, setAt] = useState<[number, number] | null>(null);
  const press = useRef<{ x: number; y: number; points: readonly number[]; share: number[]; gesture: string } | null>(null);
  const where = (e: Konva.KonvaEventObject<PointerEvent>): [number, number] => {
    const p = e.target.getStage()!.getPointerPosition()!;
    return [p.x, p.y];
  };
  const down = (e: Konva.KonvaEventObject<PointerEvent>): void => {
    if (e.evt.button !== 0 || document.body.dataset.space === 'down' || inHand.shape.locked) return;
    const [x, y] = where(e);
    const { points } = inHand.posed;
    const share = Array.from({ length: points.length / POINT_SIZE }, (_, i) => {
      const [u, v] = space.at(...pointAt(points, i));
      const t = Math.max(0, 1 - Math.hypot(u - x, v - y) / reach);
      return t * t * (3 - 2 * t);
    });
    press.current = { x, y, points, share, gesture: newGesture() };
    (e.evt.target as Element).setPointerCapture?.(e.evt.pointerId);
    view.set({ dragging: true });
  };
  const move = (e: Konva.KonvaEventObject<PointerEvent>): void => {
    const [x, y] = where(e);
    setAt([x, y]);
    const p = press.current;
    if (!p) return;
    const [a, b] = [space.from(p.x, p.y), space.from(x, y)];
    const next = [...p.points];
    p.share.forEach((s, i) => {
      next[i * POINT_SIZE]! += s * (b[0] - a[0]);
      next[i * POINT_SIZE + 1]! += s * (b[1] - a[1]);
    });
    shapes.put('Push points', inHand.shape.id, next, p.gesture);
  };
  const up = (): void => {
    if (press.current) view.set({ dragging: false });
    press.current = null;
  };
  return (
    <div className="overlay live" data-testid="push-points" style={{ cursor: 'none' }}>
      <KonvaStage
        width={place.width}
        height={place.height}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerLeave={() => setAt(null)}
      >
        <Layer listening={false}>
          {at && <Circle x={at[0]} y={at[1]} radius={reach} stroke={tokens.bone} strokeWidth={1} dash={[4, 3]} />}
          {at && <Circle x={at[0]} y={at[1]} radius={reach / 2} stroke={tokens.bone} strokeWidth={0.5} opacity={0.5} />}
        </Layer>
      </KonvaStage>
    </div>
  );
}
