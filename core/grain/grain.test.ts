import { nodeKernels } from '@/engine/node/host';
import { ShotError } from '../errors';
import { rect } from '../geometry/rect';
import type { TestPicture } from '../testing/evaluate';
import { evaluate, flat } from '../testing/evaluate';
import { measureGrain } from './measure';
import type { ChannelGrain } from './model';
import { evenGrain, grainOf, shareAt, sigmaAt, sizeOf } from './model';
import { grainField } from './synthesis';

/** A grain of a plate: signal-dependent, about 2 px large, with a part that all channels share. */
const GRAIN: ChannelGrain[] = [0, 1, 2].map((c) => {
  const quarter = Array.from({ length: 16 }, (_, i) => Math.exp(-((i % 4) ** 2 + Math.floor(i / 4) ** 2) / (2 * 0.8 ** 2)));
  const energy = quarter.reduce((s, v, i) => s + v * v * (i % 4 ? 2 : 1) * (i >= 4 ? 2 : 1), 0);
  return {
    variance: [0.00002, 0.0008 * (1 + c / 2), 0],
    kernel: quarter.map((v) => v / Math.sqrt(energy)),
    mix: [
      [1, 0, 0],
      [0.4, Math.sqrt(1 - 0.16), 0],
      [0.3, 0.2, Math.sqrt(1 - 0.13)],
    ][c]!,
  };
});

const [W, H] = [320, 256];
/** Even light from dark to bright, in wide steps. */
const steps: TestPicture = {
  width: W,
  height: H,
  fill: { R: (x) => 0.05 + 0.1 * (x >> 6), G: (x) => 0.05 + 0.08 * (x >> 6), B: (x) => 0.4 - 0.09 * (x >> 6), A: 1 },
};
const grained = (model: readonly ChannelGrain[] = GRAIN, frame = 1) =>
  evaluate({ main: steps }, [{ type: 'grain', params: { measured: model as never } }], { frame });
const lookAt = ({ planes }: { planes: Record<string, Float32Array> }) => ({ planes: ['R', 'G', 'B'].map((c) => planes[c]!), w: W, h: H });

describe('grain', () => {
  test('what is made is measured again: strength by light, size, and what channels share', async () => {
    const looks = [];
    for (const f of [1, 2, 3]) looks.push(lookAt(await grained(GRAIN, f)));
    const made = measureGrain(looks);
    for (let c = 0; c < 3; c++) {
      for (const v of [0.1, 0.2, 0.35]) expect(Math.abs(sigmaAt(made[c]!, v) / sigmaAt(GRAIN[c]!, v) - 1)).toBeLessThan(0.06);
      expect(Math.abs(sizeOf(made[c]!) / sizeOf(GRAIN[c]!) - 1)).toBeLessThan(0.1);
      made[c]!.mix.forEach((m, k) => expect(Math.abs(m - GRAIN[c]!.mix[k]!)).toBeLessThan(0.06));
    }
  });

  test('the mean light stays, frames differ, one frame is the same each time, and a part of it is that of the whole', async () => {
    const [a, b, again] = [await grained(GRAIN, 4), await grained(GRAIN, 5), await grained(GRAIN, 4)];
    const mean = (p: Float32Array): number => p.reduce((s, v) => s + v, 0) / p.length;
    expect(mean(a.planes.B!)).toBeCloseTo(0.22, 3);
    expect(a.planes.R).toEqual(again.planes.R);
    expect(a.planes.R).not.toEqual(b.planes.R);
    const part = await evaluate({ main: steps }, [{ type: 'grain', params: { measured: GRAIN as never } }], {
      frame: 4,
      region: rect(33, 17, 90, 61),
    });
    expect(part.at('G', 50, 40)).toBeCloseTo(a.at('G', 50, 40), 6);
  });

  test('a transparent place gets none, and half coverage half of it', async () => {
    const half: TestPicture = { width: 128, height: 96, fill: { R: (x) => (x < 64 ? 0 : 0.1), G: 0, B: 0, A: (x) => (x < 64 ? 0 : 0.5) } };
    const out = await evaluate({ main: half }, [{ type: 'grain', params: { from: 'even', strength: 0.05 } }]);
    const deviation = (x0: number, x1: number): number => {
      let [sum, n] = [0, 0];
      for (let y = 0; y < 96; y++) for (let x = x0; x < x1; x++, n++) sum += (out.at('R', x, y) - (x < 64 ? 0 : 0.1)) ** 2;
      return Math.sqrt(sum / n);
    };
    expect(deviation(0, 64)).toBe(0);
    expect(deviation(64, 128)).toBeCloseTo(0.025, 3);
  });

  test('two samples of one spectrum: added grain against more of the same, by its bands', async () => {
    const kernels = await nodeKernels();
    const bands = (frame: number): number[] => {
      const fields = grainField(kernels, GRAIN, rect(0, 0, 256, 256), frame, 1, true);
      const [plane] = fields as [Float32Array];
      const at = [1, 2, 4].map((d) => {
        let sum = 0;
        for (let y = 0; y < 250; y++) for (let x = 0; x < 250; x++) sum += (plane[y * 256 + x]! - plane[y * 256 + x + d]!) ** 2;
        return sum / 62500;
      });
      fields.forEach((f) => kernels.give(f));
      return at;
    };
    const [a, b] = [bands(1), bands(77)];
    a.forEach((v, i) => expect(Math.abs(v / b[i]! - 1)).toBeLessThan(0.05));
    expect(a[2]).toBeCloseTo(2, 1);
  });

  test('a proxy shows what is left of it: white noise at half the size is half as strong', () => {
    const [white] = evenGrain(0.01);
    expect(shareAt(white!, 0.5)).toBeCloseTo(0.5, 6);
    expect(shareAt(GRAIN[0]!, 0.5)).toBeGreaterThan(0.8);
  });

  test('where nothing is large enough, or what is kept is damaged, it is said', () => {
    expect(() => measureGrain([{ planes: [0, 1, 2].map(() => new Float32Array(400)), w: 20, h: 20 }])).toThrow(ShotError);
    expect(() => grainOf([{ variance: [1, 2], kernel: [], mix: [] }])).toThrow('measure it again');
    expect(grainOf([])).toEqual([]);
  });
});

