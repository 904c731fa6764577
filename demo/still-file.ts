import type { Kernels } from '@/kernels';
import { writeExr } from '@/core/formats';

/** Planes of the film's size as a half-float OpenEXR, cut to where they hold anything. */
export function stillFile(planes: Readonly<Record<string, Float32Array>>, comment: string, kernels: Kernels): Uint8Array {
  const [w, h] = [960, 540];
  let [x0, y0, x1, y1] = [w, h, 0, 0];
  planes.A!.forEach((v, i) => {
    if (!(v > 0)) return;
    const [x, y] = [i % w, Math.floor(i / w)];
    [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x + 1), Math.max(y1, y + 1)];
  });
  const cut = (p: Float32Array): Float32Array =>
    Float32Array.from({ length: (x1 - x0) * (y1 - y0) }, (_, i) => p[(y0 + Math.floor(i / (x1 - x0))) * w + x0 + (i % (x1 - x0))]!);
  const channels = Object.entries(planes).map(([name, values]) => ({ name, type: 'half' as const, plane: kernels.copy(cut(values)) }));
  const format = { width: w, height: h, pixelAspect: 1 };
  const attributes = { comments: `Saltgate Light, ${comment}`, owner: 'the demo generator', capDate: '2026:11:28 12:00:00' };
  const bytes = writeExr({ format, bounds: { x0, y0, x1, y1 }, channels, compression: 'ZIP', attributes }, kernels);
  channels.forEach((c) => kernels.give(c.plane));
  return bytes;
}
