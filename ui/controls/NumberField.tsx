'use client';
import Tooltip from '@mui/material/Tooltip';
import { useEffect, useRef, useState } from 'react';
import * as yup from 'yup';
import { readNumber } from '@/core/arithmetic';
import { view } from '../workbench/state';

interface Props {
  label: string;
  value: number;
  min?: number | undefined;
  max?: number | undefined;
  whole?: boolean | undefined;
  decimals?: number | undefined;
  /** Leaves the 0 before the point away, where room is scarce. */
  bare?: boolean | undefined;
  /** What one pixel of dragging or one arrow key changes. */
  step: number;
  disabled?: boolean | undefined;
  /** Called while dragging with the same gesture, so that a drag is undone as one. */
  onChange(value: number, gesture: string): void;
  onProblem?(problem: string | null): void;
}

let gestures = 0;
export const newGesture = (): string => `control ${++gestures}`;

/** Keeps a gesture from the press to the release, and tells the stage that it may be coarser meanwhile. */
export function useGesture() {
  const gesture = useRef('');
  return {
    begin: (): void => {
      // A slider may have told of a change before it tells of the press.
      gesture.current ||= newGesture();
      view.set({ dragging: true });
    },
    id: (): string => (gesture.current ||= newGesture()),
    end: (): void => {
      gesture.current = '';
      view.set({ dragging: false });
    },
  };
}

const short = (v: number, decimals: number): string => {
  if (!Number.isFinite(v)) return String(v);
  return Math.abs(v) >= 1000 ? v.toFixed(Math.min(decimals, 1)) : v.toFixed(decimals);
};

/** A number to type, to drag sideways, and to step by the arrow keys (Shift ×10, Alt ×0.1). */
export function NumberField({
  label,
  value,
  min = -Infinity,
  max = Infinity,
  whole,
  decimals = 2,
  bare,
  step,
  disabled,
  onChange,
  onProblem,
}: Props) {
  const [text, setText] = useState<string | null>(null);
  const [bad, setBad] = useState<string | null>(null);
  const drag = useRef<{ x: number; value: number; moved: boolean } | null>(null);
  const gesture = useGesture();
  const dropped = useRef(false);
  const input = useRef<HTMLInputElement>(null);
  const problem = (p: string | null): void => {
    setBad(p);
    onProblem?.(p);
  };
  useEffect(() => setText(null), [value]);

  const fit = (v: number): number => {
    const inside = Math.min(max, Math.max(min, v));
    return whole ? Math.round(inside) : Number(inside.toPrecision(7));
  };
  /** The number that was typed, or null where it is refused; the reason is shown. */
  const read = (typed: string): number | null => {
    const number = readNumber(typed, value);
    if (number === null) {
      problem(`${label} takes a number or a sum: 12, 2*3, +=1, /2`);
      return null;
    }
    let schema = yup
      .number()
      .required()
      .typeError(`${label} takes a number`)
      .test('finite', `${label} takes a number that is not so large`, Number.isFinite);
    if (Number.isFinite(min)) schema = schema.min(min, `${label} is at least ${min}`);
    if (Number.isFinite(max)) schema = schema.max(max, `${label} is at most ${max}`);
    if (whole) schema = schema.integer(`${label} takes a whole number`);
    try {
      const v = schema.validateSync(Number(number.toPrecision(12))) as number;
      problem(null);
      return v;
    } catch (e) {
      problem((e as yup.ValidationError).message);
      return null;
    }
  };
  /** What was typed is kept while the field stays in hand. */
  const enter = (typed: string): void => {
    const v = text === null ? value : read(typed);
    if (v === null) return;
    setText(null);
    if (v !== value) onChange(v, newGesture());
    // Selecting gives a field the focus: one that was left meanwhile is not to take it, and the next keys with it.
    requestAnimationFrame(() => document.activeElement === input.current && input.current?.select());
  };
  const leave = (typed: string): void => {
    gesture.end();
    const v = text === null || dropped.current ? null : read(typed);
    dropped.current = false;
    setText(null);
    problem(null);
    if (v !== null && v !== value) onChange(v, newGesture());
  };

  const field = (
    <input
      ref={input}
      className={`num${bad !== null ? ' bad' : ''}`}
      aria-label={label}
      aria-invalid={bad !== null}
      disabled={disabled}
      inputMode="decimal"
      value={text ?? (bare ? short(value, decimals).replace(/^(-?)0\./, '$1.') : short(value, whole ? 0 : decimals))}
      onChange={(e) => setText(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={(e) => leave(e.target.value)}
      onKeyDown={(e) => {
        const factor = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
        if (e.key === 'Enter') {
          // What is refused stays to be mended.
          enter(e.currentTarget.value);
        } else if (e.key === 'Escape') {
          dropped.current = true;
          input.current?.blur();
        } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
          e.preventDefault();
          onChange(fit(value + (e.key === 'ArrowUp' ? 1 : -1) * (whole ? Math.max(1, factor) : step * factor)), gesture.id());
        }
      }}
      onPointerDown={(e) => {
        if (e.button !== 0 || document.activeElement === input.current) return;
        e.preventDefault();
        e.currentTarget.setPointerCapture(e.pointerId);
        drag.current = { x: e.clientX, value, moved: false };
      }}
      onPointerMove={(e) => {
        const d = drag.current;
        if (!d) return;
        const dx = e.clientX - d.x;
        if (!d.moved && Math.abs(dx) < 3) return;
        if (!d.moved) {
          d.moved = true;
          gesture.begin();
        }
        const factor = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
        onChange(fit(d.value + dx * step * factor), gesture.id());
      }}
      onPointerUp={() => {
        const d = drag.current;
        drag.current = null;
        if (d?.moved) gesture.end();
        else if (d) input.current?.focus();
      }}
    />
  );
  // Where nothing beside the field says what is wrong, it does so itself.
  return onProblem ? (
    field
  ) : (
    <Tooltip open={bad !== null} title={bad ?? ''} placement="top" slotProps={{ tooltip: { role: 'alert' } }}>
      {field}
    </Tooltip>
  );
}
