'use client';
import IconButton from '@mui/material/IconButton';
import { useRef, useState } from 'react';
import type { Curve } from '@/core/curves';
import { CURVE_CHANNELS, LEAST_APART, MOST_POINTS, STRAIGHT, curveThrough, isStraight } from '@/core/curves';
import { RestartAltIcon } from '@/ui/theme/icons';
import { follow } from '../workbench/follow';
import { view } from '../workbench/state';
import { NumberField, newGesture } from './NumberField';

interface Props {
  value: readonly Curve[];
  title: string;
  set(value: readonly Curve[], gesture?: string): void;
}

const LABELS: Record<Curve['channel'], string> = { all: 'All', R: 'Red', G: 'Green', B: 'Blue' };
const COLOURS: Record<Curve['channel'], string> = { all: 'var(--bone)', R: '#ec8a72', G: '#8cc492', B: '#88a8e4' };

/** The panel's side, and how near the pointer takes a point, in CSS pixels. */
const SIDE = 224;
const NEAR = 9;
const sx = (x: number): number => x * SIDE;
const sy = (y: number): number => SIDE - y * SIDE;

const pathOf = (points: readonly number[]): string => {
  const f = curveThrough(points);
  return `M${Array.from({ length: SIDE / 2 + 1 }, (_, i) => `${2 * i} ${sy(f((2 * i) / SIDE)).toFixed(1)}`).join('L')}`;
};

/** A point's place in another list of points, its x kept apart from its neighbours'. */
function movedTo(points: readonly number[], at: number, x: number, y: number): number[] {
  const before = at > 0 ? points[2 * at - 2]! + LEAST_APART : -Infinity;
  const after = at < points.length / 2 - 1 ? points[2 * at + 2]! - LEAST_APART : Infinity;
  return points.map((v, i) => (i === 2 * at ? Math.min(after, Math.max(before, x)) : i === 2 * at + 1 ? y : v));
}

