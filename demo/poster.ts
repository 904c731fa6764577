import { writePng } from '@/core/formats';
import { SRGB } from '@/core/colour';
import { fractal } from './noise';

/** Letters of five by seven, a row a number, the left column its highest bit. */
const LETTERS: Readonly<Record<string, readonly number[]>> = {
  S: [15, 16, 16, 14, 1, 1, 30],
  L: [16, 16, 16, 16, 16, 16, 31],
  I: [14, 4, 4, 4, 4, 4, 14],
  P: [30, 17, 17, 30, 16, 16, 16],
  '4': [2, 6, 10, 18, 31, 2, 2],
};
const [W, H] = [320, 400];
/** Looks across a pixel, so that edges are smooth. */
const LOOKS = 3;

/** Whether a letter covers a place, in cells from its left upper corner. */
const inked = (letter: string, x: number, y: number): boolean => {
  const row = LETTERS[letter]?.[Math.floor(y)];
  return row !== undefined && x >= 0 && x < 5 && ((row >> (4 - Math.floor(x))) & 1) === 1;
};

/** The painted sign of slip 4, worn; as a PNG with alpha. */
export function posterFile(): Uint8Array {
  const data = new Uint8Array(4 * W * H);
  for (let j = 0; j < H; j++) {
    for (let i = 0; i < W; i++) {
      let [ink, band] = [0, 0];
      for (let k = 0; k < LOOKS * LOOKS; k++) {
        const [x, y] = [i + ((k % LOOKS) + 0.5) / LOOKS, j + (Math.floor(k / LOOKS) + 0.5) / LOOKS];
        const [word, at] = [(x - 34) / 11, (y - 34) / 11];
        const letter = 'SLIP'[Math.floor(word / 6)] ?? '';
        if (inked(letter, word % 6, at) || inked('4', (x - 85) / 30, (y - 145) / 26)) ink++;
        if (y > 352 && (((x + y) / 22) & 1) === 0) band++;
      }
      const k = LOOKS * LOOKS;
      const wear = 0.86 + 0.28 * (fractal(i / 21, j / 21, 611) - 0.5);
      const light = [0.62, 0.56, 0.42].map((paper, c) => {
        const dark = [0.05, 0.09, 0.13][c]!;
        const stripe = [0.62, 0.2, 0.05][c]!;
        const base = paper + (band / k) * (stripe - paper);
        return wear * (base + (ink / k) * (dark - base));
      });
      // Paint that has come off leaves the planks bare.
      const off = Math.min(1, Math.max(0, 7 * (fractal(i / 13, j / 13, 612) - 0.66)));
      const rim = Math.min(1, Math.min(i, j, W - 1 - i, H - 1 - j) / 2);
      data.set([...light.map((v) => Math.round(255 * SRGB.encode(v))), Math.round(255 * (1 - off) * rim)], 4 * (j * W + i));
    }
  }
  return writePng({ width: W, height: H, bits: 8, channels: 4, data });
}
