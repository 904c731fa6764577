import { unzlibSync, zlibSync } from 'fflate';
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

/** Throws where the data does not inflate to exactly `size` bytes. */
export function inflate(data: Uint8Array, size: number): Uint8Array {
  // One byte more shows a stream that holds more than it should.
  const got = unzlibSync(data, { out: new Uint8Array(size + 1) });
  if (got.length !== size) throw new Error('wrong size');
  return got;
}

export const deflate = (raw: Uint8Array): Uint8Array => zlibSync(raw, { level: 4 });
