import { REC709_PRIMARIES, apply3, invert3, toXyz } from './primaries';
import { LUMA } from './transfer';

/** The chromaticity of a black body, 1667 K to 25000 K (Kim et al. 2002). */
function planckian(kelvin: number): [number, number] {
  const t = 1000 / Math.min(25000, Math.max(1667, kelvin));
  const x =
    kelvin <= 4000
      ? -0.2661239 * t ** 3 - 0.234358 * t ** 2 + 0.8776956 * t + 0.17991
      : -3.0258469 * t ** 3 + 2.1070379 * t ** 2 + 0.2226347 * t + 0.24039;
  const y =
    kelvin <= 2222
      ? -1.1063814 * x ** 3 - 1.3481102 * x ** 2 + 2.18555832 * x - 0.20219683
      : kelvin <= 4000
        ? -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867
        : 3.081758 * x ** 3 - 5.8733867 * x ** 2 + 3.75112997 * x - 0.37001483;
  return [x, y];
}

function light(kelvin: number): [number, number, number] {
  const [x, y] = planckian(kelvin);
  const rgb = apply3(invert3(toXyz(REC709_PRIMARIES)), [x / y, 1, (1 - x - y) / y]);
  return rgb.map((v) => Math.max(0, v)) as [number, number, number];
}

/** What re-colours light of one temperature in K to another, as factors of R, G, B (Rec.709) that keep the luminance of a white. */
export function temperatureFactors(from: number, to: number): [number, number, number] {
  if (from === to) return [1, 1, 1];
  const [a, b] = [light(from), light(to)];
  const factors = b.map((v, i) => v / Math.max(1e-4, a[i]!)) as [number, number, number];
  const luma = factors.reduce((s, v, i) => s + v * LUMA[i]!, 0);
  return factors.map((v) => v / luma) as [number, number, number];
}
