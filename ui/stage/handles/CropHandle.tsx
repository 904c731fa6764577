'use client';
import { Layer, Line, Stage as KonvaStage } from 'react-konva';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../Stage';
import { Grip } from './Grip';
import { useHandle } from './use-handle';

type Margins = Record<'left' | 'top' | 'right' | 'bottom', number>;

/** The four edges of what is kept, each with a grip in its middle. */
export function CropHandle({ place }: { place: StagePlace }) {
  const { shot, values, drag } = useHandle<Margins>();
  const { width, height } = shot.format;
  const [x0, y0] = [place.x + values.left * place.zoom, place.y + values.top * place.zoom];
  const [x1, y1] = [place.x + (width - values.right) * place.zoom, place.y + (height - values.bottom) * place.zoom];
  const edges: [keyof Margins, number, number, (x: number, y: number) => number][] = [
    ['left', x0, (y0 + y1) / 2, (x) => (x - place.x) / place.zoom],
    ['right', x1, (y0 + y1) / 2, (x) => width - (x - place.x) / place.zoom],
    ['top', (x0 + x1) / 2, y0, (_, y) => (y - place.y) / place.zoom],
    ['bottom', (x0 + x1) / 2, y1, (_, y) => height - (y - place.y) / place.zoom],
  ];
  return (
    <div className="overlay live" data-testid="crop-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          <Line points={[x0, y0, x1, y0, x1, y1, x0, y1]} closed stroke={tokens.bone} strokeWidth={1} dash={[5, 4]} listening={false} />
          {edges.map(([name, x, y, value]) => (
            <Grip key={name} x={x} y={y} {...drag('Crop', ({ at }) => ({ [name]: Math.round(value(at[0], at[1])) }))} />
          ))}
        </Layer>
      </KonvaStage>
    </div>
  );
}
