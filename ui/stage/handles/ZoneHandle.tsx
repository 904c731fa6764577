'use client';
import { Layer, Line, Rect, Stage as KonvaStage } from 'react-konva';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../Stage';
import { Grip } from './Grip';
import { useHandle } from './use-handle';

type Box = readonly [number, number, number, number];
interface Place {
  box: Box;
  feather: number;
}

/** The box of a zone: dragged as a whole, and by a grip at each corner; where its feather ends is a thin line around it. */
export function ZoneHandle({ place }: { place: StagePlace }) {
  const { values, drag } = useHandle<Place>();
  const sx = (v: number): number => place.x + v * place.zoom;
  const sy = (v: number): number => place.y + v * place.zoom;
  const [x0, y0, x1, y1] = values.box;
  const round = (b: readonly number[]): Box => b.map((v) => Math.round(v * 10) / 10) as unknown as Box;
  const f = values.feather;
  const outline = (d: number): number[] => [sx(x0 - d), sy(y0 - d), sx(x1 + d), sy(y0 - d), sx(x1 + d), sy(y1 + d), sx(x0 - d), sy(y1 + d)];
  return (
    <div className="overlay live" data-testid="zone-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          {f > 0 && <Line points={outline(f)} closed stroke={tokens.bone} strokeWidth={1} dash={[1, 4]} listening={false} />}
          <Rect
            x={Math.min(sx(x0), sx(x1))}
            y={Math.min(sy(y0), sy(y1))}
            width={Math.abs(x1 - x0) * place.zoom}
            height={Math.abs(y1 - y0) * place.zoom}
            stroke={tokens.bone}
            strokeWidth={1.5}
            fill="rgba(0,0,0,0.001)"
            {...drag('Move zone', ({ dx, dy, from }) => {
              const by = [dx / place.zoom, dy / place.zoom];
              return { box: round(from.box.map((v, i) => v + by[i % 2]!)) };
            })}
          />
          {([0, 1, 2, 3] as const).map((i) => {
            const [cx, cy] = [i % 2 ? 2 : 0, i < 2 ? 1 : 3];
            return (
              <Grip
                key={i}
                x={sx(values.box[cx]!)}
                y={sy(values.box[cy]!)}
                {...drag('Size zone', ({ dx, dy, from }) => ({
                  box: round(from.box.map((v, k) => (k === cx ? v + dx / place.zoom : k === cy ? v + dy / place.zoom : v))),
                }))}
              />
            );
          })}
        </Layer>
      </KonvaStage>
    </div>
  );
}
