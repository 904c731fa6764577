'use client';
import type Konva from 'konva';
import { useRef } from 'react';
import { Circle, Layer, Line, Rect, Stage as KonvaStage, Text } from 'react-konva';
import { applyAffine } from '@/core/geometry/affine';
import { placementMatrix } from '@/core/steps/place/transform';
import type { Placement } from '@/core/steps/place/transform';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../Stage';
import { useHandle } from './use-handle';

const round = (v: number, d = 2): number => Math.round(v * 10 ** d) / 10 ** d;

/** Move inside the outline, scale at a corner, turn at the grip above, and the pivot as a diamond. Shift keeps to an axis or 15°. */
export function TransformHandle({ place }: { place: StagePlace }) {
  const { shot, values, begin, change, end } = useHandle<Placement>();
  const start = useRef<{ x: number; y: number; values: Placement } | null>(null);
  const { format } = shot;
  const m = placementMatrix(values, format);
  const screen = (x: number, y: number): [number, number] => {
    const [u, v] = applyAffine(m, x, y);
    return [place.x + u * place.zoom, place.y + v * place.zoom];
  };
  const corners = [screen(0, 0), screen(format.width, 0), screen(format.width, format.height), screen(0, format.height)];
  const pivot = screen(format.width / 2 + values.pivot[0], format.height / 2 + values.pivot[1]);
  const angle = (values.rotate * Math.PI) / 180;
  const grip: [number, number] = [pivot[0] + Math.sin(angle) * 64, pivot[1] - Math.cos(angle) * 64];

  const drag = (
    label: string,
    move: (dx: number, dy: number, from: Placement, e: PointerEvent, at: [number, number]) => Partial<Placement>,
  ) => ({
    draggable: true,
    // From the press on, not from where Konva takes it for a drag.
    onPointerDown: (e: Konva.KonvaEventObject<PointerEvent>) => {
      const p = e.target.getStage()!.getPointerPosition()!;
      start.current = { x: p.x, y: p.y, values };
    },
    onDragStart: begin,
    onDragMove: (e: Konva.KonvaEventObject<DragEvent>) => {
      const p = e.target.getStage()!.getPointerPosition();
      const s = start.current;
      if (!p || !s) return;
      change(label, move(p.x - s.x, p.y - s.y, s.values, e.evt as unknown as PointerEvent, [p.x, p.y]) as Record<string, never>);
    },
    onDragEnd: () => {
      start.current = null;
      end();
    },
    // The shape is drawn where the parameters say; Konva's own dragging only tells where the pointer is.
    dragBoundFunc(this: Konva.Node) {
      return this.getAbsolutePosition();
    },
  });

  return (
    <div className="overlay live" data-testid="transform-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          <Line
            points={corners.flat()}
            closed
            stroke={tokens.bone}
            strokeWidth={1}
            dash={[5, 4]}
            fill="rgba(0,0,0,0.001)"
            {...drag('Move', (dx, dy, from, e) => {
              const one = e.shiftKey ? (Math.abs(dx) > Math.abs(dy) ? [1, 0] : [0, 1]) : [1, 1];
              return {
                translate: [round(from.translate[0] + (dx * one[0]!) / place.zoom), round(from.translate[1] + (dy * one[1]!) / place.zoom)],
              };
            })}
          />
          {corners.map(([x, y], i) => (
            <Rect
              key={i}
              x={x - 4}
              y={y - 4}
              width={8}
              height={8}
              fill={tokens.bone}
              stroke={tokens.pit}
              strokeWidth={1}
              hitStrokeWidth={12}
              {...drag('Scale', (dx, dy, from, _, at) => {
                const was = Math.hypot(at[0] - dx - pivot[0], at[1] - dy - pivot[1]);
                return { uniform: round(from.uniform * (Math.hypot(at[0] - pivot[0], at[1] - pivot[1]) / Math.max(1, was)), 4) };
              })}
            />
          ))}
          <Line points={[...pivot, ...grip]} stroke={tokens.bone} strokeWidth={1} opacity={0.7} listening={false} />
          <Circle
            x={grip[0]}
            y={grip[1]}
            radius={5}
            fill={tokens.bone}
            stroke={tokens.pit}
            hitStrokeWidth={14}
            {...drag('Turn', (_dx, _dy, _from, e, at) => {
              const turned = (Math.atan2(at[0] - pivot[0], pivot[1] - at[1]) * 180) / Math.PI;
              return { rotate: e.shiftKey ? Math.round(turned / 15) * 15 : round(turned, 1) };
            })}
          />
          <Rect
            x={pivot[0]}
            y={pivot[1]}
            offsetX={4}
            offsetY={4}
            width={8}
            height={8}
            rotation={45}
            stroke={tokens.bone}
            strokeWidth={1.5}
            fill={tokens.pit}
            hitStrokeWidth={12}
            {...drag('Pivot', (dx, dy, from) => ({
              pivot: [round(from.pivot[0] + dx / place.zoom), round(from.pivot[1] + dy / place.zoom)],
            }))}
          />
          <Text
            x={pivot[0] + 12}
            y={pivot[1] + 8}
            fontFamily="IBM Plex Mono"
            fontSize={11}
            fill={tokens.bone}
            listening={false}
            shadowColor="black"
            shadowBlur={3}
            text={`${values.translate[0].toFixed(1)}, ${values.translate[1].toFixed(1)}  ${values.rotate.toFixed(1)}°  ×${values.uniform.toFixed(3)}`}
          />
        </Layer>
      </KonvaStage>
    </div>
  );
}
