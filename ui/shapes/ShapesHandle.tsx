'use client';
import { Layer, Line, Stage as KonvaStage } from 'react-konva';
import { carryOf, mapPoints } from '@/core/shape';
import type { StagePlace } from '../stage/place';
import { ToolHint } from '../stage/ToolHint';
import { BoxSelect } from './BoxSelect';
import { DrawShape } from './DrawShape';
import { EditPoints } from './EditPoints';
import { PushPoints } from './PushPoints';
import type { ShapeTool } from './shaping';
import { markOf, shaping, useShaping } from './shaping';
import { useShapeKeys } from './shape-keys';
import { outlineOnStage, useShapes } from './use-shapes';

const HINTS: Record<ShapeTool, string> = {
  select: '',
  pen: 'Click corners, drag curves; the first point closes, Enter ends a line · Esc ends',
  free: 'Draw the outline in one go · Esc ends',
  ellipse: 'Drag an ellipse; Shift makes a circle · Esc ends',
  box: 'Drag a box; Shift makes a square · Esc ends',
  push: 'Drag pushes the points under the brush; [ and ] size it · Esc ends',
};

/** Shapes on the stage: their outlines, the points of the one in hand, and the tool that draws another. */
export function ShapesHandle({ place }: { place: StagePlace }) {
  const shapes = useShapes(place);
  const { tool, shape: chosen, onion } = useShaping();
  const { space, seen, shot, frame } = shapes;
  useShapeKeys(shapes);
  if (!space) return null;
  const inHand = seen.find((s) => s.shape.id === chosen && s.shape.on);
  return (
    <div className="overlay live" data-testid="shapes-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          {tool === 'select' && <BoxSelect place={place} shapes={shapes} space={space} />}
          {seen
            .filter((s) => s.shape.on)
            .map((s) => {
              const line = outlineOnStage(s.posed, space);
              const mine = s === inHand;
              const pick = (): void => {
                if (tool === 'select' && !mine) shaping.choose(s.shape.id);
              };
              return [
                <Line
                  key={`${s.shape.id} under`}
                  points={line}
                  closed={s.shape.closed}
                  stroke="#000"
                  opacity={0.45}
                  strokeWidth={mine ? 3.5 : 3}
                  listening={false}
                />,
                <Line
                  key={s.shape.id}
                  points={line}
                  closed={s.shape.closed}
                  stroke={markOf(s.shape)}
                  strokeWidth={mine ? 1.75 : 1.25}
                  opacity={s.shape.locked ? 0.5 : 1}
                  dash={s.shape.operation === 'add' ? [] : [6, 3]}
                  hitStrokeWidth={tool === 'select' ? 10 : 0}
                  listening={tool === 'select' && !mine}
                  onPointerDown={pick}
                />,
              ];
            })}
          {onion &&
            inHand &&
            neighbours(inHand.shape.keys, frame).map((k) => (
              <Line
                key={k.frame}
                points={outlineOnStage({ ...inHand.posed, points: mapPoints(carryOf(shot, inHand.shape, frame), k.value) }, space)}
                closed={inHand.shape.closed}
                stroke={markOf(inHand.shape)}
                opacity={0.5}
                strokeWidth={1}
                dash={[2, 4]}
                listening={false}
              />
            ))}
          {inHand && tool === 'select' && !inHand.shape.locked && <EditPoints shapes={shapes} space={space} inHand={inHand} />}
        </Layer>
      </KonvaStage>
      {tool === 'push' && inHand && <PushPoints place={place} shapes={shapes} space={space} inHand={inHand} />}
      {tool !== 'select' && tool !== 'push' && <DrawShape key={tool} place={place} shapes={shapes} space={space} tool={tool} />}
      {tool !== 'select' && (
        <ToolHint text={tool === 'push' && !inHand ? 'Choose a shape in the list to push its points · Esc ends' : HINTS[tool]} />
      )}
    </div>
  );
}

/** The keys before and after a frame. */
function neighbours<K extends { frame: number }>(keys: readonly K[], frame: number): K[] {
  return [keys.findLast((k) => k.frame < frame), keys.find((k) => k.frame > frame)].filter((k) => k !== undefined);
}
