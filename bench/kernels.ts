import type { Kernels, Plane } from '@/kernels';
import { ms, table, timeOf, times } from './timing';

const WIDTH = 1920;
const HEIGHT = 1080;
const N = WIDTH * HEIGHT;
const STRIP = 16384;

interface Row {
  name: string;
  /** Planes read and written. */
  touches: number;
  run(p: readonly Plane[]): void;
  naive?(p: readonly Plane[]): void;
}

/** Every per-pixel kernel on HD planes, one core, against copying as many bytes as it touches and against a plain loop. */
export function benchKernels(kernels: Kernels): string {
  const planes = Array.from({ length: 12 }, (_, k) => {
    const plane = kernels.take(N);
    for (let i = 0; i < N; i++) plane[i] = ((i * 7919 + k * 104729) % 1000) / 1000;
    return plane;
  });
  const [alpha, other] = [planes[3]!, planes[7]!];
  const copy = timeOf(() => {
    for (let k = 0; k < 4; k++) planes[8 + k]!.set(planes[k]!);
  });
  const perTouch = copy / 8;
  const { fn } = kernels;
  const at = (p: Plane): number => p.byteOffset;
  const each = (count: number, run: (i: number) => void): void => {
    for (let i = 0; i < count; i++) run(i);
  };
  const codes = kernels.bytes(N * 4);
  for (let i = 0; i < codes.length; i++) codes[i] = (i * 31) & 255;
  const curve = kernels.zeros(65536);
  const halves = kernels.bytes(N * 2);
  fn.floatToHalf(at(planes[0]!), halves.byteOffset, N);
  const loop = (f: (a: number, b: number, c: number) => number) => (p: readonly Plane[]) => {
    for (let k = 0; k < 3; k++) {
      const [a, b, o] = [p[k]!, p[4 + k]!, p[8 + k]!];
      for (let i = 0; i < N; i++) o[i] = f(a[i]!, b[i]!, alpha[i]!);
    }
  };
  const rows: Row[] = [
    {
      name: 'gain and offset (RGB)',
      touches: 6,
      run: (p) => each(3, (k) => fn.affine(at(p[k]!), at(p[8 + k]!), N, 1.1, 0.01)),
      naive: loop((a) => a * 1.1 + 0.01),
    },
    {
      name: 'clamp (RGB)',
      touches: 6,
      run: (p) => each(3, (k) => fn.clampPlane(at(p[k]!), at(p[8 + k]!), N, 0.1, 0.9)),
      naive: loop((a) => Math.min(0.9, Math.max(0.1, a))),
    },
    {
      name: 'power (RGB)',
      touches: 6,
      run: (p) => each(3, (k) => fn.powerPlane(at(p[k]!), at(p[8 + k]!), N, 0.8, 1)),
      naive: loop((a) => a ** 0.8),
    },
    {
      name: 'saturation (RGB)',
      touches: 6,
      run: (p) => fn.saturate(at(p[8]!), at(p[9]!), at(p[10]!), N, 0.9999),
    },
    {
      name: 'premultiply (RGB by A)',
      touches: 9,
      run: (p) => each(3, (k) => fn.multiply(at(p[k]!), at(alpha), at(p[8 + k]!), N)),
      naive: loop((a, _, c) => a * c),
    },
    {
      name: 'unpremultiply (RGB by A)',
      touches: 9,
      run: (p) => each(3, (k) => fn.unpremultiply(at(p[k]!), at(alpha), at(p[8 + k]!), N)),
      naive: loop((a, _, c) => (c > 0 ? a / c : a)),
    },
    {
      name: 'mix by a mask (RGB)',
      touches: 12,
      run: (p) => each(3, (k) => fn.mixMasked(at(p[k]!), at(p[4 + k]!), at(alpha), at(p[8 + k]!), N, 0.7)),
      naive: loop((a, b, c) => a + 0.7 * c * (b - a)),
    },
    {
      name: 'over (RGBA on RGBA)',
      touches: 12,
      // By strips, as the evaluator works: the alphas then come from the cache.
      run: (p) => {
        for (let from = 0; from < N; from += STRIP) {
          const n = Math.min(STRIP, N - from);
          for (let k = 0; k < 4; k++) {
            fn.porterDuff(
              at(p[k]!) + 4 * from,
              at(p[4 + k]!) + 4 * from,
              at(alpha) + 4 * from,
              at(other) + 4 * from,
              at(p[8 + k]!) + 4 * from,
              n,
              1,
              0,
              1,
              -1,
            );
          }
        }
      },
      naive: (p) => {
        for (let k = 0; k < 4; k++) {
          const [f, b, o] = [p[k]!, p[4 + k]!, p[8 + k]!];
          for (let i = 0; i < N; i++) o[i] = f[i]! + b[i]! * (1 - alpha[i]!);
        }
      },
    },
    {
      name: 'overlay, where both cover (RGB)',
      touches: 15,
      run: (p) => each(3, (k) => fn.blendAlpha(7, at(p[k]!), at(p[4 + k]!), at(alpha), at(other), at(p[8 + k]!), N)),
    },
    {
      name: 'matrix of colours (RGB)',
      touches: 6,
      run: (p) => fn.matrix3(at(p[0]!), at(p[1]!), at(p[2]!), at(p[8]!), at(p[9]!), at(p[10]!), N, 0.9, 0.1, 0, 0, 1, 0, 0.1, 0, 0.9),
    },
    {
      name: 'colour-difference key (RGB, plate; matte, measured matte)',
      touches: 8,
      run: (p) =>
        fn.colourDifference(
          at(p[0]!),
          at(p[1]!),
          at(p[2]!),
          at(p[4]!),
          at(p[5]!),
          at(p[6]!),
          at(p[8]!),
          at(p[9]!),
          N,
          0.5,
          0.05,
          0.9,
          0.2,
          0.2,
          1,
          -Infinity,
          0,
        ),
    },
    {
      name: 'screen subtraction (one channel)',
      touches: 5,
      run: (p) => fn.subtractScreen(at(p[0]!), at(p[1]!), at(p[2]!), at(p[4]!), at(p[8]!), N, 0.02),
    },
    { name: 'spill amount (RGB)', touches: 4, run: (p) => fn.spillAmount(at(p[0]!), at(p[1]!), at(p[2]!), at(p[8]!), N, 1, 0.5, 1) },
    { name: 'half to float', touches: 1.5, run: (p) => fn.halfToFloat(halves.byteOffset, at(p[8]!), N) },
    { name: 'float to half', touches: 1.5, run: (p) => fn.floatToHalf(at(p[0]!), halves.byteOffset, N) },
    {
      name: '8-bit RGBA to three planes by table',
      touches: 4,
      run: (p) => each(3, (k) => fn.lookup8(codes.byteOffset + k, at(p[8 + k]!), N, 4, at(curve))),
    },
    { name: 'four planes to RGBA', touches: 8, run: (p) => fn.interleave4(at(p[0]!), at(p[1]!), at(p[2]!), at(alpha), at(p[4]!), N / 4) },
    { name: 'statistics: least, most, sum', touches: 1, run: (p) => fn.statistics(at(p[0]!), N, at(curve)) },
  ];
  const text = table(
    ['kernel', 'ms', 'against memcpy', 'plain loop against kernel'],
    rows.map((r) => {
      // The rows that quarter their pixels touch a quarter of the bytes.
      const share = r.name === 'four planes to RGBA' ? 0.25 : 1;
      const t = timeOf(() => r.run(planes));
      const ratio = t / (perTouch * r.touches * share);
      const naive = r.naive ? timeOf(() => r.naive!(planes), 200, 3) : NaN;
      return [r.name, ms(t), times(ratio), Number.isNaN(naive) ? '' : times(naive / t)];
    }),
  );
  [...planes, curve].forEach((p) => kernels.give(p));
  [codes, halves].forEach((p) => kernels.give(p));
  return `memcpy of four HD float planes: ${ms(copy)} ms. A kernel is compared with copying as many bytes as it reads and writes.\n\n${text}`;
}
