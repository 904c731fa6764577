import { strFromU8 } from 'fflate';
import { MediaError } from '../errors';

/** Little-endian reading that never runs past the end: it throws MediaError naming the file and what was being read. */
export class Reader {
  at = 0;
  private readonly view: DataView;

  constructor(
    readonly bytes: Uint8Array,
    readonly file: string,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  need(n: number, what: string): number {
    const at = this.at;
    if (n < 0 || at + n > this.bytes.length) {
      throw new MediaError(this.file, `the file is cut short: it ends in the middle of its ${what}`);
    }
    this.at += n;
    return at;
  }
  u8(what: string): number {
    return this.bytes[this.need(1, what)]!;
  }
  i32(what: string): number {
    return this.view.getInt32(this.need(4, what), true);
  }
  u32(what: string): number {
    return this.view.getUint32(this.need(4, what), true);
  }
  f32(what: string): number {
    return this.view.getFloat32(this.need(4, what), true);
  }
  f64(what: string): number {
    return this.view.getFloat64(this.need(8, what), true);
  }
  u64(what: string): number {
    const low = this.u32(what);
    return low + this.u32(what) * 2 ** 32;
  }
  take(n: number, what: string): Uint8Array {
    const at = this.need(n, what);
    return this.bytes.subarray(at, at + n);
  }
  /** A zero-terminated string of at most 255 bytes in UTF-8; where it is none, each byte is a letter (ISO 8859-1). */
  text(what: string): string {
    const from = this.at;
    while (this.u8(what) !== 0) {
      if (this.at - from > 255) throw new MediaError(this.file, `a name in its ${what} is longer than 255 bytes`);
    }
    const bytes = this.bytes.slice(from, this.at - 1);
    const text = strFromU8(bytes);
    return text.includes('\uFFFD') ? strFromU8(bytes, true) : text;
  }
}
