import type { Kernels, Plane } from '@/kernels';
import { positionPlanes } from '../filters/position-planes';
import type { ResampleFilter } from '../filters/resample';
import { tapsOf } from '../filters/resample';
import { Packed, mapRegion, sampleThrough } from '../filters/sample';
import type { Mapping } from '../geometry/mapping';
import type { Rect } from '../geometry/rect';
import { area, height, rect, width } from '../geometry/rect';
import type { Format, Picture } from '../picture';
import { formatRect } from '../picture';
import type { Lens } from './lens';
import { lensFor } from './lens';
import type { LensStepValues } from './of-step';
import { straightened } from './of-step';

/** Where a picture goes by a lens: its mapping, the frame that is made, and the pixels that it then has. */
export interface LensJob {
  mapping: Mapping;
  format: Format;
  bounds: Rect;
}

/** Straightening pictures of a format, or bending back what was straightened so. */
export function lensJob(
  lens: Lens,
  filmed: Format,
  direction: LensStepValues['direction'],
  size: LensStepValues['size'] = 'same',
): LensJob {
  const made = straightened(lensFor(lens, filmed), filmed, size);
  if (direction === 'bend') return { mapping: made.mapping.inverse, format: filmed, bounds: formatRect(filmed) };
  const [left, top, right, bottom] = made.beyond;
  const { width: w, height: h } = made.format;
  const bounds = size === 'same' ? rect(-left, -top, w + right, h + bottom) : formatRect(made.format);
  return { mapping: made.mapping, format: made.format, bounds };
}

/** A whole picture through a lens; its planes are to be given back. */
export function throughLens(kernels: Kernels, from: Picture, { mapping, format, bounds }: LensJob, filter: ResampleFilter): Picture {
  const names = Object.keys(from.planes);
  const packed = Packed.of(
    kernels,
    names.map((c) => from.planes[c]!),
    from.bounds,
  );
  const at = positionPlanes(kernels, mapping, mapRegion(bounds));
  const planes = Object.fromEntries(names.map((c) => [c, kernels.take(area(bounds))]));
  try {
    sampleThrough(kernels, packed, Object.values(planes), bounds, at, tapsOf(filter), { most: 4 });
  } finally {
    packed.give();
    [at.xs, at.ys].forEach((p) => kernels.give(p));
  }
  return { format, bounds, channels: from.channels, planes };
}

/**
 * An ST map of a lens job: for each pixel of what is made, where it is looked up, R along x and G along y as shares of the frame that is
 * looked at, whose pixel centres lie at (i + ½)/n; y counts upward where asked. A is 0, and the others too, where there is nothing. Planes over the job's bounds.
 */
export function stMapOf(kernels: Kernels, { mapping, bounds }: LensJob, source: Format, up: boolean): Record<'R' | 'G' | 'B' | 'A', Plane> {
  const { xs, ys } = positionPlanes(kernels, mapping, bounds);
  const n = width(bounds) * height(bounds);
  const [b, a] = [kernels.zeros(n), kernels.take(n)];
  for (let i = 0; i < n; i++) {
    const there = Number.isFinite(xs[i]!) && Number.isFinite(ys[i]!);
    const v = ys[i]! / source.height;
    xs[i] = there ? xs[i]! / source.width : 0;
    ys[i] = there ? (up ? 1 - v : v) : 0;
    a[i] = there ? 1 : 0;
  }
  return { R: xs, G: ys, B: b, A: a };
}
