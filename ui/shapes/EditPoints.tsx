'use client';
import type Konva from 'konva';
import { Circle, Line, Rect, Text } from 'react-konva';
import { POINT_SIZE, cubicAt, cubicsOf, movePoints, toggleSmooth, withPointOn } from '@/core/shape';
import { changeSome } from '@/core/commands';
import { useDrag } from '../stage/handles/use-drag';
import type { Space } from '../stage/handles/use-step-space';
import { tokens } from '../theme/tokens';
import { markOf, shaping, useShaping } from './shaping';
import { TurnAndScale } from './TurnAndScale';
import type { Seen, useShapes } from './use-shapes';
import { outlineOnStage, outwardsOf, pointAt } from './use-shapes';

interface Props {
  shapes: ReturnType<typeof useShapes>;
  space: Space;
  inHand: Seen;
}

/** Chosen points whose tangents and feathers can be touched: those of more would hide the outline. */
const FEW = 8;

/** How far a feather's grip stands off where there is no feather, in pixels of the stage. */
const OFF = 22;

/** The points of the shape in hand: dragged, alone or as many as are chosen; their tangents and feathers where they are. */
export function EditPoints({ shapes, space, inHand }: Props) {
  const dragOf = useDrag();
  const chosen = useShaping((s) => s.points);
  const { shape, posed } = inHand;
  const { points } = posed;
  const n = points.length / POINT_SIZE;
  const colour = markOf(shape);
  const set = new Set(chosen.filter((i) => i < n));

  /** A drag on the stage, as a change of the points that the shape had at the press. */
  const drag = (
    label: string,
    change: (from: readonly number[], own: { dx: number; dy: number; at: [number, number]; event: PointerEvent }) => number[],
  ) =>
    dragOf(
      () => ({ points, space }),
      ({ dx, dy, from, at, event, gesture }) => {
        const here = from.space.from(...at);
        const there = from.space.from(at[0] - dx, at[1] - dy);
        let [ox, oy] = [here[0] - there[0], here[1] - there[1]];
        // Shift keeps to an axis.
        if (event.shiftKey) [ox, oy] = Math.abs(ox) > Math.abs(oy) ? [ox, 0] : [0, oy];
        shapes.put(label, shape.id, change(from.points, { dx: ox, dy: oy, at: here, event }), gesture);
      },
    );
  const moveSome = (which: ReadonlySet<number> | null) =>
    drag(which ? 'Move points' : 'Move shape', (from, { dx, dy }) => movePoints(from, which, (x, y) => [x + dx, y + dy]));

  /** A press on a point chooses it, with Shift besides the others; of chosen ones, all are dragged. */
  const pointDrag = (i: number) => {
    const handlers = moveSome(set.has(i) ? set : new Set([i]));
    return {
      ...handlers,
      onPointerDown: (e: Konva.KonvaEventObject<PointerEvent>): void => {
        if (e.evt.shiftKey) shaping.choose(shape.id, set.has(i) ? chosen.filter((k) => k !== i) : [...chosen, i]);
        else if (!set.has(i)) shaping.choose(shape.id, [i]);
        handlers.onPointerDown(e);
      },
      onDblClick: (): void =>
        void shapes.put('Corner or smooth', shape.id, toggleSmooth(points, set.has(i) ? set : new Set([i]), shape.closed)),
    };
  };

  /** A double click on the outline puts a point there. */
  const addPoint = (e: Konva.KonvaEventObject<MouseEvent>): void => {
    const p = e.target.getStage()!.getPointerPosition()!;
    const [x, y] = [p.x, p.y];
    let best = { side: 0, t: 0.5, d: Infinity };
    cubicsOf(posed).forEach(({ curve }, side) => {
      for (let k = 1; k < 40; k++) {
        const [u, v] = space.at(...cubicAt(curve, k / 40));
        const d = Math.hypot(u - x, v - y);
        if (d < best.d) best = { side, t: k / 40, d };
      }
    });
    if (
      shapes.run(
        'Add point',
        changeSome(shapes.step.id, [shape.id], (s) => withPointOn(s, best.side, best.t)),
      )
    )
      shaping.choose(shape.id, [best.side + 1]);
  };

  /** A tangent's end: the other one turns with it, keeping its length; Alt breaks them, Shift keeps the length. */
  const tangentDrag = (i: number, k: 2 | 4) =>
    dragOf(
      () => ({ points, space }),
      ({ from, at, event, gesture }) => {
        const o = i * POINT_SIZE;
        const [x, y] = pointAt(from.points, i);
        const here = from.space.from(...at);
        let [tx, ty] = [here[0] - x, here[1] - y];
        const was = Math.hypot(from.points[o + k]!, from.points[o + k + 1]!);
        const now = Math.hypot(tx, ty) || 1;
        if (event.shiftKey && was > 0) [tx, ty] = [(tx * was) / now, (ty * was) / now];
        const next = [...from.points];
        next[o + k] = tx;
        next[o + k + 1] = ty;
        const other = k === 2 ? 4 : 2;
        const length = Math.hypot(from.points[o + other]!, from.points[o + other + 1]!);
        if (!event.altKey && length > 0) {
          const size = Math.hypot(tx, ty) || 1;
          next[o + other] = (-tx * length) / size;
          next[o + other + 1] = (-ty * length) / size;
        }
        shapes.put('Move tangent', shape.id, next, gesture);
      },
    );

  const feathered = shape.feather !== 0 || Array.from({ length: n }, (_, i) => points[i * POINT_SIZE + 6]).some((v) => v !== 0);
  const featherAt = (i: number): number => shape.feather + points[i * POINT_SIZE + 6]!;
  const outward = outwardsOf(posed);
  const chosenList = [...set];
  const few = chosenList.length <= FEW ? chosenList : [];
  return (
    <>
      <Line
        points={outlineOnStage(posed, space)}
        closed={shape.closed}
        stroke="rgba(0,0,0,0.001)"
        hitStrokeWidth={11}
        {...moveSome(null)}
        onDblClick={addPoint}
      />
      {feathered && (
        <Line
          points={featherOutline(inHand, space)}
          closed={shape.closed}
          stroke={colour}
          strokeWidth={1}
          dash={[1, 4]}
          listening={false}
        />
      )}
      {shape.spline === 'smooth' && (
        <Line
          points={Array.from({ length: n }, (_, i) => space.at(...pointAt(points, i))).flat()}
          closed={shape.closed}
          stroke={colour}
          strokeWidth={1}
          opacity={0.4}
          listening={false}
        />
      )}
      {few.map((i) => {
        const [x, y] = space.at(...pointAt(points, i));
        const [ox, oy] = outward(i);
        const f = featherAt(i);
        const [px, py] = pointAt(points, i);
        const tip = space.at(px + ox * f, py + oy * f);
        const away = Math.hypot(tip[0] - x, tip[1] - y);
        // Without a feather its grip stands off, so that it does not lie on the point.
        const dir = space.at(px + ox, py + oy);
        const unit = Math.hypot(dir[0] - x, dir[1] - y) || 1;
        const off = (f < 0 ? -1 : 1) * (away + OFF);
        const grip: [number, number] = [x + ((dir[0] - x) / unit) * off, y + ((dir[1] - y) / unit) * off];
        return (
          <FeatherGrip
            key={`feather ${i}`}
            from={[x, y]}
            to={grip}
            colour={colour}
            {...dragOf(
              () => ({ points, space, set: [...set] }),
              ({ dx, dy, from, gesture, at }) => {
                const a = from.space.from(...at);
                const b = from.space.from(at[0] - dx, at[1] - dy);
                const by = (a[0] - b[0]) * ox + (a[1] - b[1]) * oy;
                const next = [...from.points];
                for (const k of from.set) next[k * POINT_SIZE + 6] = from.points[k * POINT_SIZE + 6]! + by;
                shapes.put('Feather', shape.id, next, gesture);
              },
            )}
          />
        );
      })}
      {shape.spline === 'bezier' &&
        few.flatMap((i) =>
          ([2, 4] as const).map((k) => {
            const [px, py] = pointAt(points, i);
            const [tx, ty] = [points[i * POINT_SIZE + k]!, points[i * POINT_SIZE + k + 1]!];
            if (tx === 0 && ty === 0) return null;
            const [a, b] = [space.at(px, py), space.at(px + tx, py + ty)];
            return [
              <Line key={`${i} ${k} line`} points={[...a, ...b]} stroke={colour} strokeWidth={1} listening={false} />,
              <Circle
                key={`${i} ${k}`}
                x={b[0]}
                y={b[1]}
                radius={3.5}
                fill={tokens.pit}
                stroke={colour}
                strokeWidth={1.5}
                hitStrokeWidth={12}
                {...tangentDrag(i, k)}
              />,
            ];
          }),
        )}
      {Array.from({ length: n }, (_, i) => {
        const [x, y] = space.at(...pointAt(points, i));
        const on = set.has(i);
        return (
          <Rect
            key={i}
            name="shape point"
            x={x - 3}
            y={y - 3}
            width={6}
            height={6}
            fill={on ? tokens.clay : colour}
            stroke={tokens.pit}
            strokeWidth={1}
            hitStrokeWidth={10}
            {...pointDrag(i)}
          />
        );
      })}
      {chosenList.length > 1 && (
        <TurnAndScale
          points={points}
          chosen={set}
          space={space}
          put={(label, next, gesture) => shapes.put(label, shape.id, next, gesture)}
        />
      )}
      <Text
        {...labelPlace(posed, space)}
        text={shape.name}
        fill={colour}
        fontFamily="IBM Plex Sans"
        fontSize={11}
        shadowColor="black"
        shadowBlur={3}
        listening={false}
      />
    </>
  );
}

