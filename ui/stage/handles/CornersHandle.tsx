'use client';
import { useState } from 'react';
import { Layer, Line, Stage as KonvaStage, Text } from 'react-konva';
import type { Pins } from '@/core/steps';
import { CORNERS, pinnedCorners } from '@/core/steps';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../place';
import { Grip } from './Grip';
import { alongAxis, useHandle } from './use-handle';

const round = (v: number): number => Math.round(v * 10) / 10;

/** Four corners with a grip each; a side moves both of its ends, the inside all four. Shift keeps to an axis. */
export function CornersHandle({ place }: { place: StagePlace }) {
  const { space, values, drag } = useHandle<Pins>(place);
  const [held, setHeld] = useState<number | null>(null);
  if (!space) return null;
  const corners = pinnedCorners(values, space.format);
  const screen = corners.map(([x, y]) => space.at(x, y));

  /** Drags some corners together. */
  const dragOf = (which: readonly number[]) =>
    drag(
      which.length === 1 ? 'Move corner' : which.length === 2 ? 'Move side' : 'Move corners',
      (d) => {
        const [dx, dy] = alongAxis(d);
        setHeld(which.length === 1 ? which[0]! : null);
        return Object.fromEntries(
          which.map((i) => {
            const [x, y] = d.from[CORNERS[i]!];
            return [CORNERS[i]!, [round(x + dx), round(y + dy)]];
          }),
        );
      },
      () => setHeld(null),
    );

  return (
    <div className="overlay live" data-testid="corners-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          <Line points={screen.flat()} closed fill="rgba(0,0,0,0.001)" {...dragOf([0, 1, 2, 3])} />
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
                {...dragOf([i, next])}
              />
            );
          })}
          {screen.map(([x, y], i) => (
            <Grip key={i} x={x} y={y} {...dragOf([i])} />
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
