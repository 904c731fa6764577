import type { Kernels, Plane } from '@/kernels';

/** Pixels around a picture over which its edges are repeated; see kernels/assembly/flow.ts. */
const MARGIN = 16;

/** A picture in a sheet with a margin all round. */
export interface Sheet {
  readonly plane: Plane;
  /** Of its first pixel. */
  readonly at: number;
}

/** Sheets of one size, given back together. */
export class Sheets {
  readonly stride: number;
  /** Floats of a sheet. */
  readonly floats: number;
  private readonly planes: Plane[] = [];
  private readonly first: number;

  constructor(
    private readonly kernels: Kernels,
    readonly w: number,
    readonly h: number,
  ) {
    this.stride = (w + 2 * MARGIN + 3) & ~3;
    this.floats = this.stride * (h + 2 * MARGIN);
    this.first = MARGIN * this.stride + MARGIN;
  }

  /** So many sheets in a row, of zeros. */
  take(count = 1): Sheet {
    const plane = this.kernels.zeros(count * this.floats + 16);
    this.planes.push(plane);
    return { plane, at: plane.byteOffset + 4 * this.first };
  }

  /** The byte offset of the first pixel of one of the sheets in a row. */
  nth(sheet: Sheet, k: number): number {
    return sheet.at + 4 * k * this.floats;
  }

  /** The index in the sheet's plane at which a row's pixels start. */
  row(y: number): number {
    return this.first + y * this.stride;
  }

  /** A sheet with a picture, its edges repeated. */
  of(data: Float32Array): Sheet {
    const sheet = this.take();
    for (let y = 0; y < this.h; y++) sheet.plane.set(data.subarray(y * this.w, (y + 1) * this.w), this.row(y));
    this.repeatEdges(sheet);
    return sheet;
  }

  copy(from: Sheet): Sheet {
    const sheet = this.take();
    sheet.plane.set(from.plane.subarray(0, this.floats));
    return sheet;
  }

  repeatEdges({ plane }: Sheet): void {
    const { w, h, stride } = this;
    for (let y = 0; y < h; y++) {
      const row = this.row(y);
      plane.fill(plane[row]!, row - MARGIN, row);
      plane.fill(plane[row + w - 1]!, row + w, row - MARGIN + stride);
    }
    const [top, end] = [this.row(0) - MARGIN, this.row(h - 1) - MARGIN];
    for (let k = 1; k <= MARGIN; k++) {
      plane.copyWithin(top - k * stride, top, top + stride);
      plane.copyWithin(end + k * stride, end, end + stride);
    }
  }

  /** The picture of a sheet, tight. */
  read(from: Sheet, to: Float32Array): void {
    for (let y = 0; y < this.h; y++) to.set(from.plane.subarray(this.row(y), this.row(y) + this.w), y * this.w);
  }

  close(): void {
    this.planes.forEach((p) => this.kernels.give(p));
    this.planes.length = 0;
  }
}
