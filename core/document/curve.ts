import { monotoneSlope } from '../monotone';
import type { Key, Value } from './types';

/**
 * The value of keys (sorted by frame, at least one) at a time that may lie between frames. Held before the first and after
 * the last; numbers and number lists are interpolated, everything else is held.
 */
export function valueAt(keys: readonly Key[], time: number): Value {
  const next = keys.findIndex((k) => k.frame > time);
  if (next === 0) return keys[0]!.value;
  if (next < 0) return keys[keys.length - 1]!.value;
  const a = keys[next - 1]!;
  const b = keys[next]!;
  if (a.ease === 'hold') return a.value;
  if (typeof a.value === 'number' && typeof b.value === 'number') {
    return segment(keys, next, time, 0, (k) => k.value as number);
  }
  if (Array.isArray(a.value) && Array.isArray(b.value)) {
    return a.value.map((_, i) => segment(keys, next, time, i, (k) => (k.value as readonly number[])[i] ?? 0));
  }
  return a.value;
}

function segment(keys: readonly Key[], next: number, time: number, part: number, component: (k: Key) => number): number {
  const a = keys[next - 1]!;
  const b = keys[next]!;
  const va = component(a);
  const vb = component(b);
  const span = b.frame - a.frame;
  const t = (time - a.frame) / span;
  if (t === 0) return va;
  if (a.ease === 'linear') return va + (vb - va) * t;
  const third = span / 3;
  const [ax, ay] = handleOf(a.after, part) ?? [third, slopeAt(keys, next - 1, component) * third];
  const [bx, by] = handleOf(b.before, part) ?? [-third, -slopeAt(keys, next, component) * third];
  // Handles may not fold time back: the curve stays a function of the frame.
  const x1 = Math.min(Math.max(ax / span, 0), 1);
  const x2 = Math.min(Math.max(1 + bx / span, 0), 1);
  const s = solveBezier(x1, x2, t);
  const r = 1 - s;
  return r * r * r * va + 3 * r * r * s * (va + ay) + 3 * r * s * s * (vb + by) + s * s * s * vb;
}

/** Frames and value from a key to one of its handles; of a list, for one of its numbers. */
const handleOf = (handle: readonly number[] | undefined, part: number): [number, number] | undefined =>
  handle && [handle[0]!, handle[part + 1] ?? 0];

/** A handle as it is given, or worked out: a third of the way to the neighbour, along the curve. Null at an end. */
export function handleAt(keys: readonly Key[], i: number, side: 'before' | 'after'): number[] | null {
  const key = keys[i]!;
  const other = keys[side === 'after' ? i + 1 : i - 1];
  if (!other) return null;
  if (key[side]) return [...key[side]];
  const third = (other.frame - key.frame) / 3;
  const numbers = (k: Key): readonly number[] => (Array.isArray(k.value) ? (k.value as readonly number[]) : [Number(k.value)]);
  return [third, ...numbers(key).map((_, part) => slopeAt(keys, i, (k) => numbers(k)[part] ?? 0) * third)];
}

/** Slope of a smooth key without handles: monotone, flat at the ends and at extremes. */
function slopeAt(keys: readonly Key[], i: number, component: (k: Key) => number): number {
  const p = keys[i - 1];
  const k = keys[i]!;
  const n = keys[i + 1];
  if (!p || !n) return 0;
  const h0 = k.frame - p.frame;
  const h1 = n.frame - k.frame;
  const d0 = (component(k) - component(p)) / h0;
  const d1 = (component(n) - component(k)) / h1;
  return monotoneSlope(d0, d1, h0, h1);
}

/** The parameter at which a Bézier from 0 to 1 with handles x1, x2 in 0..1 reaches x. */
function solveBezier(x1: number, x2: number, x: number): number {
  let low = 0;
  let high = 1;
  for (let i = 0; i < 40; i++) {
    const s = (low + high) / 2;
    const r = 1 - s;
    if (3 * r * r * s * x1 + 3 * r * s * s * x2 + s * s * s < x) low = s;
    else high = s;
  }
  return (low + high) / 2;
}
