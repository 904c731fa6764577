'use client';
import type Konva from 'konva';
import { useEffect, useRef, useState } from 'react';
import { Circle, Layer, Line, Stage as KonvaStage } from 'react-konva';
import { POINT_SIZE, boxPoints, ellipsePoints, freehandPoints } from '@/core/shape';
import { addShapes } from '@/core/commands';
import type { Space } from '../stage/handles/use-step-space';
import type { StagePlace } from '../stage/place';
import { toast } from '../theme/toast';
import { tokens } from '../theme/tokens';
import type { ShapeTool } from './shaping';
import { shaping } from './shaping';
import type { useShapes } from './use-shapes';
import { outlineOnStage, pointAt } from './use-shapes';

interface Props {
  place: StagePlace;
  shapes: ReturnType<typeof useShapes>;
  space: Space;
  tool: ShapeTool;
}

/** How near the first point a click closes, in pixels of the stage. */
const NEAR = 10;
/** A drag that is shorter than this is a click. */
const CLICK = 4;

/** Clicks that follow each other within so many milliseconds are a double one. */
const TWICE = 350;
/** How far a line drawn by hand may be from what is made of it, in pixels of the stage. */
const TREMBLE = 1.2;

/** A new shape: corners and curves by the pen, a line drawn by hand, an ellipse or a box. */
export function DrawShape({ place, shapes, space, tool }: Props) {
  const [points, setPoints] = useState<readonly number[]>([]);
  const [at, setAt] = useState<[number, number] | null>(null);
  /** Where the press was, in the picture and on the stage. */
  const press = useRef<{ own: [number, number]; stage: [number, number] } | null>(null);
  const line = useRef<number[]>([]);
  const last = useRef<{ time: number; at: [number, number] }>({ time: -Infinity, at: [0, 0] });
  const pen = tool === 'pen';
  const free = tool === 'free';

  const finish = (made: readonly number[], closed: boolean): void => {
    setPoints([]);
    line.current = [];
    if (made.length < POINT_SIZE * (closed ? 3 : 2)) {
      toast('info', closed ? 'A shape needs three points or more.' : 'A line needs two points or more.');
      return;
    }
    const ids: string[] = [];
    const names: Partial<Record<ShapeTool, string>> = { ellipse: 'Ellipse 1', box: 'Box 1' };
    const name = closed ? (names[tool] ?? 'Shape 1') : 'Line 1';
    const new_ = { points: made.map((v) => Math.round(v * 1000) / 1000), closed, name };
    if (shapes.run('New shape', addShapes(shapes.step.id, [new_], shapes.frame, ids))) {
      shaping.set({ tool: 'select', shape: ids[0]!, points: [] });
    }
  };

  useEffect(() => {
    const key = (e: KeyboardEvent): void => {
      if (!pen || points.length === 0) return;
      if (e.key === 'Enter') finish(points, false);
      else if (e.key === 'Backspace') setPoints(points.slice(0, -POINT_SIZE));
      else if (e.key === 'Escape') setPoints([]);
      else return;
      e.preventDefault();
      // The shapes' own keys are heard on the same window.
      e.stopImmediatePropagation();
    };
    window.addEventListener('keydown', key, true);
    return () => window.removeEventListener('keydown', key, true);
  });

  const where = (e: Konva.KonvaEventObject<PointerEvent>): [number, number] => {
    const p = e.target.getStage()!.getPointerPosition()!;
    return [p.x, p.y];
  };
  const nearFirst = (p: readonly [number, number]): boolean => {
    if (points.length < 3 * POINT_SIZE) return false;
    const [x, y] = space.at(...pointAt(points, 0));
    return Math.hypot(x - p[0], y - p[1]) < NEAR;
  };
  const between = (a: [number, number], b: [number, number], even: boolean): number[] => {
    const [w, h] = [b[0] - a[0], b[1] - a[1]];
    const s = Math.max(Math.abs(w), Math.abs(h));
    const to = even ? [a[0] + Math.sign(w || 1) * s, a[1] + Math.sign(h || 1) * s] : b;
    return (tool === 'ellipse' ? ellipsePoints : boxPoints)(a[0], a[1], to[0]!, to[1]!);
  };

  const down = (e: Konva.KonvaEventObject<PointerEvent>): void => {
    if (e.evt.button !== 0 || document.body.dataset.space === 'down') return;
    const p = where(e);
    // A second click on the last point closes, too. (The canvas library takes any two quick clicks for a double one.)
    const twice = e.evt.timeStamp - last.current.time < TWICE && Math.hypot(p[0] - last.current.at[0], p[1] - last.current.at[1]) < CLICK;
    last.current = { time: e.evt.timeStamp, at: p };
    if (pen && (nearFirst(p) || (twice && points.length >= 3 * POINT_SIZE))) return finish(points, true);
    press.current = { own: space.from(...p), stage: p };
    (e.evt.target as Element).setPointerCapture?.(e.evt.pointerId);
    if (pen) setPoints([...points, ...press.current.own, 0, 0, 0, 0, 0]);
    if (free) line.current = [...press.current.own];
  };
  const move = (e: Konva.KonvaEventObject<PointerEvent>): void => {
    const p = where(e);
    setAt(space.from(...p));
    const from = press.current;
    if (!from) return;
    if (free) {
      // Every place the hand was at, also those between two frames of the screen.
      const box = e.target.getStage()!.container().getBoundingClientRect();
      const all = e.evt.getCoalescedEvents?.() ?? [];
      for (const c of all.length > 0 ? all : [e.evt]) line.current.push(...space.from(c.clientX - box.left, c.clientY - box.top));
      setPoints(line.current.flatMap((v, i) => (i % 2 ? [] : [v, line.current[i + 1]!, 0, 0, 0, 0, 0])));
    } else if (pen) {
      if (Math.hypot(p[0] - from.stage[0], p[1] - from.stage[1]) < CLICK) return;
      const [x, y] = space.from(...p);
      const [dx, dy] = [x - from.own[0], y - from.own[1]];
      setPoints([...points.slice(0, -POINT_SIZE), ...from.own, -dx, -dy, dx, dy, 0]);
    } else setPoints(between(from.own, space.from(...p), e.evt.shiftKey));
  };
  const up = (e: Konva.KonvaEventObject<PointerEvent>): void => {
    const from = press.current;
    press.current = null;
    if (!from || pen) return;
    const p = where(e);
    if (Math.hypot(p[0] - from.stage[0], p[1] - from.stage[1]) < CLICK && !free) return setPoints([]);
    if (!free) return finish(between(from.own, space.from(...p), e.evt.shiftKey), true);
    // About a pixel of the screen: what the hand meant, not its tremble.
    finish(freehandPoints(line.current, Math.max(0.3, TREMBLE / place.zoom), true), true);
  };

  const open = { points, closed: !pen && !free, spline: 'bezier' } as const;
  const next = at && pen && points.length > 0 ? [...space.at(...pointAt(points, points.length / POINT_SIZE - 1)), ...space.at(...at)] : [];
  const first = points.length > 0 ? space.at(...pointAt(points, 0)) : null;
  return (
    <div className="overlay live" data-testid="draw-shape" style={{ cursor: 'crosshair' }}>
      <KonvaStage width={place.width} height={place.height} onPointerDown={down} onPointerMove={move} onPointerUp={up}>
        <Layer listening={false}>
          {points.length > POINT_SIZE && (
            <>
              <Line points={outlineOnStage(open, space)} closed={open.closed} stroke="#000" opacity={0.5} strokeWidth={3.5} />
              <Line points={outlineOnStage(open, space)} closed={open.closed} stroke={tokens.bone} strokeWidth={1.5} />
            </>
          )}
          {next.length > 0 && <Line points={next} stroke={tokens.bone} strokeWidth={1} dash={[4, 4]} />}
          {pen &&
            Array.from({ length: points.length / POINT_SIZE }, (_, i) => {
              const [x, y] = space.at(...pointAt(points, i));
              return <Circle key={i} x={x} y={y} radius={i === 0 ? 5 : 3} fill={tokens.bone} stroke={tokens.pit} />;
            })}
          {pen && first && at && nearFirst(space.at(...at)) && (
            <Circle x={first[0]} y={first[1]} radius={NEAR} stroke={tokens.clay} strokeWidth={2} />
          )}
        </Layer>
      </KonvaStage>
    </div>
  );
}