function labelPlace({ points }: Seen['posed'], space: Space): { x: number; y: number } {
  const all = Array.from({ length: points.length / POINT_SIZE }, (_, i) => space.at(...pointAt(points, i)));
  const top = all.reduce((a, b) => (b[1] < a[1] ? b : a));
  return { x: top[0] + 8, y: top[1] - 16 };
}

/** The line at which the feather ends. */
function featherOutline({ shape, posed }: Seen, space: Space): number[] {
  const out: number[] = [];
  const n = posed.points.length / POINT_SIZE;
  const outward = outwardsOf(posed);
  for (let i = 0; i < n; i++) {
    const f = shape.feather + posed.points[i * POINT_SIZE + 6]!;
    const [x, y] = pointAt(posed.points, i);
    const [ox, oy] = outward(i);
    out.push(...space.at(x + ox * f, y + oy * f));
  }
  return out;
}

function FeatherGrip({
  from,
  to,
  colour,
  ...rest
}: { from: [number, number]; to: [number, number]; colour: string } & ReturnType<ReturnType<typeof useDrag>>) {
  return (
    <>
      <Line points={[...from, ...to]} stroke={colour} strokeWidth={1} dash={[1, 3]} listening={false} />
      <Rect
        name="feather grip"
        x={to[0]}
        y={to[1]}
        offsetX={3.5}
        offsetY={3.5}
        width={7}
        height={7}
        rotation={45}
        fill={tokens.pit}
        stroke={colour}
        strokeWidth={1.5}
        hitStrokeWidth={12}
        {...rest}
      />
    </>
  );
}
