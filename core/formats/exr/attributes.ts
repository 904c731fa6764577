import { strFromU8 } from 'fflate';
import type { Reader } from '../reader';

/** The value of a header attribute: text, a number, or numbers in the order of the file layout. */
export type Attribute = string | number | number[] | string[];

/** Numbers of an attribute type, as [how many, how each is stored]. */
const NUMBERS: Record<string, readonly [number, 'i32' | 'f32' | 'f64' | 'u32']> = {
  int: [1, 'i32'],
  float: [1, 'f32'],
  double: [1, 'f64'],
  v2i: [2, 'i32'],
  v2f: [2, 'f32'],
  v2d: [2, 'f64'],
  v3i: [3, 'i32'],
  v3f: [3, 'f32'],
  v3d: [3, 'f64'],
  box2i: [4, 'i32'],
  box2f: [4, 'f32'],
  m33f: [9, 'f32'],
  m44f: [16, 'f32'],
  m33d: [9, 'f64'],
  m44d: [16, 'f64'],
  /** Red, green, blue and white, x and y of each. */
  chromaticities: [8, 'f32'],
  rational: [2, 'i32'],
  timecode: [2, 'u32'],
  keycode: [7, 'i32'],
};

/** Reads an attribute of a type of the standard; null for any other. `size` bytes follow. Throws MediaError where they do not. */
export function readAttribute(r: Reader, type: string, size: number): Attribute | null {
  if (type === 'string') return strFromU8(r.take(size, 'header'));
  if (type === 'stringvector') {
    const end = r.at + size;
    const all: string[] = [];
    while (r.at + 4 <= end) all.push(strFromU8(r.take(r.u32('header'), 'header')));
    return all;
  }
  const layout = NUMBERS[type];
  if (!layout || size < layout[0] * (layout[1] === 'f64' ? 8 : 4)) return null;
  const values = Array.from({ length: layout[0] }, () => r[layout[1]]('header'));
  return values.length === 1 ? values[0]! : values;
}

/** Hours, minutes, seconds and frames of a SMPTE ST 12-1 time code as OpenEXR packs it. */
export function timecodeText(packed: number): string {
  const digits = (shift: number, tens: number): string =>
    String(((packed >> (shift + 4)) & tens) * 10 + ((packed >> shift) & 15)).padStart(2, '0');
  const drop = (packed >> 6) & 1 ? ';' : ':';
  return `${digits(24, 3)}:${digits(16, 7)}:${digits(8, 7)}${drop}${digits(0, 3)}`;
}

/** The first word of OpenEXR's time code for a frame counted from 0 at midnight, without dropped frames. */
export function packTimecode(frame: number, rate: number): number {
  const total = Math.max(0, frame);
  const seconds = Math.floor(total / rate);
  const parts = [total % rate, seconds % 60, Math.floor(seconds / 60) % 60, Math.floor(seconds / 3600) % 24];
  return parts.reduce((packed, v, i) => packed | (Math.floor(v / 10) << (8 * i + 4)) | ((v % 10) << (8 * i)), 0) >>> 0;
}
