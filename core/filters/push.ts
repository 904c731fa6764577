import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { area, isEmpty, width } from '../geometry/rect';
import type { ResampleFilter } from './resample';
import { tapsOf } from './resample';
import { Packed, mapRegion, sampleThrough } from './sample';

export type EdgeRule = 'hold' | 'mirror' | 'wrap' | 'empty';

export const EDGES: readonly { value: EdgeRule; title: string }[] = [
  { value: 'hold', title: 'The edge goes on' },
  { value: 'mirror', title: 'Mirrored' },
  { value: 'wrap', title: 'From the other side' },
  { value: 'empty', title: 'Nothing' },
];

/** A position brought back into low..high. */
export function within(v: number, low: number, high: number, rule: EdgeRule): number {
  const size = high - low;
  if (rule === 'empty' || size <= 0) return v;
  if (rule === 'hold') return Math.max(low + 0.5, Math.min(high - 0.5, v));
  const t = v - low;
  if (rule === 'wrap') return low + (((t % size) + size) % size);
  const m = ((t % (2 * size)) + 2 * size) % (2 * size);
  return low + (m < size ? m : 2 * size - m);
}

/**
 * A picture whose every pixel is looked for elsewhere: by `dx`, `dy` pixels from its own place, planes over `mapRegion(want)`, which are changed.
 * Planes hold `have`; what lies beyond the domain is taken by the rule.
 */
export function pushPixels(
  kernels: Kernels,
  planes: readonly Plane[],
  have: Rect,
  outs: readonly Plane[],
  want: Rect,
  [dx, dy]: readonly [Plane, Plane],
  { filter, edge, domain, poll }: { filter: ResampleFilter; edge: EdgeRule; domain: Rect; poll(): void },
): void {
  if (isEmpty(want)) return;
  if (isEmpty(have)) return outs.forEach((o) => void o.fill(0));
  const all = mapRegion(want);
  const w = width(all);
  for (let i = 0; i < area(all); i++) {
    dx[i] = within(all.x0 + (i % w) + 0.5 + dx[i]!, domain.x0, domain.x1, edge);
    dy[i] = within(all.y0 + Math.floor(i / w) + 0.5 + dy[i]!, domain.y0, domain.y1, edge);
  }
  const packed = Packed.of(kernels, planes, have);
  try {
    sampleThrough(kernels, packed, outs, want, { xs: dx, ys: dy }, tapsOf(filter), { most: 4, poll });
  } finally {
    packed.give();
  }
}

type Size = { readonly width: number; readonly height: number };

/** Planes of a picture of one size stretched over a frame of another: what lies over a region of that, into as many planes. Nothing beyond its edges unless held. */
export function stretchOver(
  kernels: Kernels,
  planes: readonly Plane[],
  have: Rect,
  from: Size,
  outs: readonly Plane[],
  want: Rect,
  to: Size,
  { edge, poll }: { edge: 'hold' | 'empty'; poll(): void },
): void {
  if (isEmpty(have)) return outs.forEach((o) => void o.fill(0));
  const all = mapRegion(want);
  const w = width(all);
  const [dx, dy] = [kernels.take(area(all)), kernels.take(area(all))];
  try {
    for (let i = 0; i < area(all); i++) {
      dx[i] = (from.width / to.width - 1) * (all.x0 + (i % w) + 0.5);
      dy[i] = (from.height / to.height - 1) * (all.y0 + Math.floor(i / w) + 0.5);
    }
    pushPixels(kernels, planes, have, outs, want, [dx, dy], { filter: 'bilinear', edge, domain: have, poll });
  } finally {
    [dx, dy].forEach((p) => kernels.give(p));
  }
}
