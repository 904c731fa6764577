// Inflate (RFC 1951), with two-level tables and a 64-bit bit buffer.

// @ts-ignore: decorator
@inline const LITERAL_BITS: i32 = 11;
// @ts-ignore: decorator
@inline const DISTANCE_BITS: i32 = 8;
/** Most entries that tables of so many first bits can need (zlib's enough.c): literals, distances, code lengths. */
// @ts-ignore: decorator
@inline const LITERAL_ENTRIES: i32 = 2342;
// @ts-ignore: decorator
@inline const DISTANCE_ENTRIES: i32 = 402;

// An entry: bits 0–4 the bits to take, 5–9 extra bits (or a second table's bits), 10–27 a value, 28–30 what it is.
// @ts-ignore: decorator
@inline const BASE: u32 = 0;
// @ts-ignore: decorator
@inline const PLAIN: u32 = 1;
// @ts-ignore: decorator
@inline const END: u32 = 2;
// @ts-ignore: decorator
@inline const TABLE: u32 = 3;
// @ts-ignore: decorator
@inline const NONE: u32 = 4;

const LENGTH_BASE: StaticArray<u16> = [3, 4, 5, 6, 7, 8, 9, 10, 11, 13, 15, 17, 19, 23, 27, 31, 35, 43, 51, 59, 67, 83, 99, 115, 131, 163, 195, 227, 258, 0, 0];
const LENGTH_EXTRA: StaticArray<u8> = [0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3, 4, 4, 4, 4, 5, 5, 5, 5, 0, 0, 0];
const ORDER: StaticArray<u8> = [16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15];

/** Bytes of scratch that `inflate` wants: three tables, code lengths, counts and sorted symbols. */
export function inflateScratch(): i32 {
  return 4 * (LITERAL_ENTRIES + DISTANCE_ENTRIES + 128) + 320 + 64 + 64 + 640 + 64;
}

// @ts-ignore: decorator
@inline
function entryOf(kind: i32, symbol: i32): u32 {
  if (kind == 0) return (PLAIN << 28) | (<u32>symbol << 10);
  if (kind == 1) {
    if (symbol < 256) return (PLAIN << 28) | (<u32>symbol << 10);
    if (symbol == 256) return END << 28;
    const k = symbol - 257;
    if (k > 28) return NONE << 28;
    return (<u32>unchecked(LENGTH_BASE[k]) << 10) | (<u32>unchecked(LENGTH_EXTRA[k]) << 5);
  }
  if (symbol > 29) return NONE << 28;
  if (symbol < 4) return <u32>(symbol + 1) << 10;
  const extra = (symbol >> 1) - 1;
  return (<u32>(((2 + (symbol & 1)) << extra) + 1) << 10) | (<u32>extra << 5);
}

// @ts-ignore: decorator
@inline
function reversed(code: u32, length: i32): u32 {
  let v = code;
  v = ((v >> 1) & 0x5555) | ((v & 0x5555) << 1);
  v = ((v >> 2) & 0x3333) | ((v & 0x3333) << 2);
  v = ((v >> 4) & 0x0f0f) | ((v & 0x0f0f) << 4);
  v = ((v >> 8) & 0x00ff) | ((v & 0x00ff) << 8);
  return v >> (16 - length);
}

/** Fills a table from code lengths (a byte each); kind 0 code lengths, 1 literals and lengths, 2 distances. False where no such code can be. */
function makeTable(lengths: usize, n: i32, table: usize, bits: i32, most: i32, kind: i32, work: usize): bool {
  const counts = work;
  const offsets = work + 64;
  const sorted = work + 128;
  memory.fill(counts, 0, 64);
  for (let i = 0; i < n; i++) {
    const at = counts + (<usize>load<u8>(lengths + i) << 2);
    store<u32>(at, load<u32>(at) + 1);
  }
  store<u32>(counts, 0);
  let left = 1;
  let total: u32 = 0;
  for (let l = 1; l <= 15; l++) {
    const c = load<u32>(counts + (<usize>l << 2));
    store<u32>(offsets + (<usize>l << 2), total);
    total += c;
    left = (left << 1) - <i32>c;
    if (left < 0) return false;
  }
  for (let i = 0; i < n; i++) {
    const l = <usize>load<u8>(lengths + i);
    if (!l) continue;
    const at = offsets + (l << 2);
    const o = load<u32>(at);
    store<u16>(sorted + (<usize>o << 1), <u16>i);
    store<u32>(at, o + 1);
  }
  const size = 1 << bits;
  for (let i = 0; i < size; i++) store<u32>(table + (<usize>i << 2), NONE << 28);
  let code: u32 = 0;
  let symbolAt: i32 = 0;
  let next = size;
  let prefix: i32 = -1;
  let subTable = 0;
  let subBits = 0;
  for (let l = 1; l <= 15; l++) {
    let c = <i32>load<u32>(counts + (<usize>l << 2));
    for (; c > 0; c--) {
      const entry = entryOf(kind, <i32>load<u16>(sorted + (<usize>symbolAt << 1)));
      symbolAt++;
      const r = reversed(code, l);
      if (l <= bits) {
        const step = 1 << l;
        for (let k = <i32>r; k < size; k += step) store<u32>(table + (<usize>k << 2), entry | <u32>l);
      } else {
        const first = <i32>r & (size - 1);
        if (first != prefix) {
          prefix = first;
          // As many bits as the codes that begin like this can need.
          subBits = l - bits;
          let room = 1 << subBits;
          let have = c;
          while (room > have && subBits + bits < 15) {
            room -= have;
            subBits++;
            room <<= 1;
            have = <i32>load<u32>(counts + (<usize>(subBits + bits) << 2));
          }
          subTable = next;
          next += 1 << subBits;
          if (next > most) return false;
          for (let k = subTable; k < next; k++) store<u32>(table + (<usize>k << 2), NONE << 28);
          store<u32>(table + (<usize>first << 2), (TABLE << 28) | (<u32>subTable << 10) | (<u32>subBits << 5) | <u32>bits);
        }
        const step = 1 << (l - bits);
        for (let k = <i32>(r >> bits); k < 1 << subBits; k += step) {
          store<u32>(table + (<usize>(subTable + k) << 2), entry | <u32>(l - bits));
        }
      }
      code++;
    }
    code <<= 1;
  }
  return true;
}

