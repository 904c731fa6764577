'use client';
import { Circle, Layer, Line, Rect, RegularPolygon, Stage as KonvaStage } from 'react-konva';
import type { Box, PointReading } from '@/core/readings';
import { dataOf } from '@/core/readings';
import { changePoint, pinPoint } from '@/core/commands';
import { Grip } from '../stage/handles/Grip';
import { useDrag } from '../stage/handles/use-drag';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import { useRun } from '../workbench/context';

const LEAST = 3;
/** CSS pixels that grips may stand outside of their box. */
const ASIDE = 11;

/** Pattern and search boxes with grips, and the path: round where it is sure, square where it is flagged, a diamond where put by hand. */
export function PointOverlay({ place, reading, frame }: { place: StagePlace; reading: PointReading; frame: number }) {
  const run = useRun();
  const drag = useDrag();
  const data = dataOf(reading, 1);
  const [x, y] = reading.frames.length ? data.positionAt(frame) : reading.at;
  const { pattern, search } = reading.settings;
  const sx = (v: number): number => place.x + v * place.zoom;
  const sy = (v: number): number => place.y + v * place.zoom;
  const box = (b: Box) => ({ x: sx(x + b[0]), y: sy(y + b[1]), width: (b[2] - b[0]) * place.zoom, height: (b[3] - b[1]) * place.zoom });
  const resized = (b: Box, corner: number, dx: number, dy: number): Box => {
    const round = Math.round;
    const left = corner === 0 || corner === 3;
    const top = corner < 2;
    return [
      left ? Math.min(-LEAST, round(b[0] + dx)) : b[0],
      top ? Math.min(-LEAST, round(b[1] + dy)) : b[1],
      left ? b[2] : Math.max(LEAST, round(b[2] + dx)),
      top ? b[3] : Math.max(LEAST, round(b[3] + dy)),
    ];
  };
  /** Around a box that is small on the stage the grips stand outside, so that what is in it is seen. */
  const aside = (b: Box, v: number): number => {
    const across = Math.min(b[2] - b[0], b[3] - b[1]) * place.zoom;
    return Math.sign(v) * Math.max(0, Math.min(ASIDE, (4 * ASIDE - across) / 2));
  };
  const grips = (b: Box, change: (b: Box) => { pattern?: Box; search?: Box }, label: string) =>
    (
      [
        [b[0], b[1]],
        [b[2], b[1]],
        [b[2], b[3]],
        [b[0], b[3]],
      ] as const
    ).map(([u, v], i) => (
      <Grip
        key={`${label} ${i}`}
        x={sx(x + u) + aside(b, u)}
        y={sy(y + v) + aside(b, v)}
        {...drag(
          () => b,
          ({ dx, dy, from, gesture }) =>
            void run(label, changePoint(reading.id, { settings: change(resized(from, i, dx / place.zoom, dy / place.zoom)) }), gesture),
        )}
      />
    ));
  return (
    <div className="overlay live" data-testid="point-overlay">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          <Line
            points={reading.frames.flatMap((f) => [sx(f.x), sy(f.y)])}
            stroke={tokens.pit}
            strokeWidth={3}
            opacity={0.6}
            listening={false}
          />
          <Line points={reading.frames.flatMap((f) => [sx(f.x), sy(f.y)])} stroke={tokens.glaze} strokeWidth={1} listening={false} />
          {reading.frames.map((f) => {
            const at = { x: sx(f.x), y: sy(f.y), listening: false } as const;
            if (f.pinned) return <RegularPolygon key={f.frame} {...at} sides={4} radius={5} fill={tokens.bone} />;
            if (f.flag) return <Rect key={f.frame} {...at} offsetX={3} offsetY={3} width={6} height={6} fill={tokens.ochre} />;
            return (
              <Circle key={f.frame} {...at} radius={1.2 + 1.3 * f.confidence} fill={f.confidence < 0.6 ? tokens.ochre : tokens.glaze} />
            );
          })}
          <Rect {...box(search)} stroke={tokens.bone} strokeWidth={1} dash={[5, 4]} opacity={0.75} listening={false} />
          <Rect
            {...box(pattern)}
            stroke={tokens.bone}
            strokeWidth={1.5}
            fill="rgba(0,0,0,0.001)"
            {...drag(
              () => [x, y] as const,
              ({ dx, dy, from: [u, v], gesture }) =>
                void run(
                  frame === reading.reference ? 'Move point' : 'Put right',
                  pinPoint(reading.id, frame, u + dx / place.zoom, v + dy / place.zoom),
                  gesture,
                ),
            )}
          />
          <Line points={[sx(x) - 6, sy(y), sx(x) + 6, sy(y)]} stroke={tokens.clay} listening={false} />
          <Line points={[sx(x), sy(y) - 6, sx(x), sy(y) + 6]} stroke={tokens.clay} listening={false} />
          {grips(search, (b) => ({ search: b }), 'Size search')}
          {grips(pattern, (b) => ({ pattern: b }), 'Size pattern')}
        </Layer>
      </KonvaStage>
    </div>
  );
}
