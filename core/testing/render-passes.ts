import { floatOfId, idOfName } from '../formats/cryptomatte';
import type { Filling } from './evaluate';

/** Passes of a ball before a wall, of a size, as a render has them; for steps that live on data. `wrong` puts holes, NaN and infinity in them. */
export function renderPasses(width: number, height: number, wrong = false): Filling {
  const focal = width;
  const ball = (x: number, y: number): boolean => Math.hypot(x - 0.45 * width, y - 0.5 * height) < 0.25 * width;
  const odd = (x: number, y: number, v: number): number => {
    const k = wrong ? (x * 31 + y * 17) % 23 : -1;
    return k === 0 ? NaN : k === 1 ? Infinity : k === 2 ? -Infinity : k === 3 ? 0 : k === 4 ? -v : v;
  };
  const distance = (x: number, y: number): number => (ball(x, y) ? 4 : 8 + x / width);
  const data = (of: (x: number, y: number) => number) => (x: number, y: number) => odd(x, y, of(x, y));
  const [a, b] = [floatOfId(idOfName('ball')), floatOfId(idOfName('wall'))];
  const colour = (name: string, of: (x: number, y: number) => number): Filling => ({
    [`${name}.R`]: of,
    [`${name}.G`]: 0.2,
    [`${name}.B`]: 0.1,
  });
  return {
    Z: data(distance),
    'P.X': data((x, y) => ((x + 0.5 - width / 2) / focal) * distance(x, y)),
    'P.Y': data((x, y) => ((height / 2 - y - 0.5) / focal) * distance(x, y)),
    'P.Z': data((x, y) => -distance(x, y)),
    'N.X': data((x, y) => (ball(x, y) ? 0.3 : 0)),
    'N.Y': data(() => 0.2),
    'N.Z': data((x, y) => (ball(x, y) ? 0.93 : 1)),
    'motion.X': data((x, y) => (ball(x, y) ? 6 : 0)),
    'motion.Y': data((x, y) => (ball(x, y) ? -3 : 0)),
    'uv.U': data((x) => x / width),
    'uv.V': data((_, y) => 1 - y / height),
    'CryptoObject00.R': (x, y) => (ball(x, y) ? a : b),
    'CryptoObject00.G': 1,
    'CryptoObject00.B': 0,
    'CryptoObject00.A': 0,
    ...colour('diffuse', (x) => 0.1 + x / (4 * width)),
    ...colour('light_key', (_, y) => 0.1 + y / (4 * height)),
    ...colour('albedo', () => 0.4),
  };
}