/**
 * Unpacks a raw deflate stream of n bytes to at most `room` bytes. `src` and `out` may be read or written up to 16 bytes past their
 * ends. Gives the bytes that came out, or −1 where the stream is damaged or does not fit.
 */
export function inflate(src: usize, n: i32, out: usize, room: i32, scratch: usize): i32 {
  const literals = scratch;
  const distances = literals + 4 * LITERAL_ENTRIES;
  const precode = distances + 4 * DISTANCE_ENTRIES;
  const lengths = precode + 512;
  const work = lengths + 320;
  const end = src + <usize>n;
  const start = out;
  const stop = out + <usize>room;
  let bits: u64 = 0;
  let have: u32 = 0;
  let last = false;
  while (!last) {
    // At least 48 bits, zeros where the stream has ended.
    while (have < 48) {
      if (src < end) bits |= <u64>load<u8>(src) << have;
      else if (src >= end + 16) return -1;
      src++;
      have += 8;
    }
    last = (bits & 1) != 0;
    const type = <u32>(bits >> 1) & 3;
    bits >>= 3;
    have -= 3;
    if (type == 3) return -1;
    if (type == 0) {
      bits >>= have & 7;
      have -= have & 7;
      const size = <u32>bits & 0xffff;
      if (((<u32>(bits >> 16) & 0xffff) ^ 0xffff) != size) return -1;
      src = src - <usize>(have >> 3) + 4;
      bits = 0;
      have = 0;
      if (src + size > end || out + size > stop) return -1;
      memory.copy(out, src, size);
      src += size;
      out += size;
      continue;
    }
    if (type == 1) {
      memory.fill(lengths, 8, 144);
      memory.fill(lengths + 144, 9, 112);
      memory.fill(lengths + 256, 7, 24);
      memory.fill(lengths + 280, 8, 8);
      if (!makeTable(lengths, 288, literals, LITERAL_BITS, LITERAL_ENTRIES, 1, work)) return -1;
      memory.fill(lengths, 5, 30);
      if (!makeTable(lengths, 30, distances, DISTANCE_BITS, DISTANCE_ENTRIES, 2, work)) return -1;
    } else {
      const nl = (<i32>bits & 31) + 257;
      const nd = (<i32>(bits >> 5) & 31) + 1;
      const nc = (<i32>(bits >> 10) & 15) + 4;
      if (nl > 286 || nd > 30) return -1;
      bits >>= 14;
      have -= 14;
      memory.fill(lengths, 0, 19);
      for (let i = 0; i < nc; i++) {
        while (have < 8) {
          if (src < end) bits |= <u64>load<u8>(src) << have;
          src++;
          have += 8;
        }
        store<u8>(lengths + <usize>unchecked(ORDER[i]), <u8>(bits & 7));
        bits >>= 3;
        have -= 3;
      }
      if (!makeTable(lengths, 19, precode, 7, 128, 0, work)) return -1;
      let i = 0;
      while (i < nl + nd) {
        while (have < 24) {
          if (src < end) bits |= <u64>load<u8>(src) << have;
          else if (src >= end + 16) return -1;
          src++;
          have += 8;
        }
        const e = load<u32>(precode + ((<usize>bits & 127) << 2));
        if (e >> 28 != PLAIN) return -1;
        bits >>= e & 31;
        have -= e & 31;
        const symbol = <i32>(e >> 10) & 31;
        if (symbol < 16) {
          store<u8>(lengths + i, <u8>symbol);
          i++;
          continue;
        }
        let count: i32;
        let value: u8 = 0;
        if (symbol == 16) {
          if (i == 0) return -1;
          value = load<u8>(lengths + i - 1);
          count = 3 + (<i32>bits & 3);
          bits >>= 2;
          have -= 2;
        } else if (symbol == 17) {
          count = 3 + (<i32>bits & 7);
          bits >>= 3;
          have -= 3;
        } else {
          count = 11 + (<i32>bits & 127);
          bits >>= 7;
          have -= 7;
        }
        if (i + count > nl + nd) return -1;
        memory.fill(lengths + i, value, count);
        i += count;
      }
      if (load<u8>(lengths + 256) == 0) return -1;
      if (!makeTable(lengths + nl, nd, distances, DISTANCE_BITS, DISTANCE_ENTRIES, 2, work)) return -1;
      if (!makeTable(lengths, nl, literals, LITERAL_BITS, LITERAL_ENTRIES, 1, work)) return -1;
    }
    // The symbols of a block.
    while (true) {
      if (src + 8 <= end) {
        bits |= load<u64>(src) << have;
        src += (63 - have) >> 3;
        have |= 56;
      } else {
        while (have < 56) {
          if (src < end) bits |= <u64>load<u8>(src) << have;
          else if (src >= end + 16) return -1;
          src++;
          have += 8;
        }
      }
      let e = load<u32>(literals + ((<usize>bits & ((1 << LITERAL_BITS) - 1)) << 2));
      // Up to three literals of a refill.
      if (e >> 28 == PLAIN) {
        if (out + 3 > stop) {
          if (out >= stop) return -1;
          store<u8>(out++, <u8>(e >> 10));
          bits >>= e & 31;
          have -= e & 31;
          continue;
        }
        store<u8>(out++, <u8>(e >> 10));
        bits >>= e & 31;
        have -= e & 31;
        e = load<u32>(literals + ((<usize>bits & ((1 << LITERAL_BITS) - 1)) << 2));
        if (e >> 28 == PLAIN) {
          store<u8>(out++, <u8>(e >> 10));
          bits >>= e & 31;
          have -= e & 31;
          e = load<u32>(literals + ((<usize>bits & ((1 << LITERAL_BITS) - 1)) << 2));
          if (e >> 28 == PLAIN) {
            store<u8>(out++, <u8>(e >> 10));
            bits >>= e & 31;
            have -= e & 31;
            continue;
          }
        }
        // What follows can take 48 bits.
        if (have < 48) continue;
      }
      if (e >> 28 == TABLE) {
        bits >>= LITERAL_BITS;
        have -= LITERAL_BITS;
        e = load<u32>(literals + ((<usize>((e >> 10) & 0x3ffff) + (<usize>bits & ((<usize>1 << ((e >> 5) & 31)) - 1))) << 2));
      }
      bits >>= e & 31;
      have -= e & 31;
      const what = e >> 28;
      if (what == PLAIN) {
        if (out >= stop) return -1;
        store<u8>(out++, <u8>(e >> 10));
        continue;
      }
      if (what == END) break;
      if (what != BASE) return -1;
      let extra = (e >> 5) & 31;
      const length = ((e >> 10) & 0x3ffff) + (<u32>bits & ((1 << extra) - 1));
      bits >>= extra;
      have -= extra;
      let d = load<u32>(distances + ((<usize>bits & ((1 << DISTANCE_BITS) - 1)) << 2));
      if (d >> 28 == TABLE) {
        bits >>= DISTANCE_BITS;
        have -= DISTANCE_BITS;
        d = load<u32>(distances + ((<usize>((d >> 10) & 0x3ffff) + (<usize>bits & ((<usize>1 << ((d >> 5) & 31)) - 1))) << 2));
      }
      if (d >> 28 != BASE) return -1;
      bits >>= d & 31;
      have -= d & 31;
      extra = (d >> 5) & 31;
      const distance = <usize>(((d >> 10) & 0x3ffff) + (<u32>bits & ((1 << extra) - 1)));
      bits >>= extra;
      have -= extra;
      if (distance > out - start || out + length > stop) return -1;
      const to = out + length;
      let from = out - distance;
      if (distance >= 16) {
        do {
          v128.store(out, v128.load(from));
          out += 16;
          from += 16;
        } while (out < to);
      } else if (distance == 1) {
        const v = i8x16.splat(load<i8>(from));
        do {
          v128.store(out, v);
          out += 16;
        } while (out < to);
      } else if (distance >= 8) {
        do {
          store<u64>(out, load<u64>(from));
          out += 8;
          from += 8;
        } while (out < to);
      } else {
        do {
          store<u8>(out, load<u8>(from));
          out++;
          from++;
        } while (out < to);
      }
      out = to;
    }
  }
  // Zeros that stood in for what the stream should have held were taken.
  if (src - <usize>(have >> 3) > end) return -1;
  return <i32>(out - start);
}
