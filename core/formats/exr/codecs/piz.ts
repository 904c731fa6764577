import type { Kernels } from '@/kernels';
import type { BlockChannel } from '../blocks';
import type { LineOrder } from './lines';
import { inLines } from './lines';

// PIZ: values of each channel in turn, made dense by a table, a wavelet, a Huffman code (OpenEXR's documentation of the file layout).

const VALUES = 65536;
const SYMBOLS = VALUES + 1;

/** 16-bit words of each channel of a block: where they begin, and how many make a sample. */
interface Words {
  at: number;
  width: number;
  height: number;
  size: number;
}

function wordsOf(channels: readonly BlockChannel[]): { list: Words[]; total: number } {
  let total = 0;
  const list = channels.map((c): Words => {
    const words = { at: total, width: c.width, height: c.height, size: c.bytes / 2 };
    total += c.width * c.height * words.size;
    return words;
  });
  return { list, total };
}

/** Reads `count` values in the Huffman code. Throws where the data is damaged. */
export function huffmanDecode(data: Uint8Array, count: number, kernels: Kernels): Uint16Array<ArrayBuffer> {
  const from = kernels.bytes(data.length + 16);
  const to = kernels.bytes(2 * count + 16);
  const scratch = kernels.bytes(kernels.fn.huffmanScratch());
  try {
    from.set(data);
    const wrong = kernels.fn.huffmanDecode(from.byteOffset, data.length, to.byteOffset, count, scratch.byteOffset);
    if (wrong) throw new Error(`the Huffman code is damaged (${wrong})`);
    return new Uint16Array(to.slice(0, 2 * count).buffer as ArrayBuffer);
  } finally {
    [from, to, scratch].forEach((b) => kernels.give(b));
  }
}

/** A block's bytes, line by line and channel by channel. Throws where the data is damaged. */
export function decodePiz(data: Uint8Array, channels: readonly BlockChannel[], lines: LineOrder, kernels: Kernels): Uint8Array {
  const { list, total } = wordsOf(channels);
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const [low, high] = [view.getUint16(0, true), view.getUint16(2, true)];
  let at = 4;
  const used = new Uint8Array(VALUES / 8);
  if (low <= high) {
    if (high >= used.length || at + high - low + 1 > data.length) throw new Error('the table of values is damaged');
    used.set(data.subarray(at, at + high - low + 1), low);
    at += high - low + 1;
  }
  const { table, most } = reverseTable(used);
  const size = view.getUint32(at, true);
  if (at + 4 + size > data.length) throw new Error('the block is too short');
  const values = huffmanDecode(data.subarray(at + 4, at + 4 + size), total, kernels);
  const words = kernels.bytes(2 * total + 16);
  const lookup = kernels.bytes(2 * VALUES);
  try {
    words.set(new Uint8Array(values.buffer));
    lookup.set(new Uint8Array(table.buffer));
    for (const c of list) {
      for (let j = 0; j < c.size; j++) {
        kernels.fn.waveletDecode(words.byteOffset + 2 * (c.at + j), c.width, c.size, c.height, c.width * c.size, most);
      }
    }
    kernels.fn.lookupInPlace16(words.byteOffset, total, lookup.byteOffset);
    const planes = list.map((c) => words.subarray(2 * c.at, 2 * (c.at + c.width * c.height * c.size)));
    return inLines(planes, channels, lines);
  } finally {
    [words, lookup].forEach((b) => kernels.give(b));
  }
}

/** The values that occur, in order; the rest stay 0. */
function reverseTable(used: Uint8Array): { table: Uint16Array; most: number } {
  const table = new Uint16Array(VALUES);
  let k = 0;
  for (let i = 0; i < VALUES; i++) if (i === 0 || used[i >> 3]! & (1 << (i & 7))) table[k++] = i;
  return { table, most: k - 1 };
}

/** Packs a block's bytes, line by line and channel by channel. */
export function encodePiz(raw: Uint8Array, channels: readonly BlockChannel[], lines: LineOrder, kernels: Kernels): Uint8Array {
  const { list, total } = wordsOf(channels);
  const bytes = kernels.bytes(2 * total + 16);
  const lookup = kernels.bytes(2 * VALUES);
  try {
    const next = list.map((c) => 2 * c.at);
    let from = 0;
    lines((i) => {
      const n = 2 * list[i]!.width * list[i]!.size;
      bytes.set(raw.subarray(from, from + n), next[i]!);
      next[i]! += n;
      from += n;
    });
    const words = new Uint16Array(bytes.buffer, bytes.byteOffset, total);
    const used = new Uint8Array(VALUES / 8);
    for (let i = 0; i < total; i++) used[words[i]! >> 3]! |= 1 << (words[i]! & 7);
    used[0]! &= ~1; // zero is always there and is not stored
    const table = new Uint16Array(lookup.buffer, lookup.byteOffset, VALUES).fill(0);
    let k = 0;
    for (let i = 0; i < VALUES; i++) if (i === 0 || used[i >> 3]! & (1 << (i & 7))) table[i] = k++;
    kernels.fn.lookupInPlace16(bytes.byteOffset, total, lookup.byteOffset);
    for (const c of list) {
      for (let j = 0; j < c.size; j++) {
        kernels.fn.waveletEncode(bytes.byteOffset + 2 * (c.at + j), c.width, c.size, c.height, c.width * c.size, k - 1);
      }
    }
    const packed = huffmanEncode(words, kernels);
    const low = used.findIndex((b) => b !== 0);
    const high = used.findLastIndex((b) => b !== 0);
    const stored = low < 0 ? new Uint8Array() : used.subarray(low, high + 1);
    const out = new Uint8Array(8 + stored.length + packed.length);
    const view = new DataView(out.buffer);
    view.setUint16(0, low < 0 ? used.length - 1 : low, true);
    view.setUint16(2, low < 0 ? 0 : high, true);
    out.set(stored, 4);
    view.setUint32(4 + stored.length, packed.length, true);
    out.set(packed, 8 + stored.length);
    return out;
  } finally {
    [bytes, lookup].forEach((b) => kernels.give(b));
  }
}

