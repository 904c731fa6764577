import { nodeKernels } from '@/engine/node/host';
import { random } from '../random';
import { rect } from '../geometry/rect';
import type { Figures } from './figures';
import { figuresOf, overFrames } from './figures';
import type { Look } from './look';
import { lookAround, lookAtElement } from './look';
import type { Now, Row } from './match';
import { differenceOf, matchOf } from './match';

const [W, H] = [240, 160];

/** A picture with flat places, edges both sharp and soft, and colour; light. */
function scene(change: (rgb: [number, number, number], x: number, y: number) => [number, number, number], sigma = 0.7): Look['planes'] {
  const patch = (x: number, y: number): [number, number, number] => {
    const k = ((Math.floor(x / 40) + 3) * 7 + (Math.floor(y / 40) + 3) * 11) % 9;
    const base = [0.03, 0.8, 0.12, 0.3, 0.5, 0.06, 0.2, 0.65, 0.4][k]!;
    return [base, base * (0.75 + 0.05 * k), base * (1.1 - 0.06 * k)];
  };
  // The integral of the Gaussian (Abramowitz & Stegun 7.1.26).
  const smooth = (t: number): number => {
    const x = Math.abs(t) / (sigma * Math.SQRT2);
    const k = 1 / (1 + 0.3275911 * x);
    const e = 1 - k * (0.254829592 + k * (-0.284496736 + k * (1.421413741 + k * (-1.453152027 + 1.061405429 * k)))) * Math.exp(-x * x);
    return 0.5 * (1 + Math.sign(t) * e);
  };
  const planes = [0, 1, 2].map(() => new Float32Array(W * H));
  for (let y = 0; y < H; y++) {
    for (let x = 0; x < W; x++) {
      const [fx, fy] = [((x + 20) % 40) - 20, ((y + 20) % 40) - 20];
      const [sx, sy] = [smooth(fx), smooth(fy)];
      const at = (dx: number, dy: number) => patch(x - fx + (dx ? 1 : -1), y - fy + (dy ? 1 : -1));
      const mixed = [0, 1, 2].map((c) => {
        const top = at(0, 0)[c]! * (1 - sx) + at(1, 0)[c]! * sx;
        const bottom = at(0, 1)[c]! * (1 - sx) + at(1, 1)[c]! * sx;
        return top * (1 - sy) + bottom * sy;
      }) as [number, number, number];
      change(mixed, x, y).forEach((v, c) => (planes[c]![y * W + x] = v));
    }
  }
  return planes as unknown as Look['planes'];
}

const same = (rgb: [number, number, number]): [number, number, number] => rgb;
const look = (planes: Look['planes']): Look => ({ planes, inside: new Uint8Array(W * H).fill(1), w: W, h: H });
const kernels = await nodeKernels();
const measured = (planes: Look['planes']): Figures => figuresOf(kernels, look(planes), 'it');
const noisy = (amount: number, seed: number) => {
  const next = random(seed);
  const gauss = (): number => Math.sqrt(-2 * Math.log(Math.max(1e-12, next()))) * Math.cos(6.2832 * next());
  return (rgb: [number, number, number]): [number, number, number] => rgb.map((v) => v + amount * gauss()) as [number, number, number];
};
const NOW: Now = { slope: [1, 1, 1], offset: [0, 0, 0], contrast: 1, pivot: 0.18, saturation: 1, blur: 0, grain: 0 };