describe('denoise', () => {
  const truth = (x: number, y: number): number => (x > 90 === y > 60 ? 0.1 : 0.4) + (x > 150 ? 0.1 * Math.sin(x / 3) : 0);
  const clean: TestPicture = {
    width: 200,
    height: 120,
    fill: { R: truth, G: (x, y) => truth(x, y) * 0.8, B: (x, y) => truth(x, y) * 0.6, A: 1 },
  };
  const error = (p: Float32Array): number =>
    Math.sqrt(p.reduce((s, v, i) => s + (v - truth(i % 200, Math.floor(i / 200))) ** 2, 0) / p.length);

  test('noise goes by more than half, edges and texture stay', async () => {
    const model = evenGrain(0).map((g) => ({ ...g, variance: [0.0005, 0.005, 0] }));
    const grain = { type: 'grain', params: { measured: model as never } };
    const before = await evaluate({ main: clean }, [grain]);
    const after = await evaluate({ main: clean }, [grain, { type: 'denoise', params: { noise: 0.07 } }]);
    expect(error(after.planes.R!)).toBeLessThan(0.5 * error(before.planes.R!));
    // Across the edge at x = 90 the step is still whole within two pixels.
    const rows = [10, 20, 30, 40].map((y) => after.at('R', 94, y) - after.at('R', 87, y));
    expect(Math.abs(rows.reduce((s, v) => s + v, 0) / 4)).toBeGreaterThan(0.26);
  });

  test('frames around are seen straight, as the frame itself: an even half transparent picture stays', async () => {
    const out = await evaluate({ main: flat(40, 30, 0.15, 0.1, 0.05, 0.5) }, [{ type: 'denoise', params: { noise: 2, frames: 1 } }], {
      frame: 3,
    });
    expect(Math.max(...out.planes.R!.map((v) => Math.abs(v - 0.15)))).toBeLessThan(1e-5);
  });

  test('an even picture stays as it is', async () => {
    const out = await evaluate({ main: flat(40, 30, 0.3, 0.2, 0.1) }, [{ type: 'denoise' }]);
    expect(Math.max(...out.planes.R!.map((v) => Math.abs(v - 0.3)))).toBeLessThan(1e-6);
  });
});
