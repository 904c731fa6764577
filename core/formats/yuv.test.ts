import { rect } from '../geometry/rect';
import { SPACES } from '../colour/spaces';
import { rgbFromYuv, yuvFromTile } from './yuv';
import type { YuvPicture } from './yuv';

const flat = (y: number, u: number, v: number, more: Partial<YuvPicture> = {}): YuvPicture => {
  const { bits = 8, subsampling = [2, 2] } = more;
  const make = (n: number, value: number): Uint8Array | Uint16Array => (bits === 8 ? new Uint8Array(n) : new Uint16Array(n)).fill(value);
  const c = (8 / subsampling[0]) * (4 / subsampling[1]);
  return {
    width: 8,
    height: 4,
    bits,
    subsampling,
    matrix: 'Rec.709',
    fullRange: false,
    planes: [make(32, y), make(c, u), make(c, v)],
    ...more,
  };
};
const pixel = (p: YuvPicture, i = 9): number[] => [...rgbFromYuv(p).data.subarray(3 * i, 3 * i + 3)].map((v) => v / 65535);

describe('luma and colour differences to RGB', () => {
  test('16 is black, 235 is white, 126 is the middle, whatever is beyond is cut', () => {
    expect(pixel(flat(16, 128, 128))).toEqual([0, 0, 0]);
    expect(pixel(flat(235, 128, 128))).toEqual([1, 1, 1]);
    expect(pixel(flat(255, 128, 128))).toEqual([1, 1, 1]);
    pixel(flat(126, 128, 128)).forEach((v) => expect(v).toBeCloseTo(110 / 219, 4));
    pixel(flat(128, 128, 128, { fullRange: true })).forEach((v) => expect(v).toBeCloseTo(128 / 255, 4));
  });

  test.each([
    // 100 % bars in 8 bit codes, worked out from the standards' weights.
    ['Rec.709', [63, 102, 240], [1, 0, 0]],
    ['Rec.709', [173, 42, 26], [0, 1, 0]],
    ['Rec.709', [32, 240, 118], [0, 0, 1]],
    ['Rec.601', [81, 90, 240], [1, 0, 0]],
    ['Rec.601', [145, 54, 34], [0, 1, 0]],
    ['Rec.2020', [74, 97, 240], [1, 0, 0]],
  ] as const)('%s codes %j are the bar %j', (matrix, [y, u, v], rgb) => {
    pixel(flat(y, u, v, { matrix })).forEach((c, i) => expect(Math.abs(c - rgb[i]!)).toBeLessThan(0.012));
  });

  test('ten bits say the same in steps four times as fine', () => {
    const eight = pixel(flat(100, 140, 90));
    pixel(flat(400, 560, 360, { bits: 10 })).forEach((v, i) => expect(v).toBeCloseTo(eight[i]!, 4));
  });

  test('chroma stands on even columns and runs evenly between them', () => {
    const p = flat(126, 128, 128, { subsampling: [2, 1] });
    const v = new Uint8Array(16).fill(128);
    v[1] = 168;
    const row = rgbFromYuv({ ...p, planes: [p.planes[0], p.planes[1], v] });
    const red = [0, 1, 2, 3, 4].map((x) => row.data[3 * x]! / 65535 - 110 / 219);
    expect(red[0]).toBeCloseTo(0, 4);
    expect(red[1]! / red[2]!).toBeCloseTo(0.5, 3);
    expect(red[3]! / red[2]!).toBeCloseTo(0.5, 3);
    expect(red[4]).toBeCloseTo(0, 4);
  });

  test('there and back is within two codes of 8 bit for smooth colour, but for the outermost pixels', () => {
    const { encode, decode } = SPACES['Rec.709'].transfer;
    const [w, h] = [32, 16];
    const planes = Object.fromEntries(
      (['R', 'G', 'B'] as const).map((c, k) => [
        c,
        Float32Array.from({ length: w * h }, (_, i) => decode(0.15 + 0.02 * (i % w) + 0.008 * k * Math.floor(i / w))),
      ]),
    ) as Record<string, never>;
    const bytes = yuvFromTile({ region: rect(0, 0, w, h), planes }, encode);
    expect(bytes.length).toBe(w * h * 1.5);
    const back = rgbFromYuv({
      width: w,
      height: h,
      bits: 8,
      subsampling: [2, 2],
      matrix: 'Rec.709',
      fullRange: false,
      planes: [bytes.subarray(0, 512), bytes.subarray(512, 640), bytes.subarray(640)],
    });
    for (let i = 0; i < w * h; i++) {
      const inner = i % w > 0 && i % w < w - 1 && i >= w && i < w * (h - 1);
      (['R', 'G', 'B'] as const).forEach((c, k) => {
        expect(Math.abs(back.data[3 * i + k]! / 65535 - encode(planes[c]![i]!))).toBeLessThan((inner ? 2 : 3) / 255);
      });
    }
  });
});
