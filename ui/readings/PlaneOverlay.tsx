'use client';
import { Circle, Layer, Line, Stage as KonvaStage } from 'react-konva';
import type { Homography, Quad } from '@/core/geometry/homography';
import { applyHomography, homographyBetween, mapPoint } from '@/core/geometry/homography';
import type { PlaneReading } from '@/core/readings/types';
import { dataOf } from '@/core/readings/use';
import type { Change } from '@/store/commands';
import { changePlane, pinPlane } from '@/store/readings';
import { Grip } from '../stage/handles/Grip';
import type { StagePlace } from '../stage/Stage';
import { tokens } from '../theme/tokens';
import { useView } from '../workbench/state';
import { useReadingDrag } from './use-drag';

const UNIT: Quad = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];
const GRID = 6;

/** The region, the features used (round) and rejected (crosses), and the surface with a grid and a grip at each corner. */
export function PlaneOverlay({ place, reading }: { place: StagePlace; reading: PlaneReading }) {
  const frame = useView((s) => s.frame);
  const drag = useReadingDrag(place.zoom);
  const map: Homography = dataOf(reading, 1).mapAt(frame);
  const home = frame === reading.reference;
  const result = reading.frames.find((f) => f.frame === frame);
  const at = (x: number, y: number): [number, number] => {
    const [u, v] = applyHomography(map, x, y);
    return [place.x + u * place.zoom, place.y + v * place.zoom];
  };
  const outline = (p: readonly number[]): number[] => Array.from({ length: p.length / 2 }, (_, i) => at(p[2 * i]!, p[2 * i + 1]!)).flat();
  const { surface, region } = reading;
  const across = homographyBetween(UNIT, surface);
  const grid = across
    ? Array.from({ length: GRID - 1 }, (_, k) => (k + 1) / GRID).flatMap((t) => [
        [...at(...pair(across, t, 0)), ...at(...pair(across, t, 1))],
        [...at(...pair(across, 0, t)), ...at(...pair(across, 1, t))],
      ])
    : [];
  const corner =
    (i: number) =>
    (dx: number, dy: number, from: { surface: Quad; map: Homography }): Change => {
      const there = from.surface.map(([x, y]) => mapPoint(from.map, x, y));
      there[i] = [there[i]![0] + dx, there[i]![1] + dy];
      if (home) return changePlane(reading.id, { surface: there as unknown as Quad });
      const put = homographyBetween(from.surface, there as unknown as Quad);
      return put ? pinPlane(reading.id, frame, put) : () => undefined;
    };
  const dots = (list: readonly number[] | undefined): [number, number][] =>
    Array.from({ length: (list?.length ?? 0) / 2 }, (_, i) => [
      place.x + list![2 * i]! * place.zoom,
      place.y + list![2 * i + 1]! * place.zoom,
    ]);
  const bad = result?.flag !== undefined;
  return (
    <div className="overlay live" data-testid="plane-overlay">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          {region.shapes.map((p, i) => (
            <Line key={i} points={outline(p)} closed stroke={tokens.bone} strokeWidth={1} dash={[5, 4]} listening={false} />
          ))}
          {region.without.map((p, i) => (
            <Line key={i} points={outline(p)} closed stroke={tokens.ochre} strokeWidth={1} dash={[2, 3]} listening={false} />
          ))}
          {dots(result?.used).map(([x, y], i) => (
            <Circle key={i} x={x} y={y} radius={2} fill={tokens.glaze} listening={false} />
          ))}
          {dots(result?.rejected).map(([x, y], i) => (
            <Line
              key={i}
              points={[x - 3, y - 3, x + 3, y + 3, x, y, x - 3, y + 3, x + 3, y - 3]}
              stroke={tokens.ochre}
              strokeWidth={1}
              listening={false}
            />
          ))}
          {grid.map((points, i) => (
            <Line key={i} points={points} stroke={bad ? tokens.ochre : tokens.glaze} strokeWidth={1} opacity={0.7} listening={false} />
          ))}
          <Line
            points={surface.flatMap(([x, y]) => at(x, y))}
            closed
            stroke={bad ? tokens.ochre : tokens.glaze}
            strokeWidth={1.5}
            listening={false}
          />
          {surface.map(([x, y], i) => {
            const [u, v] = at(x, y);
            return <Grip key={i} x={u} y={v} {...drag(home ? 'Move surface' : 'Put right', () => ({ surface, map }), corner(i))} />;
          })}
          {home &&
            region.shapes.flatMap((p, k) =>
              Array.from({ length: p.length / 2 }, (_, i) => {
                const [u, v] = at(p[2 * i]!, p[2 * i + 1]!);
                return (
                  <Circle
                    key={`${k} ${i}`}
                    x={u}
                    y={v}
                    radius={4}
                    stroke={tokens.bone}
                    fill={tokens.pit}
                    hitStrokeWidth={12}
                    {...drag(
                      'Shape the region',
                      () => region,
                      (dx, dy, from) =>
                        changePlane(reading.id, {
                          region: {
                            ...from,
                            shapes: from.shapes.map((s, j) =>
                              j === k ? s.map((c, n) => (n === 2 * i ? c + dx : n === 2 * i + 1 ? c + dy : c)) : s,
                            ),
                          },
                        }),
                    )}
                  />
                );
              }),
            )}
        </Layer>
      </KonvaStage>
    </div>
  );
}

const pair = (m: Homography, u: number, v: number): [number, number] => mapPoint(m, u, v);
