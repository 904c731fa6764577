import type { Kernels, Plane } from '@/kernels';
import type { Gray, GrayFrame } from './gray';

/** Sides under which a picture is not halved further. */
const LEAST_SIDE = 48;

/** A calmed frame and its halves, finest first, in the kernels' memory until it is closed. */
export class Pyramid {
  readonly levels: readonly Gray[];
  private readonly planes: Plane[] = [];

  constructor(
    private readonly kernels: Kernels,
    frame: GrayFrame,
    most: number,
  ) {
    const { width, height } = frame;
    const given = kernels.copy(frame.read(0, 0, width, height).data);
    const scratch = kernels.take(width + 16);
    const take = (w: number, h: number): Gray => {
      // The kernels read a little beyond the last row.
      const plane = kernels.take(w * h + 16);
      this.planes.push(plane);
      return { width: w, height: h, data: plane.subarray(0, w * h) };
    };
    let at = take(width, height);
    kernels.fn.calm(given.byteOffset, at.data.byteOffset, width, height, scratch.byteOffset);
    [given, scratch].forEach((p) => kernels.give(p));
    const levels = [at];
    while (levels.length < most && Math.min(at.width, at.height) > LEAST_SIDE) {
      const half = take(at.width >> 1, at.height >> 1);
      kernels.fn.boxReduce(at.data.byteOffset, half.data.byteOffset, half.width, half.height, at.width, 2);
      levels.push((at = half));
    }
    this.levels = levels;
  }

  close(): void {
    this.planes.forEach((p) => this.kernels.give(p));
    this.planes.length = 0;
  }
}
