import type { Kernels, Plane } from '@/kernels';

export interface Statistics {
  /** Of the finite values; infinite where there is none. */
  min: number;
  max: number;
  mean: number;
  finite: number;
  nan: number;
  infinite: number;
}

/** Counts and extremes of a plane. */
export function statisticsOf(kernels: Kernels, plane: Plane): Statistics {
  const bytes = kernels.bytes(48);
  kernels.fn.statistics(plane.byteOffset, plane.length, bytes.byteOffset);
  const [min, max, sum, , finite, nan] = new Float64Array(bytes.slice(0, 48).buffer) as unknown as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  kernels.give(bytes);
  return { min, max, mean: sum / Math.max(1, finite), finite, nan, infinite: plane.length - finite - nan };
}
