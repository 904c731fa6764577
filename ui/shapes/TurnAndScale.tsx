'use client';
import { Circle, Line } from 'react-konva';
import { movePoints } from '@/core/shape';
import { Grip } from '../stage/handles/Grip';
import { useDrag } from '../stage/handles/use-drag';
import type { Space } from '../stage/handles/use-step-space';
import { tokens } from '../theme/tokens';
import { pointAt } from './use-shapes';

interface Props {
  points: readonly number[];
  chosen: ReadonlySet<number>;
  space: Space;
  put(label: string, points: readonly number[], gesture: string): boolean;
}

/** Around the chosen points: corners scale them about the middle (Shift: both ways alike), the grip above turns them (Shift: by 15°). */
export function TurnAndScale({ points, chosen, space, put }: Props) {
  const dragOf = useDrag();
  const all = [...chosen].map((i) => pointAt(points, i));
  const [xs, ys] = [all.map((p) => p[0]), all.map((p) => p[1])];
  const [x0, y0, x1, y1] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  const pivot: [number, number] = [(x0 + x1) / 2, (y0 + y1) / 2];
  const corners = (
    [
      [x0, y0],
      [x1, y0],
      [x1, y1],
      [x0, y1],
    ] as const
  ).map(([x, y]) => space.at(x, y));
  const outward = (p: [number, number]): [number, number] => {
    const c = space.at(...pivot);
    const d = Math.hypot(p[0] - c[0], p[1] - c[1]) || 1;
    return [p[0] + (14 * (p[0] - c[0])) / d, p[1] + (14 * (p[1] - c[1])) / d];
  };
  const top = space.at((x0 + x1) / 2, y0);
  const grip: [number, number] = [top[0], top[1] - 34];
  const base = () => ({ points, space, chosen: new Set(chosen), pivot });
  return (
    <>
      {corners.map((c, i) => {
        const [x, y] = outward(c);
        return (
          <Grip
            key={i}
            name="scale grip"
            x={x}
            y={y}
            {...dragOf(base, ({ dx, dy, from, at, event, gesture }) => {
              const here = from.space.from(...at);
              const there = from.space.from(at[0] - dx, at[1] - dy);
              const ratio = (k: 0 | 1): number => {
                const was = there[k] - from.pivot[k];
                return Math.abs(was) < 1 ? 1 : (here[k] - from.pivot[k]) / was;
              };
              let [sx, sy] = [ratio(0), ratio(1)];
              if (event.shiftKey)
                sx = sy =
                  Math.hypot(here[0] - from.pivot[0], here[1] - from.pivot[1]) /
                  Math.max(1, Math.hypot(there[0] - from.pivot[0], there[1] - from.pivot[1]));
              put(
                'Scale points',
                movePoints(from.points, from.chosen, (u, v) => [
                  from.pivot[0] + (u - from.pivot[0]) * sx,
                  from.pivot[1] + (v - from.pivot[1]) * sy,
                ]),
                gesture,
              );
            })}
          />
        );
      })}
      <Line points={[...top, ...grip]} stroke={tokens.bone} strokeWidth={1} opacity={0.6} listening={false} />
      <Circle
        name="turn grip"
        x={grip[0]}
        y={grip[1]}
        radius={5}
        fill={tokens.bone}
        stroke={tokens.pit}
        hitStrokeWidth={14}
        {...dragOf(base, ({ dx, dy, from, at, event, gesture }) => {
          const here = from.space.from(...at);
          const there = from.space.from(at[0] - dx, at[1] - dy);
          let a =
            Math.atan2(here[1] - from.pivot[1], here[0] - from.pivot[0]) - Math.atan2(there[1] - from.pivot[1], there[0] - from.pivot[0]);
          if (event.shiftKey) a = (Math.round((a * 12) / Math.PI) * Math.PI) / 12;
          const [c, s] = [Math.cos(a), Math.sin(a)];
          put(
            'Turn points',
            movePoints(from.points, from.chosen, (u, v) => {
              const [p, q] = [u - from.pivot[0], v - from.pivot[1]];
              return [from.pivot[0] + c * p - s * q, from.pivot[1] + s * p + c * q];
            }),
            gesture,
          );
        })}
      />
    </>
  );
}