/** Curves of all channels and of each: a click on the panel adds a point, a drag moves one, Delete or a double click takes it away. */
export function CurvesField({ value, title, set }: Props) {
  const [channel, setChannel] = useState<Curve['channel']>('all');
  const [chosen, setChosen] = useState<number | null>(null);
  const panel = useRef<SVGSVGElement>(null);
  const pointsOf = (c: Curve['channel']): readonly number[] => value.find((o) => o.channel === c)?.points ?? STRAIGHT;
  const points = pointsOf(channel);
  const count = points.length / 2;
  const at = chosen !== null && chosen < count ? chosen : null;
  const put = (next: readonly number[], gesture?: string): void => {
    const others = value.filter((c) => c.channel !== channel);
    // A straight line of two points says nothing.
    const straight = next.length === 4 && isStraight(next);
    set(straight ? others : [...others, { channel, points: next }], gesture);
  };
  const remove = (i: number): void => {
    if (count <= 2 || i === 0 || i === count - 1) return;
    put(points.filter((_, k) => k !== 2 * i && k !== 2 * i + 1));
    setChosen(null);
  };
  const place = (e: { clientX: number; clientY: number }): [number, number] => {
    const box = panel.current!.getBoundingClientRect();
    const [u, v] = [(e.clientX - box.left) / box.width, 1 - (e.clientY - box.top) / box.height];
    return [u, v];
  };
  const press = (e: React.PointerEvent): void => {
    if (e.button !== 0) return;
    const [x, y] = place(e);
    const near = Array.from({ length: count }, (_, i) => i).filter(
      (i) => Math.hypot(sx(points[2 * i]! - x), sy(points[2 * i + 1]!) - sy(y)) < NEAR,
    );
    let list = points;
    let i = near[0] ?? -1;
    const gesture = newGesture();
    if (i < 0) {
      if (count >= MOST_POINTS) return;
      i = Array.from({ length: count }, (_, k) => points[2 * k]!).filter((v) => v < x).length;
      const [left, right] = [points[2 * i - 2], points[2 * i]];
      if ((left !== undefined && x - left < LEAST_APART) || (right !== undefined && right - x < LEAST_APART)) return;
      list = [...points.slice(0, 2 * i), x, y, ...points.slice(2 * i)];
      put(list, gesture);
    }
    setChosen(i);
    const [x0, y0] = [list[2 * i]!, list[2 * i + 1]!];
    const side = panel.current!.getBoundingClientRect().width;
    view.set({ dragging: true });
    follow(
      e,
      (dx, dy) => put(movedTo(list, i, x0 + dx / side, y0 - dy / side), gesture),
      () => view.set({ dragging: false }),
    );
  };
  return (
    <div className="curves-field">
      <div className="inline">
        {CURVE_CHANNELS.map((c) => (
          <button
            key={c}
            className={`pill${c === channel ? ' on' : ''}`}
            aria-pressed={c === channel}
            onClick={() => {
              setChannel(c);
              setChosen(null);
            }}
          >
            {LABELS[c]}
            {!isStraight(pointsOf(c)) && <i className="bent" style={{ background: COLOURS[c] }} />}
          </button>
        ))}
        <span className="grow" />
        <IconButton aria-label={`Straighten ${LABELS[channel].toLowerCase()}`} title="Reset this curve" onClick={() => put(STRAIGHT)}>
          <RestartAltIcon sx={{ fontSize: 14 }} />
        </IconButton>
      </div>
      <svg
        ref={panel}
        width={SIDE}
        height={SIDE}
        viewBox={`0 0 ${SIDE} ${SIDE}`}
        role="group"
        aria-label={`${title}: ${LABELS[channel].toLowerCase()}`}
        onPointerDown={press}
      >
        {[1, 2, 3].map((q) => (
          <path key={q} d={`M${(SIDE * q) / 4} 0V${SIDE}M0 ${(SIDE * q) / 4}H${SIDE}`} stroke="var(--line)" />
        ))}
        <path d={`M0 ${SIDE}L${SIDE} 0`} stroke="var(--ash)" strokeDasharray="2 4" />
        {CURVE_CHANNELS.filter((c) => c !== channel && !isStraight(pointsOf(c))).map((c) => (
          <path key={c} d={pathOf(pointsOf(c))} fill="none" stroke={COLOURS[c]} opacity={0.4} />
        ))}
        <path d={pathOf(points)} fill="none" stroke={COLOURS[channel]} strokeWidth={1.6} />
        {Array.from({ length: count }, (_, i) => (
          <circle
            key={i}
            cx={sx(points[2 * i]!)}
            cy={sy(points[2 * i + 1]!)}
            r={4.5}
            tabIndex={0}
            role="button"
            aria-label={`Point ${i + 1} of ${LABELS[channel].toLowerCase()}`}
            aria-pressed={i === at}
            fill={i === at ? 'var(--bone)' : 'var(--pit)'}
            stroke={COLOURS[channel]}
            onFocus={() => setChosen(i)}
            onDoubleClick={() => remove(i)}
            onKeyDown={(e) => {
              if (e.key !== 'Delete' && e.key !== 'Backspace') return;
              e.preventDefault();
              e.stopPropagation();
              remove(i);
            }}
          />
        ))}
      </svg>
      {at === null ? (
        <small className="dust">Click the panel for a point; a double click on one takes it away.</small>
      ) : (
        <div className="inline">
          {(['in', 'out'] as const).map((word, k) => (
            <span key={word} className="inline">
              <span className="dust">{word}</span>
              <NumberField
                label={`Point ${word}`}
                value={points[2 * at + k]!}
                decimals={3}
                step={0.005}
                onChange={(v, gesture) =>
                  put(k === 0 ? movedTo(points, at, v, points[2 * at + 1]!) : movedTo(points, at, points[2 * at]!, v), gesture)
                }
              />
            </span>
          ))}
        </div>
      )}
    </div>
  );
}
