import { valueAt } from './curve';
import type { Key, Value } from './types';

/** Numbers of a value: a number is one, a list its parts; anything else has none. */
export const partsOf = (v: Value): readonly number[] => (typeof v === 'number' ? [v] : Array.isArray(v) ? (v as readonly number[]) : []);

/** The value with one of its numbers changed. */
export function withPart(v: Value, part: number, to: number): Value {
  return Array.isArray(v) ? (v as readonly number[]).map((x, i) => (i === part ? to : x)) : to;
}

/**
 * Keys moved in time, whole frames, or stretched from the first of them, and the numbered part of their values lifted and scaled
 * about a pivot. A key that lands on another takes its place.
 */
export function moveKeys(
  keys: readonly Key[],
  chosen: ReadonlySet<number>,
  change: { frames?: number; stretch?: number; part?: number; lift?: number; scale?: number; pivot?: number },
): Key[] {
  const { frames = 0, stretch = 1, part = 0, lift = 0, scale = 1, pivot = 0 } = change;
  const first = keys.find((k) => chosen.has(k.frame))?.frame ?? 0;
  const moved = keys
    .filter((k) => chosen.has(k.frame))
    .map((k): Key => {
      const was = partsOf(k.value)[part];
      const value = was === undefined ? k.value : withPart(k.value, part, pivot + (was - pivot) * scale + lift);
      return { ...k, frame: Math.round(first + (k.frame - first) * stretch) + frames, value };
    });
  const taken = new Set(moved.map((k) => k.frame));
  // Squeezed together, keys may meet: the later one stays.
  const apart = [...new Map(moved.map((k) => [k.frame, k])).values()];
  return [...keys.filter((k) => !chosen.has(k.frame) && !taken.has(k.frame)), ...apart].sort((a, b) => a.frame - b.frame);
}

/** Frames of the keys whose places others would take that are moved by so many frames. */
export function replacedBy(keys: readonly Key[], chosen: ReadonlySet<number>, frames: number): number[] {
  return keys.filter((k) => !chosen.has(k.frame) && chosen.has(k.frame - frames)).map((k) => k.frame);
}

/** How keys leave and reach their values. `flat` is smooth with handles of no slope, a third of the way to the neighbours. */
export function easeKeys(keys: readonly Key[], chosen: ReadonlySet<number>, ease: Key['ease'] | 'flat'): Key[] {
  return keys.map((k, i) => {
    if (!chosen.has(k.frame)) return k;
    const { frame, value } = k;
    if (ease !== 'flat') return { frame, value, ease };
    const [before, after] = [frame - (keys[i - 1]?.frame ?? frame - 3), (keys[i + 1]?.frame ?? frame + 3) - frame];
    const level = partsOf(value).map(() => 0);
    return { frame, value, ease: 'smooth', before: [-before / 3, ...level], after: [after / 3, ...level] };
  });
}

/** Each chosen key's value drawn towards its neighbours', 1-2-1; the first and the last stay. */
export function smoothKeys(keys: readonly Key[], chosen: ReadonlySet<number>): Key[] {
  return keys.map((k, i) => {
    const [p, n] = [keys[i - 1], keys[i + 1]];
    if (!chosen.has(k.frame) || !p || !n) return k;
    const mix = (x: Key): readonly number[] => partsOf(x.value);
    if (mix(k).length === 0) return k;
    const parts = mix(k).map((v, c) => (mix(p)[c]! + 2 * v + mix(n)[c]!) / 4);
    return { ...k, value: typeof k.value === 'number' ? parts[0]! : parts };
  });
}

/**
 * The fewest of the chosen keys that keep the curve within `tolerance` of what it was at every whole frame: keys are taken away one
 * after the other, the one that matters least first, as long as that holds.
 */
export function thinKeys(keys: readonly Key[], chosen: ReadonlySet<number>, tolerance: number): Key[] {
  const [first, last] = [keys[0]?.frame ?? 0, keys[keys.length - 1]?.frame ?? 0];
  const was = Array.from({ length: last - first + 1 }, (_, i) => partsOf(valueAt(keys, first + i)));
  const error = (list: readonly Key[], from: number, to: number): number => {
    let worst = 0;
    for (let f = from; f <= to; f++)
      partsOf(valueAt(list, f)).forEach((v, c) => (worst = Math.max(worst, Math.abs(v - was[f - first]![c]!))));
    return worst;
  };
  let kept = [...keys];
  for (;;) {
    let best: { without: Key[]; error: number } | null = null;
    for (let i = 1; i < kept.length - 1; i++) {
      if (!chosen.has(kept[i]!.frame)) continue;
      const without = kept.filter((_, k) => k !== i);
      // A smooth curve's slope reaches one key further on both sides.
      const e = error(without, without[Math.max(0, i - 2)]!.frame, without[Math.min(without.length - 1, i + 1)]!.frame);
      if (e <= tolerance && (!best || e < best.error)) best = { without, error: e };
    }
    if (!best) return kept;
    kept = best.without;
  }
}

/** Frames of keys that follow a key of the frame before with the very same value: in measured data that is a frame that failed. */
export function repeatedKeys(keys: readonly Key[]): number[] {
  return keys
    .filter((k, i) => {
      const p = keys[i - 1];
      return p && p.frame === k.frame - 1 && partsOf(k.value).length > 0 && partsOf(k.value).every((v, c) => v === partsOf(p.value)[c]);
    })
    .map((k) => k.frame);
}