/** Values in the kernels' memory, as header, code lengths and bits. */
function huffmanEncode(words: Uint16Array, kernels: Kernels): Uint8Array {
  if (words.length === 0) return new Uint8Array();
  const counts = new Uint32Array(SYMBOLS);
  for (let i = 0; i < words.length; i++) counts[words[i]!]!++;
  const first = counts.findIndex((c) => c > 0);
  // The symbol behind the largest value stands for runs.
  const runs = counts.findLastIndex((c) => c > 0) + 1;
  counts[runs] = 1;
  const lengths = codeLengths(counts);
  const codes = kernels.bytes(8 * SYMBOLS + 8);
  const out = kernels.bytes(words.length * 8 + 64);
  try {
    setCodes(lengths, new BigUint64Array(codes.buffer, codes.byteOffset, SYMBOLS));
    const bits = kernels.fn.huffmanEncode(words.byteOffset, words.length, codes.byteOffset, runs, out.byteOffset);
    const table = packLengths(lengths, first, runs);
    const data = out.subarray(0, (bits + 7) >> 3);
    const packed = new Uint8Array(20 + table.length + data.length);
    const view = new DataView(packed.buffer);
    [first, runs, table.length, bits, 0].forEach((v, i) => view.setUint32(4 * i, v, true));
    packed.set(table, 20);
    packed.set(data, 20 + table.length);
    return packed;
  } finally {
    [codes, out].forEach((b) => kernels.give(b));
  }
}

/** Code lengths of Huffman's method; 0 for symbols that do not occur. */
function codeLengths(counts: Uint32Array): Uint8Array {
  const symbols: number[] = [];
  counts.forEach((c, s) => c > 0 && symbols.push(s));
  symbols.sort((a, b) => counts[a]! - counts[b]! || a - b);
  const lengths = new Uint8Array(SYMBOLS);
  const n = symbols.length;
  if (n === 1) lengths[symbols[0]!] = 1;
  if (n < 2) return lengths;
  // Two queues in rising order of weight: the symbols, and the nodes that have been made.
  const weight = Float64Array.from({ length: 2 * n - 1 }, (_, i) => (i < n ? counts[symbols[i]!]! : 0));
  const parent = new Int32Array(2 * n - 1);
  let [leaf, node] = [0, n];
  for (let made = n; made < 2 * n - 1; made++) {
    for (let k = 0; k < 2; k++) {
      const least = leaf < n && (node >= made || weight[leaf]! <= weight[node]!) ? leaf++ : node++;
      weight[made]! += weight[least]!;
      parent[least] = made;
    }
  }
  const depth = new Uint8Array(2 * n - 1);
  for (let i = 2 * n - 3; i >= 0; i--) depth[i] = depth[parent[i]!]! + 1;
  symbols.forEach((s, i) => (lengths[s] = depth[i]!));
  return lengths;
}

/** Canonical codes, the longest with the smallest numbers, as code·64 + length. */
function setCodes(lengths: Uint8Array, codes: BigUint64Array): void {
  const counts = new Array<number>(59).fill(0);
  for (const l of lengths) counts[l]!++;
  const next = new Array<bigint>(59).fill(0n);
  let code = 0n;
  for (let l = 58; l >= 1; l--) {
    next[l] = code;
    code = (code + BigInt(counts[l]!)) >> 1n;
  }
  codes.fill(0n);
  lengths.forEach((l, s) => {
    if (l > 0) codes[s] = (next[l]!++ << 6n) | BigInt(l);
  });
}

/** Six bits a length; 59 to 62 stand for two to five zeros, 63 and eight more bits for six and more. */
function packLengths(lengths: Uint8Array, first: number, last: number): Uint8Array {
  const out: number[] = [];
  let hold = 0;
  let have = 0;
  const put = (value: number, bits: number): void => {
    hold = (hold << bits) | value;
    have += bits;
    while (have >= 8) {
      have -= 8;
      out.push((hold >> have) & 255);
    }
    hold &= (1 << have) - 1;
  };
  for (let s = first; s <= last; s++) {
    let zeros = 0;
    while (s + zeros <= last && zeros < 261 && lengths[s + zeros] === 0) zeros++;
    if (zeros < 2) {
      put(lengths[s]!, 6);
      continue;
    }
    if (zeros >= 6) {
      put(63, 6);
      put(zeros - 6, 8);
    } else put(59 + zeros - 2, 6);
    s += zeros - 1;
  }
  if (have > 0) out.push((hold << (8 - have)) & 255);
  return Uint8Array.from(out);
}
