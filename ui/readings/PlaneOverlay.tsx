'use client';
import { Fragment } from 'react';
import { Circle, Layer, Line, Stage as KonvaStage } from 'react-konva';
import type { Homography, Quad } from '@/core/geometry';
import { applyHomography, homographyBetween, mapPoint, mapPolygon } from '@/core/geometry';
import type { PlaneReading } from '@/core/readings';
import { dataOf } from '@/core/readings';
import type { Change } from '@/core/commands';
import { changePlane, pinPlane } from '@/core/commands';
import { Grip } from '../stage/handles/Grip';
import { useDrag } from '../stage/handles/use-drag';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import { useRun } from '../workbench/context';

const UNIT: Quad = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];
const GRID = 6;
/** CSS pixels within which a corner and a point are one to the hand, and by which they are then drawn apart. */
const CROWD = 14;
const APART = 22;

/** The region, the features used (round) and rejected (crosses), and the surface with a grid and a grip at each corner. */
export function PlaneOverlay({ place, reading, frame }: { place: StagePlace; reading: PlaneReading; frame: number }) {
  const run = useRun();
  const drag = useDrag();
  const map: Homography = dataOf(reading, 1).mapAt(frame);
  const home = frame === reading.reference;
  const result = reading.frames.find((f) => f.frame === frame);
  const at = (x: number, y: number): [number, number] => {
    const [u, v] = applyHomography(map, x, y);
    return [place.x + u * place.zoom, place.y + v * place.zoom];
  };
  const onStage: Homography = [place.zoom, 0, place.x, 0, place.zoom, place.y, 0, 0, 1];
  const outline = (p: readonly number[]): number[] => mapPolygon(onStage, mapPolygon(map, p));
  const { surface, region } = reading;
  const across = homographyBetween(UNIT, surface);
  const grid = across
    ? Array.from({ length: GRID - 1 }, (_, k) => (k + 1) / GRID).flatMap((t) => [
        [...at(...mapPoint(across, t, 0)), ...at(...mapPoint(across, t, 1))],
        [...at(...mapPoint(across, 0, t)), ...at(...mapPoint(across, 1, t))],
      ])
    : [];
  /** A corner moved: of the surface itself on the reference frame, elsewhere of where it is said to be. */
  const cornerMoved = (i: number, dx: number, dy: number, from: { surface: Quad; map: Homography }): Change => {
    const there = from.surface.map(([x, y], k) => {
      const [u, v] = mapPoint(from.map, x, y);
      return k === i ? [u + dx / place.zoom, v + dy / place.zoom] : [u, v];
    }) as unknown as Quad;
    if (home) return changePlane(reading.id, { surface: there });
    const put = homographyBetween(from.surface, there);
    return put ? pinPlane(reading.id, frame, put) : () => undefined;
  };
  const points = region.shapes.flatMap((p) => Array.from({ length: p.length / 2 }, (_, i) => at(p[2 * i]!, p[2 * i + 1]!)));
  const corners = surface.map(([x, y]) => at(x, y));
  const middle = [0, 1].map((k) => corners.reduce((sum, c) => sum + c[k]! / 4, 0)) as [number, number];
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
            // Beside a point of the region the corner's grip stands further out, so that both can be had.
            const crowded = home && points.some(([a, b]) => Math.hypot(a - u, b - v) < CROWD);
            const away = Math.hypot(u - middle[0], v - middle[1]) || 1;
            const out = crowded ? APART / away : 0;
            const [gu, gv] = [u + out * (u - middle[0]), v + out * (v - middle[1])];
            return (
              <Fragment key={i}>
                {crowded && <Line points={[u, v, gu, gv]} stroke={tokens.glaze} strokeWidth={1} listening={false} />}
                <Grip
                  x={gu}
                  y={gv}
                  {...drag(
                    () => ({ surface, map }),
                    ({ dx, dy, from, gesture }) => void run(home ? 'Move surface' : 'Put right', cornerMoved(i, dx, dy, from), gesture),
                  )}
                />
              </Fragment>
            );
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
                      () => region,
                      ({ dx, dy, from, gesture }) => {
                        const moved = from.shapes.map((s, j) =>
                          j === k ? s.map((c, n) => c + (n === 2 * i ? dx : n === 2 * i + 1 ? dy : 0) / place.zoom) : s,
                        );
                        run('Shape the region', changePlane(reading.id, { region: { ...from, shapes: moved } }), gesture);
                      },
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
