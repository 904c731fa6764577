'use client';
import { Layer, Line, Stage as KonvaStage } from 'react-konva';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../place';
import { Grip } from './Grip';
import { useHandle } from './use-handle';

type Box = readonly [number, number, number, number];
interface Place {
  box: Box;
  feather: number;
}

/** The box of a zone: dragged as a whole, and by a grip at each corner; where its feather ends is a thin line around it. */
export function ZoneHandle({ place }: { place: StagePlace }) {
  const { space, values, drag } = useHandle<Place>(place);
  if (!space) return null;
  const [x0, y0, x1, y1] = values.box;
  const round = (b: readonly number[]): Box => b.map((v) => Math.round(v * 10) / 10) as unknown as Box;
  const f = values.feather;
  const outline = (d: number): number[] =>
    [space.at(x0 - d, y0 - d), space.at(x1 + d, y0 - d), space.at(x1 + d, y1 + d), space.at(x0 - d, y1 + d)].flat();
  return (
    <div className="overlay live" data-testid="zone-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          {f > 0 && <Line points={outline(f)} closed stroke={tokens.bone} strokeWidth={1} dash={[1, 4]} listening={false} />}
          <Line
            points={outline(0)}
            closed
            stroke={tokens.bone}
            strokeWidth={1.5}
            fill="rgba(0,0,0,0.001)"
            {...drag('Move zone', ({ dx, dy, from }) => ({ box: round(from.box.map((v, i) => v + (i % 2 ? dy : dx))) }))}
          />
          {([0, 1, 2, 3] as const).map((i) => {
            const [cx, cy] = [i % 2 ? 2 : 0, i < 2 ? 1 : 3];
            const [x, y] = space.at(values.box[cx]!, values.box[cy]!);
            return (
              <Grip
                key={i}
                x={x}
                y={y}
                {...drag('Size zone', ({ dx, dy, from }) => ({
                  box: round(from.box.map((v, k) => (k === cx ? v + dx : k === cy ? v + dy : v))),
                }))}
              />
            );
          })}
        </Layer>
      </KonvaStage>
    </div>
  );
}