describe('the match meter', () => {
  const plate = measured(scene(same));

  test('two pictures that are alike differ in nothing', () => {
    const other = measured(scene(noisy(0.002, 5)));
    for (const row of ['black', 'white', 'contrast', 'saturation', 'softness'] as Row[]) {
      const d = differenceOf(row, other, plate)!;
      expect(Math.abs(d.value)).toBeLessThan(row === 'contrast' ? 0.03 : 0.01);
    }
  });

  test('gain and lift of each channel are found within five parts of a hundred, whatever its softness and grain', () => {
    const [gain, lift] = [
      [1.4, 1.1, 0.8],
      [0.01, 0.02, 0.03],
    ];
    const noise = noisy(0.01, 7);
    const element = measured(scene((rgb) => noise(rgb.map((v, c) => v * gain[c]! + lift[c]!) as [number, number, number]), 1.6));
    for (let c = 0; c < 3; c++) {
      const slope = (element.white[c]!.value - element.black[c]!.value) / (plate.white[c]!.value - plate.black[c]!.value);
      expect(Math.abs(slope / gain[c]! - 1)).toBeLessThan(0.05);
      expect(Math.abs(element.black[c]!.value - plate.black[c]!.value * slope - lift[c]!)).toBeLessThan(0.004);
    }
  });

  test('so is the grain, and the blur within ten', () => {
    // Flat places of one small frame are few: frames are taken together.
    const grainy = overFrames([9, 10, 11, 12].map((seed) => measured(scene(noisy(0.02, seed)))));
    for (const f of grainy.grain!.sigma) expect(Math.abs(f.value / 0.02 - 1)).toBeLessThan(0.05);
    const element = measured(scene(noisy(0.02, 9), 2));
    const more = Math.sqrt(element.softness!.value ** 2 - plate.softness!.value ** 2);
    expect(Math.abs(more / Math.sqrt(2 ** 2 - 0.7 ** 2) - 1)).toBeLessThan(0.1);
  });

  test('what a row sets takes the element to the plate', () => {
    const element = measured(scene((rgb) => rgb.map((v, c) => v * [1.4, 1.1, 0.8][c]! + 0.02) as [number, number, number]));
    let now = NOW;
    const graded = (): Figures =>
      measured(
        scene((rgb) => rgb.map((v, c) => (v * [1.4, 1.1, 0.8][c]! + 0.02) * now.slope[c]! + now.offset[c]!) as [number, number, number]),
      );
    for (const row of ['white', 'black'] as Row[]) {
      const match = matchOf(row, row === 'white' ? element : graded(), plate, now);
      if (!('step' in match) || match.step !== 'grade') throw new Error('no match');
      now = { ...now, ...match.params } as Now;
    }
    const after = graded();
    for (const row of ['black', 'white'] as Row[]) expect(differenceOf(row, after, plate)!.matters).toBe(false);
    const softer = measured(scene(same, 1.8));
    expect(matchOf('softness', plate, softer, NOW)).toMatchObject({ step: 'blur' });
    expect((matchOf('softness', plate, softer, NOW) as { size: number }).size).toBeCloseTo(Math.sqrt(1.8 ** 2 - 0.7 ** 2), 0.7);
    expect((matchOf('softness', softer, plate, NOW) as { why: string }).why).toContain('softer');
  });

  test('contrast, saturation and grain are set by how far the element is from the plate, on top of what is set', () => {
    const element = {
      ...plate,
      contrast: { value: plate.contrast.value * 2, sure: 0 },
      saturation: { value: plate.saturation.value / 2, sure: 0 },
    };
    expect(matchOf('contrast', element, plate, { ...NOW, contrast: 1.2, pivot: 0.3 })).toMatchObject({
      params: { contrast: 0.6, pivot: 0.3 },
    });
    const { params } = matchOf('saturation', element, plate, { ...NOW, saturation: 0.9 }) as { params: { saturation: number } };
    expect(params.saturation).toBeCloseTo(1.8, 6);
    const grainy = measured(scene(noisy(0.02, 3)));
    const half = { ...grainy, grain: { ...grainy.grain!, sigma: grainy.grain!.sigma.map((f) => ({ ...f, value: f.value / 2 })) as never } };
    expect((matchOf('grain', half, grainy, NOW) as { amount: number }).amount).toBeCloseTo(Math.sqrt(0.75), 6);
    expect((matchOf('grain', grainy, half, NOW) as { why: string }).why).toContain('more grain');
  });

  test('frames are taken together; their content is not made surer by more of them', () => {
    const three = overFrames([1, 2, 3].map((seed) => measured(scene(noisy(0.01, seed)))));
    expect(Math.abs(three.white[0].value / plate.white[0].value - 1)).toBeLessThan(0.02);
    expect(three.white[0].sure).toBeGreaterThan(0);
  });

  test('too little of it is said, with what to do', () => {
    const inside = new Uint8Array(W * H);
    inside.fill(1, 0, 100);
    expect(() => figuresOf(kernels, { planes: scene(same), inside, w: W, h: H }, 'the element on frame 3')).toThrow(
      /the element on frame 3 has 100 px.*at least 400/,
    );
  });

  test('the element counts inside its edge, the plate in a ring around it', () => {
    const region = rect(0, 0, 60, 40);
    const pixels = new Float32Array(4 * 60 * 40);
    for (let i = 0; i < 60 * 40; i++) if (i % 60 >= 20 && i % 60 < 40) pixels.set([0.25, 0.25, 0.25, 1], 4 * i);
    const plate4 = { region, pixels: new Float32Array(4 * 60 * 40).fill(1) };
    const [element, around] = [lookAtElement({ region, pixels }), lookAround({ region, pixels }, plate4, { ring: 8 })];
    const row = (l: Look): string => Array.from(l.inside.subarray(20 * 60, 21 * 60), String).join('');
    expect(row(element)).toBe(`${'0'.repeat(23)}${'1'.repeat(14)}${'0'.repeat(23)}`);
    expect(row(around)).toBe(`${'0'.repeat(9)}${'1'.repeat(8)}${'0'.repeat(26)}${'1'.repeat(8)}${'0'.repeat(9)}`);
  });
});
