import type { Format, Tile } from '../picture';
import { width } from '../geometry/rect';
import type { Vec3 } from '../geometry/vec3';

/**
 * The light that falls on a surface out of a picture of all directions (twice as wide as high, its middle along −z, y up): nine spherical harmonics
 * of it (Ramamoorthi and Hanrahan 2001), divided by π so that a surface of albedo 1 under white has the light 1. `turn` in degrees about the vertical.
 */
export function environmentLight({ region, planes }: Tile, format: Format, turn: number): (normal: Vec3) => Vec3 {
  const coefficients = Array.from({ length: 9 }, () => [0, 0, 0] as [number, number, number]);
  const w = width(region);
  const n = planes.R!.length;
  // Nine numbers do not need every pixel.
  const step = Math.max(1, Math.floor(Math.sqrt(n / 20000)));
  let whole = 0;
  for (let y = region.y0; y < region.y1; y += step) {
    const latitude = (0.5 - (y + 0.5) / format.height) * Math.PI;
    for (let x = region.x0; x < region.x1; x += step) {
      const longitude = ((x + 0.5) / format.width - 0.5) * 2 * Math.PI + (turn * Math.PI) / 180;
      const d: Vec3 = [Math.cos(latitude) * Math.sin(longitude), Math.sin(latitude), -Math.cos(latitude) * Math.cos(longitude)];
      const share = Math.cos(latitude);
      whole += share;
      const i = (y - region.y0) * w + x - region.x0;
      basis(d).forEach((b, k) => {
        coefficients[k]![0] += planes.R![i]! * b * share;
        coefficients[k]![1] += planes.G![i]! * b * share;
        coefficients[k]![2] += planes.B![i]! * b * share;
      });
    }
  }
  const bands = [1, 2 / 3, 2 / 3, 2 / 3, 1 / 4, 1 / 4, 1 / 4, 1 / 4, 1 / 4];
  const scale = (4 * Math.PI) / Math.max(1e-9, whole);
  const scaled = coefficients.map((c, k) => c.map((v) => v * scale * bands[k]!) as [number, number, number]);
  return (normal) => {
    const b = basis(normal);
    return [0, 1, 2].map((c) =>
      Math.max(
        0,
        b.reduce((s, v, k) => s + v * scaled[k]![c]!, 0),
      ),
    ) as unknown as Vec3;
  };
}

/** Real spherical harmonics of the first three bands. */
const basis = ([x, y, z]: Vec3): number[] => [
  0.282095,
  0.488603 * y,
  0.488603 * z,
  0.488603 * x,
  1.092548 * x * y,
  1.092548 * y * z,
  0.315392 * (3 * z * z - 1),
  1.092548 * x * z,
  0.546274 * (x * x - y * y),
];
