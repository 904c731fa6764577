'use client';
import { Layer, Line, Stage as KonvaStage, Text } from 'react-konva';
import type { Value } from '@/core/document';
import { useSelectedLimited } from '../../workbench/context';
import { tokens } from '../../theme/tokens';
import type { StagePlace } from '../place';
import { Grip } from './Grip';
import { placesOf } from './places';
import { alongAxis, useHandle } from './use-handle';

const round = (v: number): number => Math.round(v * 10) / 10;
type Values = Record<string, Value>;

/** A grip for each place of a step, named; two that belong together have a line between them. Shift keeps to an axis. */
export function PlacesHandle({ place }: { place: StagePlace }) {
  const { space, values, drag } = useHandle<Values>(place);
  const { step } = useSelectedLimited()!;
  const places = placesOf(step);
  if (!space || places.length === 0) return null;
  const { width, height } = space.format;
  const spots = places.map(([name, d]) => {
    const [x, y] = values[name] as readonly [number, number];
    return { name, title: d.title, at: d.place === 'middle' ? space.at(width / 2 + x, height / 2 + y) : space.at(x, y) };
  });
  const dragOf = (name: string, title: string) =>
    drag(`Move ${title.toLowerCase()}`, (d) => {
      const [dx, dy] = alongAxis(d);
      const [x, y] = d.from[name] as readonly [number, number];
      return { [name]: [round(x + dx), round(y + dy)] };
    });
  return (
    <div className="overlay live" data-testid="places-handle">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          {spots.length === 2 && (
            <Line points={spots.flatMap((s) => [...s.at])} stroke={tokens.bone} strokeWidth={1} dash={[3, 5]} listening={false} />
          )}
          {spots.map(({ name, title, at }) => (
            <Text
              key={name}
              x={at[0] + 9}
              y={at[1] - 5}
              text={title}
              fill={tokens.bone}
              fontFamily="IBM Plex Sans"
              fontSize={11}
              shadowColor="black"
              shadowBlur={3}
              listening={false}
            />
          ))}
          {spots.map(({ name, title, at }) => (
            <Grip key={name} x={at[0]} y={at[1]} {...dragOf(name, title)} />
          ))}
        </Layer>
      </KonvaStage>
    </div>
  );
}
