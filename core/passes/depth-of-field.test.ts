import { nodeKernels } from '@/engine/node/host';
import type { Kernels, Plane } from '@/kernels';
import { ROUND } from '../filters/aperture';
import { rect } from '../geometry/rect';
import { blurRadius, focusByDepth } from './depth-of-field';

const [W, H] = [64, 48];
const ALL = rect(0, 0, W, H);
const LENS = { focus: 4, infinity: 10, most: 24, aperture: ROUND };

let kernels: Kernels;
beforeAll(async () => {
  kernels = await nodeKernels();
});

describe('the radius of the blur', () => {
  test('is none at the focus, that of infinity far away, and grows without end towards the lens', () => {
    expect(blurRadius(4, LENS)).toBe(0);
    expect(blurRadius(Infinity, LENS)).toBe(10);
    expect(blurRadius(4e6, LENS)).toBeCloseTo(10, 4);
    // Twice as far as the focus: half of infinity's; half as far: as much as infinity's, before the focus.
    expect(blurRadius(8, LENS)).toBeCloseTo(5);
    expect(blurRadius(2, LENS)).toBeCloseTo(-10);
    expect(blurRadius(1, { ...LENS, most: 100 })).toBeCloseTo(-30);
    expect(blurRadius(0.01, LENS)).toBe(-24);
  });
});

interface Scene {
  distance(x: number, y: number): number;
  light(x: number, y: number): number;
  alpha?(x: number, y: number): number;
}

/** What the lens makes of a grey scene: its light and its alpha. */
function seen(scene: Scene, change: Partial<typeof LENS> = {}, want = ALL): { light: Float32Array; alpha: Float32Array } {
  const at = (f: (x: number, y: number) => number): number[] => Array.from({ length: W * H }, (_, i) => f(i % W, Math.floor(i / W)));
  const alpha = at(scene.alpha ?? (() => 1));
  const light = at(scene.light).map((v, i) => v * alpha[i]!);
  const planes = [light, light, light, alpha].map((p) => kernels.copy(p)) as [Plane, Plane, Plane, Plane];
  const before = kernels.used;
  const made = focusByDepth(kernels, planes, Float32Array.from(at(scene.distance)), ALL, want, { ...LENS, ...change }, () => undefined);
  const out = { light: made[0].slice(), alpha: made[3].slice() };
  made.forEach((p) => kernels.give(p));
  expect(kernels.used).toBe(before);
  planes.forEach((p) => kernels.give(p));
  return out;
}
const sum = (p: Float32Array): number => p.reduce((s, v) => s + v, 0);
const isBar = (x: number): boolean => x >= 28 && x < 36;

describe('a picture seen through a lens', () => {
  test('what is in focus stays as it is', () => {
    const light = (x: number, y: number): number => ((x >> 2) + (y >> 2)) % 2;
    const out = seen({ distance: () => 4, light });
    out.light.forEach((v, i) => expect(v).toBeCloseTo(light(i % W, Math.floor(i / W)), 6));
    expect(Math.min(...out.alpha)).toBeGreaterThan(0.9999);
  });

  test('a lit point out of focus is an even disc of its radius, with all of its light', () => {
    const out = seen({ distance: () => 8, light: (x, y) => (x === 32 && y === 24 ? 1 : 0) });
    expect(sum(out.light)).toBeCloseTo(1, 2);
    const value = (x: number, y: number): number => out.light[y * W + x]!;
    // Radius 5: an area of 78.5 pixels.
    for (const [x, y] of [
      [32, 24],
      [35, 24],
      [32, 21],
      [34, 26],
    ] as const)
      expect(value(x, y)).toBeCloseTo(1 / (Math.PI * 25), 3);
    for (const [x, y] of [
      [39, 24],
      [32, 31],
      [37, 29],
    ] as const)
      expect(value(x, y)).toBeLessThan(1e-4);
  });

  test('a sharp thing keeps its edge before a blurred ground', () => {
    const out = seen({ distance: (x) => (isBar(x) ? 4 : Infinity), light: (x, y) => (isBar(x) ? 1 : (y >> 1) % 2) });
    for (let x = 28; x < 36; x++) expect(out.light[24 * W + x]!).toBeCloseTo(1, 3);
    // None of its light gets into the ground beside it, which is filled from around: stripes of half and half.
    for (const x of [20, 26, 37, 44]) expect(Math.abs(out.light[24 * W + x]! - 0.5)).toBeLessThan(0.08);
  });

  test('a thing near the lens is soft over the sharp ground, which is seen through its rim', () => {
    const out = seen({ distance: (x) => (isBar(x) ? 2.8 : 4), light: (x) => (isBar(x) ? 1 : 0) }, { infinity: 8 });
    const row = Array.from({ length: W }, (_, x) => out.light[24 * W + x]!);
    expect(row[32]!).toBeGreaterThan(0.95);
    expect(row[28]!).toBeGreaterThan(0.3);
    expect(row[28]!).toBeLessThan(0.7);
    expect(row[26]!).toBeGreaterThan(0.05);
    expect(row[22]!).toBeCloseTo(0, 4);
    for (let x = 20; x < 31; x++) expect(row[x + 1]!).toBeGreaterThanOrEqual(row[x]! - 1e-4);
    expect(Math.min(...out.alpha)).toBeGreaterThan(0.999);
  });

  test('what is empty stays empty beyond the reach of what is there', () => {
    const out = seen({ distance: () => 8, light: () => 1, alpha: (x) => (x < 20 ? 1 : 0) });
    expect(out.alpha[24 * W + 10]!).toBeCloseTo(1, 3);
    expect(Math.abs(out.alpha[24 * W + 19]! - 0.5)).toBeLessThan(0.1);
    expect(out.alpha[24 * W + 27]!).toBeCloseTo(0, 4);
    // Premultiplied throughout: white is as much light as alpha.
    out.light.forEach((v, i) => expect(v).toBeCloseTo(out.alpha[i]!, 4));
  });

  test('a part of it is that part of the whole', () => {
    const scene = {
      distance: (x: number, y: number) => 2.5 + x / 12 + y / 30,
      light: (x: number, y: number) => ((x * 7 + y * 13) % 11) / 11,
    };
    const part = rect(20, 10, 44, 30);
    const [whole, cut] = [seen(scene).light, seen(scene, {}, part).light];
    for (let y = part.y0; y < part.y1; y++)
      for (let x = part.x0; x < part.x1; x++)
        expect(cut[(y - part.y0) * (part.x1 - part.x0) + x - part.x0]).toBeCloseTo(whole[y * W + x]!, 6);
  });
});
