import { deflateSync } from 'node:zlib';
import { decode } from 'fast-png';
import { nodeKernels } from '@/engine/node/host';
import { random } from '@/demo/noise';
import type { Kernels } from '@/kernels';
import { crc32 } from '../crc32';
import { inspectPng, readPng } from './codes';

let k: Kernels;
beforeAll(async () => {
  k = await nodeKernels();
});

const TYPES = { 1: 0, 2: 4, 3: 2, 4: 6 } as const;

function chunk(type: string, data: Uint8Array): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
  length.writeUInt32BE(data.length);
  sum.writeUInt32BE(crc32(body));
  return Buffer.concat([length, body, sum]);
}

interface Made {
  width: number;
  height: number;
  bits: 8 | 16;
  channels: 1 | 2 | 3 | 4;
  /** The filter of a row. */
  filter: (row: number) => number;
  /** Bytes of IDAT a chunk. */
  part?: number;
  more?: Buffer[];
}

/** A PNG whose rows hold filtered bytes as they come: what they stand for is the readers' to find out. */
function made({ width, height, bits, channels, filter, part = 1 << 20, more = [] }: Made): Uint8Array {
  const stride = (width * channels * bits) / 8;
  const next = random(width * 100 + height);
  const rows = Uint8Array.from({ length: height * (stride + 1) }, (_, i) =>
    i % (stride + 1) === 0 ? filter(i / (stride + 1)) : Math.floor(next() * 256),
  );
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([bits, TYPES[channels], 0, 0, 0], 8);
  const packed = deflateSync(rows);
  const data = Array.from({ length: Math.ceil(packed.length / part) }, (_, i) => chunk('IDAT', packed.subarray(i * part, (i + 1) * part)));
  const signature = Buffer.from([137, 80, 78, 71, 13, 10, 26, 10]);
  return new Uint8Array(Buffer.concat([signature, chunk('IHDR', head), ...more, ...data, chunk('IEND', Buffer.alloc(0))]));
}

const KINDS = ([8, 16] as const).flatMap((bits) => ([1, 2, 3, 4] as const).map((channels) => [bits, channels] as const));

describe('a plain PNG', () => {
  test.each(KINDS)('%i bits, %i channels: each filter, in the first row and below, as another reader has it', (bits, channels) => {
    const before = k.used;
    for (let first = 0; first < 5; first++) {
      for (const width of [1, 5, 37]) {
        const bytes = made({ width, height: 11, bits, channels, filter: (row) => (row + first) % 5 });
        const read = readPng(bytes, 'a.png', k);
        expect(read).toMatchObject({ width, height: 11, bits, channels });
        expect([...read.data]).toEqual([...decode(bytes).data]);
      }
    }
    expect(k.used).toBe(before);
  });

  test('its data may lie in many chunks, with others between its header and them', () => {
    const text = chunk('tEXt', Buffer.from('Comment\0the lamp of the light', 'latin1'));
    const about = { width: 40, height: 30, bits: 8, channels: 3, filter: (row: number) => row % 5 } as const;
    expect(readPng(made({ ...about, part: 7, more: [text] }), 'a.png', k).data).toEqual(readPng(made(about), 'a.png', k).data);
  });

  test('one colour that stands for nothing is read by the reader of all kinds', () => {
    const key = chunk('tRNS', Buffer.alloc(6));
    const bytes = made({ width: 4, height: 4, bits: 8, channels: 3, filter: () => 0, more: [key] });
    expect([...readPng(bytes, 'a.png', k).data]).toEqual([...decode(bytes).data]);
  });

  test('cut anywhere, or with a byte changed, it is refused in words, and no memory stays taken', () => {
    const bytes = made({ width: 20, height: 9, bits: 8, channels: 4, filter: (row) => row % 5 });
    const before = k.used;
    for (let n = 33; n < bytes.length - 1; n += 3) {
      expect(() => readPng(bytes.subarray(0, n), 'cut.png', k)).toThrow('cut.png: the file is cut short or damaged');
      const bad = bytes.slice();
      bad[n]! ^= 16;
      expect(() => readPng(bad, 'bad.png', k)).toThrow(
        /bad\.png: (its data is damaged \(a checksum is wrong\)|the file is cut short or damaged)/,
      );
    }
    expect(k.used).toBe(before);
  });

  test('a filter that there is not, rows that are missing, and a size that nothing in it can fill are refused', () => {
    const about = { width: 8, height: 8, bits: 8, channels: 3 } as const;
    expect(() => readPng(made({ ...about, filter: (row) => (row === 5 ? 9 : 0) }), 'a.png', k)).toThrow('a.png: the file is cut short');
    const larger = (height: number): Uint8Array => {
      const bytes = made({ ...about, filter: () => 1 });
      const view = new DataView(bytes.buffer);
      view.setUint32(20, height);
      view.setUint32(29, crc32(bytes.subarray(12, 29)));
      return bytes;
    };
    expect(() => readPng(larger(9), 'a.png', k)).toThrow('a.png: the file is cut short');
    expect(() => readPng(larger(2_000_000), 'a.png', k)).toThrow('a.png: the file is cut short');
    expect(() => inspectPng(larger(2_000_000_000), 'a.png')).toThrow('too large to open');
  });
});
