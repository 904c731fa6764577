'use client';
import type Konva from 'konva';
import { useRef, useState } from 'react';
import { Layer, Line, Rect, Stage as KonvaStage, Text } from 'react-konva';
import type { Pins } from '@/core/steps/place/corner-pin';
import { CORNERS, pinnedCorners } from '@/core/steps/place/corner-pin';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../Stage';
import { useHandle } from './use-handle';

type Point = readonly [number, number];

const round = (v: number): number => Math.round(v * 10) / 10;

/** Four corners with a grip each; a side moves both of its ends, the inside all four. Shift keeps to an axis. */
export function CornersHandle({ place }: { place: StagePlace }) {
  const { shot, values, begin, change, end } = useHandle<Pins>();
  const start = useRef<{ x: number; y: number; values: Pins } | null>(null);
  const [held, setHeld] = useState<number | null>(null);
  const corners = pinnedCorners(values, shot.format);
  const screen = corners.map(([x, y]) => [place.x + x * place.zoom, place.y + y * place.zoom] as const);

  /** Drags some corners together. */
  const drag = (which: readonly number[]) => ({
    draggable: true,
    onPointerDown: (e: Konva.KonvaEventObject<PointerEvent>) => {
      const p = e.target.getStage()!.getPointerPosition()!;
      start.current = { x: p.x, y: p.y, values };
      setHeld(which.length === 1 ? which[0]! : null);
    },
    onDragStart: begin,
    onDragMove: (e: Konva.KonvaEventObject<DragEvent>) => {
      const p = e.target.getStage()!.getPointerPosition();
      const s = start.current;
      if (!p || !s) return;
      let [dx, dy] = [(p.x - s.x) / place.zoom, (p.y - s.y) / place.zoom];
      if (e.evt.shiftKey) [dx, dy] = Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];
      const moved = which.map((i): [string, Point] => {
        const [x, y] = s.values[CORNERS[i]!];
        return [CORNERS[i]!, [round(x + dx), round(y + dy)]];
      });
      change(which.length === 1 ? 'Move corner' : which.length === 2 ? 'Move side' : 'Move corners', Object.fromEntries(moved));
    },
    onDragEnd: () => {
      start.current = null;
      setHeld(null);
      end();
    },
    dragBoundFunc(this: Konva.Node) {
      return this.getAbsolutePosition();
    },
  });

  return (
    <div className="overlay live" data-testid="corners-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          <Line points={screen.flat()} closed fill="rgba(0,0,0,0.001)" {...drag([0, 1, 2, 3])} />
          {screen.map(([x, y], i) => {
            const next = (i + 1) % 4;
            const [u, v] = screen[next]!;
            return (
              <Line
                key={i}
                points={[x, y, u, v]}
                stroke={tokens.bone}
                strokeWidth={1}
                dash={[5, 4]}
                hitStrokeWidth={12}
                {...drag([i, next])}
              />
            );
          })}
          {screen.map(([x, y], i) => (
            <Rect
              key={i}
              x={x - 5}
              y={y - 5}
              width={10}
              height={10}
              fill={tokens.bone}
              stroke={tokens.pit}
              hitStrokeWidth={14}
              {...drag([i])}
            />
          ))}
          {held !== null && (
            <Text
              x={screen[held]![0] + 10}
              y={screen[held]![1] + 8}
              text={corners[held]!.map((v) => v.toFixed(1)).join(', ')}
              fill={tokens.bone}
              fontFamily="IBM Plex Mono"
              fontSize={11}
              listening={false}
            />
          )}
        </Layer>
      </KonvaStage>
    </div>
  );
}
