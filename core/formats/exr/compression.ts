import { unzlibSync, zlibSync } from 'fflate';

/** Splits bytes into even and odd halves and stores differences: what OpenEXR does before RLE and zlib. */
export function predict(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length);
  const half = (raw.length + 1) >> 1;
  for (let i = 0; i < raw.length; i++) out[(i & 1 ? half : 0) + (i >> 1)] = raw[i]!;
  for (let i = out.length - 1; i > 0; i--) out[i] = out[i]! - out[i - 1]! + 384;
  return out;
}

export function unpredict(data: Uint8Array): Uint8Array {
  for (let i = 1; i < data.length; i++) data[i] = data[i]! + data[i - 1]! - 128;
  const out = new Uint8Array(data.length);
  const half = (data.length + 1) >> 1;
  for (let i = 0; i < out.length; i++) out[i] = data[(i & 1 ? half : 0) + (i >> 1)]!;
  return out;
}

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

export const inflate = (data: Uint8Array, size: number): Uint8Array => unzlibSync(data, { out: new Uint8Array(size) });
export const deflate = (raw: Uint8Array): Uint8Array => zlibSync(raw, { level: 4 });
