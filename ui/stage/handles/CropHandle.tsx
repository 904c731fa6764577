'use client';
import type Konva from 'konva';
import { Layer, Line, Rect, Stage as KonvaStage } from 'react-konva';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../Stage';
import { useHandle } from './use-handle';

type Margins = Record<'left' | 'top' | 'right' | 'bottom', number>;

/** The four edges of what is kept, each with a grip in its middle. */
export function CropHandle({ place }: { place: StagePlace }) {
  const { shot, values, begin, change, end } = useHandle<Margins>();
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
            <Rect
              key={name}
              x={x - 5}
              y={y - 5}
              width={10}
              height={10}
              fill={tokens.bone}
              stroke={tokens.pit}
              hitStrokeWidth={14}
              draggable
              dragBoundFunc={function (this: Konva.Node) {
                return this.getAbsolutePosition();
              }}
              onDragStart={begin}
              onDragMove={(e) => {
                const p = e.target.getStage()!.getPointerPosition();
                if (p) change('Crop', { [name]: Math.round(value(p.x, p.y)) });
              }}
              onDragEnd={end}
            />
          ))}
        </Layer>
      </KonvaStage>
    </div>
  );
}
