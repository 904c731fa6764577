import type { Posed, ShapesValue } from './pose';
import { farthest } from './coverage';

/** Shapes at the times of a shutter, no more of them than the fastest point needs: about one a pixel that it goes. */
export function looksOf(value: ShapesValue, samples: readonly ShapesValue[]): readonly (readonly Posed[])[] {
  if (samples.length < 2) return [value.list];
  const [first, last] = [samples[0]!.list, samples[samples.length - 1]!.list];
  const middle = samples[samples.length >> 1]!.list;
  const way = farthest(first, middle) + farthest(middle, last);
  if (way === 0) return [value.list];
  const n = Math.min(samples.length, Math.max(2, Math.ceil(way) + 1));
  return Array.from({ length: n }, (_, i) => samples[Math.floor(((i + 0.5) * samples.length) / n)]!.list);
}
