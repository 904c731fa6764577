'use client';
import { Layer, Line, Stage as KonvaStage } from 'react-konva';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../place';
import { Grip } from './Grip';
import { useHandle } from './use-handle';

type Margins = Record<'left' | 'top' | 'right' | 'bottom', number>;

/** The four edges of what is kept, each with a grip in its middle. */
export function CropHandle({ place }: { place: StagePlace }) {
  const { space, values, drag } = useHandle<Margins>(place);
  if (!space) return null;
  const { width, height } = space.format;
  const [x0, y0, x1, y1] = [values.left, values.top, width - values.right, height - values.bottom];
  const corners = [space.at(x0, y0), space.at(x1, y0), space.at(x1, y1), space.at(x0, y1)];
  const edges: [keyof Margins, number, number, (x: number, y: number) => number][] = [
    ['left', x0, (y0 + y1) / 2, (x) => x],
    ['right', x1, (y0 + y1) / 2, (x) => width - x],
    ['top', (x0 + x1) / 2, y0, (_, y) => y],
    ['bottom', (x0 + x1) / 2, y1, (_, y) => height - y],
  ];
  return (
    <div className="overlay live" data-testid="crop-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          <Line points={corners.flat()} closed stroke={tokens.bone} strokeWidth={1} dash={[5, 4]} listening={false} />
          {edges.map(([name, u, v, value]) => {
            const [x, y] = space.at(u, v);
            return <Grip key={name} x={x} y={y} {...drag('Crop', ({ at }) => ({ [name]: Math.round(value(at[0], at[1])) }))} />;
          })}
        </Layer>
      </KonvaStage>
    </div>
  );
}
