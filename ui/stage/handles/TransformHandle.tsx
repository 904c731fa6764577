'use client';
import { Circle, Layer, Line, Rect, Stage as KonvaStage, Text } from 'react-konva';
import { applyAffine } from '@/core/geometry';
import type { Placement } from '@/core/steps';
import { placementMatrix } from '@/core/steps';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../place';
import { Grip } from './Grip';
import { alongAxis, useHandle } from './use-handle';

const round = (v: number, d = 2): number => Math.round(v * 10 ** d) / 10 ** d;

/** Move inside the outline, scale at a corner, turn at the grip above, and the pivot as a diamond. Shift keeps to an axis or 15°. */
export function TransformHandle({ place }: { place: StagePlace }) {
  const { space, values, drag } = useHandle<Placement>(place);
  if (!space) return null;
  const { format, at: onStage } = space;
  const m = placementMatrix(values, format);
  const put = (x: number, y: number): [number, number] => [...applyAffine(m, x, y)] as [number, number];
  const own = put(format.width / 2 + values.pivot[0], format.height / 2 + values.pivot[1]);
  const frame = [
    [0, 0],
    [format.width, 0],
    [format.width, format.height],
    [0, format.height],
  ] as const;
  const corners = frame.map(([x, y]) => onStage(...put(x, y)));
  const pivot = onStage(...own);
  // The turn's grip stands a fixed way off, in the direction that the picture's own up has on the stage.
  const angle = (values.rotate * Math.PI) / 180;
  const up = onStage(own[0] + Math.sin(angle), own[1] - Math.cos(angle));
  const length = Math.hypot(up[0] - pivot[0], up[1] - pivot[1]) || 1;
  const grip: [number, number] = [pivot[0] + (64 * (up[0] - pivot[0])) / length, pivot[1] + (64 * (up[1] - pivot[1])) / length];

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
            {...drag('Move', (d) => {
              const [dx, dy] = alongAxis(d);
              const [x, y] = d.from.translate;
              return { translate: [round(x + dx), round(y + dy)] };
            })}
          />
          {corners.map(([x, y], i) => (
            <Grip
              key={i}
              x={x}
              y={y}
              {...drag('Scale', ({ dx, dy, from, at }) => {
                const was = Math.hypot(at[0] - dx - own[0], at[1] - dy - own[1]);
                return { uniform: round(from.uniform * (Math.hypot(at[0] - own[0], at[1] - own[1]) / Math.max(1, was)), 4) };
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
            {...drag('Turn', ({ event, at }) => {
              const turned = (Math.atan2(at[0] - own[0], own[1] - at[1]) * 180) / Math.PI;
              return { rotate: event.shiftKey ? Math.round(turned / 15) * 15 : round(turned, 1) };
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
            {...drag('Pivot', ({ dx, dy, from }) => ({
              pivot: [round(from.pivot[0] + dx), round(from.pivot[1] + dy)],
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
