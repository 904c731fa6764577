import { zlibSync } from 'fflate';
import type { Kernels } from '@/kernels';

/** Runs a kernel that turns n bytes into n others. */
function turnBytes(data: Uint8Array, kernels: Kernels, run: (from: number, to: number, n: number) => void): Uint8Array {
  const from = kernels.bytes(data.length + 1);
  const to = kernels.bytes(data.length + 1);
  from.set(data);
  run(from.byteOffset, to.byteOffset, data.length);
  const out = to.slice(0, data.length);
  [from, to].forEach((b) => kernels.give(b));
  return out;
}

/** The predictor that RLE, ZIPS and ZIP put before their compression, and its undoing. */
export const predict = (raw: Uint8Array, kernels: Kernels): Uint8Array => turnBytes(raw, kernels, kernels.fn.predictBytes);
export const unpredict = (data: Uint8Array, kernels: Kernels): Uint8Array => turnBytes(data, kernels, kernels.fn.unpredictBytes);

/** OpenEXR's run lengths: n ≥ 0 repeats the next byte n + 1 times, n < 0 copies −n bytes. Throws on overrun. */
export function unRle(data: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  let o = 0;
  for (let i = 0; i < data.length;) {
    const n = (data[i++]! << 24) >> 24;
    const count = n < 0 ? -n : n + 1;
    if (o + count > size || i + (n < 0 ? count : 1) > data.length) throw new Error('run lengths do not fit');
    if (n < 0) {
      out.set(data.subarray(i, i + count), o);
      i += count;
    } else out.fill(data[i++]!, o, o + count);
    o += count;
  }
  if (o !== size) throw new Error('run lengths do not fit');
  return out;
}

export function rle(raw: Uint8Array): Uint8Array {
  const out: number[] = [];
  let i = 0;
  while (i < raw.length) {
    let run = 1;
    while (i + run < raw.length && run < 128 && raw[i + run] === raw[i]) run++;
    if (run >= 3) {
      out.push(run - 1, raw[i]!);
      i += run;
      continue;
    }
    const start = i;
    while (i < raw.length && i - start < 127 && !(raw[i] === raw[i + 1] && raw[i] === raw[i + 2])) i++;
    out.push(256 - (i - start), ...raw.subarray(start, i));
  }
  return Uint8Array.from(out);
}

/** Unpacks a zlib stream (RFC 1950) whose contents have `size` bytes. Throws where it does not. */
export function inflate(data: Uint8Array, size: number, kernels: Kernels): Uint8Array {
  const [method, flags] = data as unknown as [number, number];
  const valid = data.length > 2 && (method & 15) === 8 && (method * 256 + flags) % 31 === 0 && (flags & 32) === 0;
  if (!valid) throw new Error('no zlib stream');
  // Both may be run over by 16 bytes; one byte more of room shows a stream that holds more than it should.
  const from = kernels.bytes(data.length + 16);
  const to = kernels.bytes(size + 1 + 16);
  const scratch = kernels.bytes(kernels.fn.inflateScratch());
  try {
    from.set(data);
    const got = kernels.fn.inflate(from.byteOffset + 2, data.length - 2, to.byteOffset, size + 1, scratch.byteOffset);
    if (got !== size) throw new Error('wrong size');
    return to.slice(0, size);
  } finally {
    [from, to, scratch].forEach((b) => kernels.give(b));
  }
}

export const deflate = (raw: Uint8Array): Uint8Array => zlibSync(raw, { level: 4 });
