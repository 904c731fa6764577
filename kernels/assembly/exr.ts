// Inner loops of OpenEXR's compressions: the byte predictor of ZIP and RLE, the Huffman code of PIZ and DWA, PIZ's wavelet.

/** Undoes the predictor: running sum of n bytes less 128, then the halves interleaved. `x` is changed. */
export function unpredictBytes(x: usize, out: usize, n: i32): void {
  let last: u32 = load<u8>(x);
  for (let i = 1; i < n; i++) {
    last = (last + <u32>load<u8>(x + i) - 128) & 255;
    store<u8>(x + i, <u8>last);
  }
  const half = (n + 1) >> 1;
  const b = x + half;
  let i = 0;
  const pairs = n >> 1;
  for (; i + 16 <= pairs; i += 16) {
    const u = v128.load(x + i);
    const v = v128.load(b + i);
    v128.store(out + 2 * i, v128.shuffle<u8>(u, v, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23));
    v128.store(out + 2 * i, v128.shuffle<u8>(u, v, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16);
  }
  for (; i < half; i++) {
    store<u8>(out + 2 * i, load<u8>(x + i));
    if (2 * i + 1 < n) store<u8>(out + 2 * i + 1, load<u8>(b + i));
  }
}

/** The predictor: even and odd bytes apart, then differences plus 128 */
export function predictBytes(x: usize, out: usize, n: i32): void {
  const half = (n + 1) >> 1;
  let a: u32 = load<u8>(x);
  store<u8>(out, <u8>a);
  for (let i = 1; i < half; i++) {
    const v: u32 = load<u8>(x + 2 * i);
    store<u8>(out + i, <u8>(v - a + 128));
    a = v;
  }
  for (let i = 0; 2 * i + 1 < n; i++) {
    const v: u32 = load<u8>(x + 2 * i + 1);
    store<u8>(out + half + i, <u8>(v - a + 128));
    a = v;
  }
}

const SYMBOLS: u32 = 65537;
const MAX_LENGTH = 58;
const FAST = 12;

// Places in the scratch memory of huffmanDecode, in bytes.
const LENGTHS: usize = 0; // u8 a symbol
const SORTED: usize = 65552; // u32 a symbol, by length
const COUNT: usize = SORTED + 4 * 65540; // u32 a length
const BASE: usize = COUNT + 4 * 64; // u64 a length: its first code
const START: usize = BASE + 8 * 64; // u32 a length: where its symbols begin in SORTED
const TABLE: usize = START + 4 * 64; // u32 for each FAST bits: symbol·256 + length

/** Bytes of scratch that huffmanDecode needs. */
export function huffmanScratch(): i32 {
  return <i32>TABLE + (4 << FAST) + 64;
}

/**
 * Decodes the Huffman code of OpenEXR (header of five integers, packed code lengths, bits) to `count` 16-bit values. Returns 0, or
 * a number that says where the data is damaged.
 */
export function huffmanDecode(src: usize, size: i32, out: usize, count: i32, scratch: usize): i32 {
  if (count == 0) return size == 0 ? 0 : 1;
  if (size < 20) return 1;
  const first = load<u32>(src);
  const last = load<u32>(src, 4);
  const bits = load<u32>(src, 12);
  if (first >= SYMBOLS || last >= SYMBOLS || first > last) return 2;
  const end = src + size;
  let at = readLengths(src + 20, end, first, last, scratch);
  if (at == 0) return 3;
  const bytes = (<u64>bits + 7) >> 3;
  if (<u64>at + bytes > <u64>end) return 4;
  if (!buildCode(first, last, scratch)) return 5;

  const stop = at + <usize>bytes;
  let left: i64 = <i64>bits;
  let hold: u64 = 0; // the next bits, at the top
  let have: i32 = 0;
  let n = 0;
  while (left > 0) {
    while (have <= 56) {
      if (at < stop) hold |= (<u64>load<u8>(at++)) << (56 - have);
      have += 8;
    }
    const entry = load<u32>(scratch + TABLE + ((<usize>(hold >> (64 - FAST))) << 2));
    let length = <i32>(entry & 255);
    let symbol = entry >> 8;
    if (length == 0) {
      for (length = FAST + 1; length <= 56; length++) {
        const code = (hold >> (64 - length)) - load<u64>(scratch + BASE + ((<usize>length) << 3));
        if (code < <u64>load<u32>(scratch + COUNT + ((<usize>length) << 2))) {
          const place = load<u32>(scratch + START + ((<usize>length) << 2)) + <u32>code;
          symbol = load<u32>(scratch + SORTED + ((<usize>place) << 2));
          break;
        }
      }
      if (length > 56) return 6;
    }
    hold <<= length;
    have -= length;
    left -= length;
    if (left < 0) return 7;
    if (symbol == last) {
      // A run of the value before: its length follows in eight bits.
      if (left < 8 || n == 0) return 8;
      while (have <= 56) {
        if (at < stop) hold |= (<u64>load<u8>(at++)) << (56 - have);
        have += 8;
      }
      let run = <i32>(hold >> 56);
      hold <<= 8;
      have -= 8;
      left -= 8;
      if (n + run > count) return 9;
      const value = load<u16>(out + ((<usize>(n - 1)) << 1));
      for (; run > 0; run--, n++) store<u16>(out + ((<usize>n) << 1), value);
    } else {
      if (n >= count) return 10;
      store<u16>(out + ((<usize>n) << 1), <u16>symbol);
      n++;
    }
  }
  return n == count ? 0 : 11;
}

/** Reads six bits a symbol, with runs of zeros; returns the place behind them, or 0. */
function readLengths(from: usize, end: usize, first: u32, last: u32, scratch: usize): usize {
  let hold: u32 = 0;
  let have: i32 = 0;
  let at = from;
  memory.fill(scratch + LENGTHS, 0, SYMBOLS);
  for (let s = first; s <= last; s++) {
    while (have < 6) {
      if (at >= end) return 0;
      hold = (hold << 8) | load<u8>(at++);
      have += 8;
    }
    have -= 6;
    const length = (hold >> have) & 63;
    let run: u32 = 0;
    if (length == 63) {
      while (have < 8) {
        if (at >= end) return 0;
        hold = (hold << 8) | load<u8>(at++);
        have += 8;
      }
      have -= 8;
      run = ((hold >> have) & 255) + 6;
    } else if (length >= 59) run = length - 59 + 2;
    if (run > 0) {
      if (s + run > last + 1) return 0;
      s += run - 1;
    } else store<u8>(scratch + LENGTHS + s, <u8>length);
  }
  return at;
}

/** Canonical codes, the longest with the smallest numbers; false where the lengths are no code. */
function buildCode(first: u32, last: u32, scratch: usize): bool {
  memory.fill(scratch + COUNT, 0, 4 * 64);
  memory.fill(scratch + TABLE, 0, 4 << FAST);
  for (let s = first; s <= last; s++) {
    const p = scratch + COUNT + ((<usize>load<u8>(scratch + LENGTHS + s)) << 2);
    store<u32>(p, load<u32>(p) + 1);
  }
  let code: u64 = 0;
  let place: u32 = 0;
  for (let l = MAX_LENGTH; l >= 1; l--) {
    const n = load<u32>(scratch + COUNT + ((<usize>l) << 2));
    store<u64>(scratch + BASE + ((<usize>l) << 3), code);
    store<u32>(scratch + START + ((<usize>l) << 2), place);
    if (code + n > (<u64>1) << l) return false;
    code = (code + n) >> 1;
    place += n;
  }
  for (let s = first; s <= last; s++) {
    const length = load<u8>(scratch + LENGTHS + s);
    if (length == 0) continue;
    const p = scratch + START + ((<usize>length) << 2);
    const next = load<u32>(p);
    store<u32>(p, next + 1);
    store<u32>(scratch + SORTED + ((<usize>next) << 2), s);
  }
  // The starts have moved on by their counts; each length's symbols get their codes, and short codes their table entries.
  for (let l = 1; l <= MAX_LENGTH; l++) {
    const n = load<u32>(scratch + COUNT + ((<usize>l) << 2));
    const p = scratch + START + ((<usize>l) << 2);
    const start = load<u32>(p) - n;
    store<u32>(p, start);
    if (l > FAST) continue;
    for (let k: u32 = 0; k < n; k++) {
      const symbol = load<u32>(scratch + SORTED + ((<usize>(start + k)) << 2));
      const from = (load<u64>(scratch + BASE + ((<usize>l) << 3)) + k) << (FAST - l);
      for (let i: u64 = 0; i < (<u64>1) << (FAST - l); i++) {
        store<u32>(scratch + TABLE + ((<usize>(from + i)) << 2), (symbol << 8) | l);
      }
    }
  }
  return true;
}

/**
 * Writes `count` values in the code whose 64-bit entries (code·64 + length) are given, runs of a value as `runSymbol` and eight bits
 * where that is shorter. Returns the number of bits.
 */
export function huffmanEncode(src: usize, count: i32, codes: usize, runSymbol: i32, out: usize): i32 {
  let hold: u64 = 0;
  let have: i32 = 0;
  let at = out;
  const runCode = load<u64>(codes + ((<usize>runSymbol) << 3));
  for (let i = 0; i < count;) {
    const value = load<u16>(src + ((<usize>i) << 1));
    let run = 1;
    while (i + run < count && run <= 255 && load<u16>(src + ((<usize>(i + run)) << 1)) == value) run++;
    i += run;
    const code = load<u64>(codes + ((<usize>value) << 3));
    const length = code & 63;
    const asRun = length + (runCode & 63) + 8 < length * <u64>run;
    let times = asRun ? 1 : run;
    for (; times > 0; times--) {
      hold = (hold << length) | (code >> 6);
      have += <i32>length;
      while (have >= 8) {
        have -= 8;
        store<u8>(at++, <u8>(hold >> have));
      }
    }
    if (!asRun) continue;
    hold = (hold << (runCode & 63)) | (runCode >> 6);
    have += <i32>(runCode & 63);
    while (have >= 8) {
      have -= 8;
      store<u8>(at++, <u8>(hold >> have));
    }
    hold = (hold << 8) | <u64>(run - 1);
    store<u8>(at++, <u8>(hold >> have));
  }
  const bits = <i32>((at - out) << 3) + have;
  if (have > 0) store<u8>(at, <u8>(hold << (8 - have)));
  return bits;
}

let low: i32 = 0;
let high: i32 = 0;

// Two values to their mean and difference and back; below 2^14 without wrapping round.

// @ts-ignore: decorator
@inline
function join(l: i32, h: i32, small: bool): void {
  if (small) {
    const hs = <i32><i16>h;
    const a = <i32><i16>l + (hs & 1) + (hs >> 1);
    low = a & 0xffff;
    high = (a - hs) & 0xffff;
  } else {
    const b = (l - (h >> 1)) & 0xffff;
    high = b;
    low = (h + b - 0x8000) & 0xffff;
  }
}

// @ts-ignore: decorator
@inline
function part(a: i32, b: i32, small: bool): void {
  if (small) {
    const as = <i32><i16>a;
    const bs = <i32><i16>b;
    low = ((as + bs) >> 1) & 0xffff;
    high = (as - bs) & 0xffff;
  } else {
    const ao = (a + 0x8000) & 0xffff;
    let m = (ao + b) >> 1;
    const d = ao - b;
    if (d < 0) m = (m + 0x8000) & 0xffff;
    low = m;
    high = d & 0xffff;
  }
}

/** The two-dimensional Haar-like wavelet of PIZ, undone in place on nx×ny 16-bit values, ox and oy apart; `most` is the largest. */
export function waveletDecode(p0: usize, nx: i32, ox: i32, ny: i32, oy: i32, most: i32): void {
  const small = most < 1 << 14;
  const n = min(nx, ny);
  let p = 1;
  while (p <= n) p <<= 1;
  p >>= 1;
  let p2 = p;
  p >>= 1;
  for (; p >= 1; p2 = p, p >>= 1) {
    const ox1 = (<usize>(ox * p)) << 1;
    const oy1 = (<usize>(oy * p)) << 1;
    let y = 0;
    for (; y + p2 <= ny; y += p2) {
      let px = p0 + ((<usize>(oy * y)) << 1);
      let x = 0;
      for (; x + p2 <= nx; x += p2, px += 2 * ox1) {
        const p01 = px + ox1;
        const p10 = px + oy1;
        const p11 = p10 + ox1;
        join(load<u16>(px), load<u16>(p10), small);
        const i00 = low;
        const i10 = high;
        join(load<u16>(p01), load<u16>(p11), small);
        const i01 = low;
        const i11 = high;
        join(i00, i01, small);
        store<u16>(px, <u16>low);
        store<u16>(p01, <u16>high);
        join(i10, i11, small);
        store<u16>(p10, <u16>low);
        store<u16>(p11, <u16>high);
      }
      if (nx & p) {
        join(load<u16>(px), load<u16>(px + oy1), small);
        store<u16>(px, <u16>low);
        store<u16>(px + oy1, <u16>high);
      }
    }
    if (ny & p) {
      let px = p0 + ((<usize>(oy * y)) << 1);
      for (let x = 0; x + p2 <= nx; x += p2, px += 2 * ox1) {
        join(load<u16>(px), load<u16>(px + ox1), small);
        store<u16>(px, <u16>low);
        store<u16>(px + ox1, <u16>high);
      }
    }
  }
}

/** The wavelet, in place */
export function waveletEncode(p0: usize, nx: i32, ox: i32, ny: i32, oy: i32, most: i32): void {
  const small = most < 1 << 14;
  const n = min(nx, ny);
  for (let p = 1, p2 = 2; p2 <= n; p = p2, p2 <<= 1) {
    const ox1 = (<usize>(ox * p)) << 1;
    const oy1 = (<usize>(oy * p)) << 1;
    let y = 0;
    for (; y + p2 <= ny; y += p2) {
      let px = p0 + ((<usize>(oy * y)) << 1);
      for (let x = 0; x + p2 <= nx; x += p2, px += 2 * ox1) {
        const p01 = px + ox1;
        const p10 = px + oy1;
        const p11 = p10 + ox1;
        part(load<u16>(px), load<u16>(p01), small);
        const i00 = low;
        const i01 = high;
        part(load<u16>(p10), load<u16>(p11), small);
        const i10 = low;
        const i11 = high;
        part(i00, i10, small);
        store<u16>(px, <u16>low);
        store<u16>(p10, <u16>high);
        part(i01, i11, small);
        store<u16>(p01, <u16>low);
        store<u16>(p11, <u16>high);
      }
      if (nx & p) {
        part(load<u16>(px), load<u16>(px + oy1), small);
        store<u16>(px, <u16>low);
        store<u16>(px + oy1, <u16>high);
      }
    }
    if (ny & p) {
      let px = p0 + ((<usize>(oy * y)) << 1);
      for (let x = 0; x + p2 <= nx; x += p2, px += 2 * ox1) {
        part(load<u16>(px), load<u16>(px + ox1), small);
        store<u16>(px, <u16>low);
        store<u16>(px + ox1, <u16>high);
      }
    }
  }
}

/** value = table[value] on n 16-bit values; `table` has 65,536 of them */
export function lookupInPlace16(x: usize, n: i32, table: usize): void {
  for (let end = x + ((<usize>n) << 1); x < end; x += 2) store<u16>(x, load<u16>(table + ((<usize>load<u16>(x)) << 1)));
}
