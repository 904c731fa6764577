import type { Kernels, Plane } from '@/kernels';
import { MediaError } from '../../errors';
import { rect } from '../../geometry/rect';
import type { Picture } from '../../picture';
import { Reader } from '../reader';
import { inflate, unRle, unpredict } from './compression';
import type { ExrHeader } from './header';
import { LINES, bytesOf, readExrHeader } from './header';

/** The header alone. Throws MediaError. */
export const inspectExr = (bytes: Uint8Array, file: string): ExrHeader => readExrHeader(new Reader(bytes, file));

/**
 * Reads the named channels (all without a list) of a scan-line OpenEXR file, compressed NONE, RLE, ZIPS or ZIP, as float32
 * planes. The display window's corner becomes the origin, the data window the bounds. Throws MediaError.
 */
export function readExr(bytes: Uint8Array, file: string, kernels: Kernels, wanted?: readonly string[]): Picture {
  const r = new Reader(bytes, file);
  const header = readExrHeader(r);
  const { dataWindow: dw, displayWindow: win, compression } = header;
  const lines = LINES[compression];
  if (!lines) throw new MediaError(file, `its compression ${compression} cannot be read yet`);
  const w = dw.x1 - dw.x0;
  const h = dw.y1 - dw.y0;
  const blocks = Math.ceil(h / lines);
  const offsets = Array.from({ length: blocks }, () => r.u64('line offsets'));
  const lineBytes = header.channels.reduce((sum, c) => sum + w * bytesOf(c.type), 0);
  const planes: Record<string, Plane> = {};
  const chosen = header.channels.filter((c) => !wanted || wanted.includes(c.name));
  let raw: Uint8Array | null = null;
  try {
    for (const c of chosen) planes[c.name] = kernels.take(w * h);
    raw = kernels.bytes(lineBytes * lines + 16);
    for (const offset of offsets) {
      r.at = offset;
      const y = r.i32('pixel data') - dw.y0;
      const data = r.take(r.u32('pixel data'), 'pixel data');
      if (y < 0 || y >= h || y % lines) throw new MediaError(file, `a block of it claims line ${y + dw.y0}, which does not exist`);
      const rows = Math.min(lines, h - y);
      raw.set(expand(data, lineBytes * rows, header, file));
      for (let row = 0; row < rows; row++) unpackLine(kernels, header, raw, row * lineBytes, planes, (y + row) * w, w);
    }
  } catch (e) {
    Object.values(planes).forEach((p) => kernels.give(p));
    throw e;
  } finally {
    if (raw) kernels.give(raw);
  }
  return {
    format: { width: win.x1 - win.x0, height: win.y1 - win.y0, pixelAspect: header.pixelAspect },
    bounds: rect(dw.x0 - win.x0, dw.y0 - win.y0, dw.x1 - win.x0, dw.y1 - win.y0),
    channels: chosen.map((c) => c.name),
    planes,
  };
}

function expand(data: Uint8Array, size: number, header: ExrHeader, file: string): Uint8Array {
  // A block that does not get smaller is stored as it is.
  if (data.length === size) return data;
  try {
    const { compression } = header;
    if (compression === 'NONE') throw new Error('wrong size');
    const plain = compression === 'RLE' ? unRle(data, size) : inflate(data, size);
    if (plain.length !== size) throw new Error('wrong size');
    return unpredict(plain);
  } catch {
    throw new MediaError(file, 'its pixel data is damaged: a block does not unpack');
  }
}

function unpackLine(
  kernels: Kernels,
  header: ExrHeader,
  raw: Uint8Array,
  at: number,
  planes: Record<string, Plane>,
  to: number,
  w: number,
): void {
  let from = at;
  for (const c of header.channels) {
    const plane = planes[c.name];
    if (plane) {
      const pointer = raw.byteOffset + from;
      if (c.type === 'half') kernels.fn.halfToFloat(pointer, plane.byteOffset + 4 * to, w);
      else {
        const bytes = raw.slice(from, from + 4 * w);
        plane.set(c.type === 'float' ? new Float32Array(bytes.buffer) : new Uint32Array(bytes.buffer), to);
      }
    }
    from += w * bytesOf(c.type);
  }
}
