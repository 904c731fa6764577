'use client';
import { useState } from 'react';
import { Line, Rect } from 'react-konva';
import { inPolygon } from '@/core/geometry';
import { POINT_SIZE } from '@/core/shape';
import type { Space } from '../stage/handles/use-step-space';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import { follow } from '../workbench/follow';
import { shaping } from './shaping';
import type { useShapes } from './use-shapes';
import { pointAt } from './use-shapes';

interface Props {
  place: StagePlace;
  shapes: ReturnType<typeof useShapes>;
  space: Space;
}

/** Empty ground: a drag chooses the points in a box, with Alt in a lasso; a click lets go of what is chosen. */
export function BoxSelect({ place, shapes: { seen }, space }: Props) {
  const [line, setLine] = useState<readonly number[]>([]);
  const finish = (drawn: readonly number[], add: boolean): void => {
    setLine([]);
    if (drawn.length < 6) {
      if (!add) shaping.choose(shaping.get().points.length > 0 ? shaping.get().shape : null);
      return;
    }
    const inside = (points: readonly number[]): number[] =>
      Array.from({ length: points.length / POINT_SIZE }, (_, i) => i).filter((i) => inPolygon(drawn, ...space.at(...pointAt(points, i))));
    const { shape, points } = shaping.get();
    const free = seen.filter((s) => s.shape.on && !s.shape.locked);
    const own = free.find((s) => s.shape.id === shape);
    const caught = own ? inside(own.posed.points) : [];
    if (own && (caught.length > 0 || add)) return shaping.choose(own.shape.id, [...new Set([...(add ? points : []), ...caught])]);
    // Nothing of the one in hand: the shape of which most is caught.
    const best = free.map((s) => ({ s, caught: inside(s.posed.points) })).sort((a, b) => b.caught.length - a.caught.length)[0];
    if (best && best.caught.length > 0) shaping.choose(best.s.shape.id, best.caught);
    else shaping.choose(null);
  };
  return (
    <>
      <Rect
        width={place.width}
        height={place.height}
        fill="rgba(0,0,0,0.001)"
        onPointerDown={(e) => {
          if (e.evt.button !== 0 || document.body.dataset.space === 'down') return;
          const { x, y } = e.target.getStage()!.getPointerPosition()!;
          let drawn: readonly number[] = [];
          let add = e.evt.shiftKey;
          // Over points and outlines, and beyond the stage, too.
          follow(
            e.evt,
            (dx, dy, event) => {
              add = event.shiftKey;
              drawn = event.altKey ? [...(drawn.length ? drawn : [x, y]), x + dx, y + dy] : [x, y, x + dx, y, x + dx, y + dy, x, y + dy];
              setLine(drawn);
            },
            () => finish(drawn, add),
          );
        }}
      />
      {line.length > 0 && <Line points={[...line]} closed stroke={tokens.bone} dash={[4, 3]} strokeWidth={1} listening={false} />}
    </>
  );
}
