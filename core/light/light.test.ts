import { nodeKernels } from '@/engine/node/host';
import type { Kernels, Plane } from '@/kernels';
import { addTo, brightParts, stops } from './bright';
import { fft, powerSpectrum } from './fft';
import { WAVES, ghostsAt } from './ghosts';
import { patternAt, starburst } from './starburst';

let kernels: Kernels;
beforeAll(async () => {
  kernels = await nodeKernels();
});

describe('the light above a threshold', () => {
  const parts = (colours: readonly (readonly [number, number, number])[], threshold: number): number[][] => {
    const from = [0, 1, 2].map((c) => Float32Array.from(colours, (v) => v[c]!)) as unknown as [Plane, Plane, Plane];
    const to = [0, 1, 2].map(() => new Float32Array(colours.length)) as unknown as [Plane, Plane, Plane];
    brightParts(from, to, threshold);
    return colours.map((_, i) => to.map((p) => Number(p[i]!.toPrecision(6))));
  };

  test('keeps its colour, and nothing is left below', () => {
    expect(
      parts(
        [
          [4, 2, 1],
          [0.2, 0.1, 0],
          [0, 0, 0],
        ],
        1,
      ),
    ).toEqual([
      [3, 1.5, 0.75],
      [0, 0, 0],
      [0, 0, 0],
    ]);
  });

  test('sets in softly about the threshold: the quarter of the knee at it', () => {
    // Knee 0.5: at the threshold (0 + 0.5)² / 2.
    expect(parts([[1, 1, 1]], 1)[0]).toEqual([0.125, 0.125, 0.125]);
    const steps = Array.from({ length: 40 }, (_, i) => parts([[i * 0.05, 0, 0]], 1)[0]![0]!);
    steps.slice(1).forEach((v, i) => expect(v).toBeGreaterThanOrEqual(steps[i]!));
  });

  test('a channel below nothing glows as nothing', () => {
    expect(parts([[3, -1, 0]], 1)).toEqual([[2, 0, 0]]);
  });

  test('stops are powers of two, and one plane is added to another by a share', () => {
    expect([stops(0), stops(3), stops(-1)]).toEqual([1, 8, 0.5]);
    const [a, b] = [kernels.zeros(8).fill(1), kernels.zeros(8).fill(0.5)] as [Plane, Plane];
    addTo(kernels, a, b, 3);
    expect([...a]).toEqual(new Array<number>(8).fill(2.5));
    [a, b].forEach((p) => kernels.give(p));
  });
});

describe('the transform into frequencies', () => {
  const n = 64;
  test('of a wave is one line, of a point all alike, and its energy stays (Parseval)', () => {
    const wave = Float64Array.from({ length: n }, (_, i) => Math.cos((2 * Math.PI * 5 * i) / n));
    const im = new Float64Array(n);
    fft(wave, im);
    const size = wave.map((v, i) => Math.hypot(v, im[i]!));
    expect(size[5]).toBeCloseTo(n / 2, 9);
    expect(size[n - 5]).toBeCloseTo(n / 2, 9);
    size.forEach((v, i) => i !== 5 && i !== n - 5 && expect(v).toBeLessThan(1e-9));

    const point = new Float64Array(n);
    point[3] = 2;
    const other = new Float64Array(n);
    fft(point, other);
    point.forEach((v, i) => expect(Math.hypot(v, other[i]!)).toBeCloseTo(2, 9));
  });

  test('is what the sum of its definition says', () => {
    const re = Float64Array.from({ length: 16 }, (_, i) => Math.sin(i * i));
    const direct = [0, 3, 9].map((k) => {
      let [a, b] = [0, 0];
      re.forEach((v, i) => {
        a += v * Math.cos((-2 * Math.PI * k * i) / 16);
        b += v * Math.sin((-2 * Math.PI * k * i) / 16);
      });
      return [a, b] as const;
    });
    const im = new Float64Array(16);
    fft(re, im);
    [0, 3, 9].forEach((k, i) => {
      expect(re[k]).toBeCloseTo(direct[i]![0], 9);
      expect(im[k]).toBeCloseTo(direct[i]![1], 9);
    });
  });

  test('of a square has nothing else but its mean in the middle, where it is even', () => {
    const power = powerSpectrum(new Float64Array(16 * 16).fill(0.5), 16);
    expect(power[8 * 16 + 8]).toBeCloseTo((0.5 * 256) ** 2, 6);
    expect(power.reduce((s, v) => s + v, 0)).toBeCloseTo(power[8 * 16 + 8]!, 6);
  });
});

describe('a point of light through an aperture', () => {
  const aperture = (blades: number) =>
    ({ blades, roundness: 0, turn: 0, squeeze: 1, rim: 0 }) as unknown as Parameters<typeof starburst>[0];

  test('is brightest in its middle, the same to both sides, and nothing beyond', () => {
    const star = starburst(aperture(6));
    const mid = star.side / 2;
    expect(star.pattern[mid * star.side + mid]).toBe(1);
    expect(Math.max(...star.pattern)).toBe(1);
    expect(patternAt(star, 0, 0)).toBe(1);
    for (const [x, y] of [
      [12, 5],
      [30, -9],
      [3, 40],
    ] as const)
      expect(patternAt(star, x, y) / patternAt(star, -x, -y)).toBeCloseTo(1, 2);
    expect(patternAt(star, 200, 0)).toBe(0);
    expect(starburst(aperture(6)).pattern).toBe(star.pattern);
  });

  test('has as many rays as blades where those are even, and twice as many where they are odd', () => {
    const rays = (blades: number): number => {
      const star = starburst(aperture(blades));
      const around = Array.from({ length: 720 }, (_, i) => {
        const a = (Math.PI * i) / 360;
        let sum = 0;
        for (let r = 50; r < 110; r++) sum += patternAt(star, r * Math.cos(a), r * Math.sin(a));
        return sum;
      });
      const most = Math.max(...around);
      let count = 0;
      for (let i = 0; i < 720; i++) {
        const near = Array.from({ length: 21 }, (_, k) => around[(i + k - 10 + 720) % 720]!);
        if (around[i]! > 0.2 * most && around[i] === Math.max(...near) && around[i]! > around[(i + 719) % 720]!) count++;
      }
      return count;
    };
    expect([rays(6), rays(8), rays(5)]).toEqual([6, 8, 10]);
  });
});

describe('ghosts of a lens', () => {
  const all = WAVES.map(ghostsAt);

  test('there is one of each two of its nine surfaces, at every wavelength', () => {
    all.forEach((ghosts) => expect(ghosts).toHaveLength((9 * 8) / 2));
  });

  test('each is a weak image of the stop: of light that was thrown back twice', () => {
    for (const { radius, strength, place } of all.flat()) {
      expect(radius).toBeGreaterThan(0);
      expect(Number.isFinite(place)).toBe(true);
      expect(strength).toBeGreaterThan(0);
      expect(strength).toBeLessThan(0.05);
    }
  });

  test('glass bends blue more than red: a ghost is not in one place for all colours, yet near', () => {
    const apart = all[0]!.map((g, i) => Math.abs(g.place - all[2]![i]!.place));
    expect(Math.max(...apart)).toBeGreaterThan(1e-3);
    all[0]!.forEach((g, i) => expect(apart[i]!).toBeLessThan(0.25 * (1 + Math.abs(g.place))));
  });
});
