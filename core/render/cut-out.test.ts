import { cutOut } from './cut-out';
import type { Mesh } from './mesh';
import { Texture } from './texture';

const picture = (w: number, h: number, alpha: (x: number, y: number) => number): Texture =>
  new Texture(
    w,
    h,
    Float32Array.from({ length: 4 * w * h }, (_, i) => {
      const p = Math.floor(i / 4);
      return alpha((p % w) + 0.5, Math.floor(p / w) + 0.5);
    }),
    false,
    true,
  );
/** The area of triangles that lie in one plane, with the sign of how they wind as seen from +z. */
function areaOf({ positions: p, indices }: Mesh): number {
  let sum = 0;
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [3 * indices[t]!, 3 * indices[t + 1]!, 3 * indices[t + 2]!];
    sum += ((p[b]! - p[a]!) * (p[c + 1]! - p[a + 1]!) - (p[c]! - p[a]!) * (p[b + 1]! - p[a + 1]!)) / 2;
  }
  return sum;
}

describe('the outline of a card’s picture', () => {
  test('of a disc has the disc’s area, and winds as the card does', () => {
    const disc = picture(256, 128, (x, y) => Math.min(1, Math.max(0, 40.5 - Math.hypot(x - 128, y - 64))));
    const mesh = cutOut(disc, 2, 0, undefined)!;
    // A pixel is 1/128 of the card's height.
    expect(areaOf(mesh) / (Math.PI * (40 / 128) ** 2)).toBeCloseTo(1, 2);
    for (let i = 0; i < mesh.positions.length; i += 3) {
      expect(Math.hypot(mesh.positions[i]!, mesh.positions[i + 1]!)).toBeLessThan(41 / 128);
      expect(mesh.positions[i + 2]).toBe(0);
    }
  });

  test('of a picture that covers all of it is the card itself; of one that covers nothing there is none', () => {
    const even = (v: number) =>
      cutOut(
        picture(64, 64, () => v),
        1,
        0,
        undefined,
      );
    expect(even(1)).toBeUndefined();
    expect(even(0.4)).toBeNull();
    // A hole is cut out of it, however small the rest of its edge differs from the card's.
    const holed = picture(64, 64, (x, y) => (Math.hypot(x - 32, y - 32) < 16 ? 0 : 1));
    expect(Math.abs(areaOf(cutOut(holed, 1, 0, undefined)!) - (1 - Math.PI / 16))).toBeLessThan(0.02);
  });

  test('follows a card that is bent', () => {
    const band = picture(64, 64, (_, y) => (y > 16 && y < 48 ? 1 : 0));
    const mesh = cutOut(band, 1, 90, undefined)!;
    const radius = 1 / (Math.PI / 2);
    for (let i = 0; i < mesh.positions.length; i += 3) {
      const [x, y, z] = [mesh.positions[i]!, mesh.positions[i + 1]!, mesh.positions[i + 2]!];
      // On the arc, but for the sagitta of a cell's side.
      expect(Math.hypot(x, radius - z)).toBeCloseTo(radius, 3);
      expect(Math.abs(y)).toBeLessThan(0.27);
    }
  });
});
