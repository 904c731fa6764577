import { matteErrors, partialBand } from '@/bench/matting';
import { renderHarbour } from './harbour';
import { hash, normal, random } from './noise';
import { SG010, renderKeeper } from './sg010';

const small = { ...SG010, width: 120, height: 68 };

describe('the keeper plate', () => {
  const a = renderKeeper(7, small);
  const at = (plane: Float32Array, x: number, y: number, c: number): number => plane[3 * (y * 120 + x) + c]!;

  test('is the same every time, and another seed is another plate', () => {
    expect(renderKeeper(7, small).plate).toEqual(a.plate);
    expect(renderKeeper(7, { ...small, seed: 11 }).plate).not.toEqual(a.plate);
  });

  test('has a solid body, an empty screen, and thousands of partly covered pixels in between', () => {
    expect(a.alpha[50 * 120 + 59]).toBe(1);
    expect(a.alpha[10 * 120 + 100]).toBe(0);
    expect(a.alpha.filter((v) => v > 0.02 && v < 0.98).length).toBeGreaterThan(200);
    expect(Math.max(...a.alpha)).toBeLessThanOrEqual(1);
    expect(Math.min(...a.alpha)).toBeGreaterThanOrEqual(0);
  });

  test('keeps stand and tape out of the truth', () => expect(a.alpha[40 * 120 + 12]).toBe(0));

  test('is foreground over an unevenly lit green screen', () => {
    expect(at(a.plate, 100, 10, 1)).toBeGreaterThan(2 * at(a.plate, 100, 10, 0));
    expect(Math.abs(at(a.plate, 86, 19, 1) - at(a.plate, 10, 64, 1))).toBeGreaterThan(0.05);
  });

  test('its true foreground has no light where there is no coverage', () => {
    for (let i = 0; i < a.alpha.length; i++) if (a.alpha[i] === 0) for (let c = 0; c < 3; c++) expect(a.foreground[3 * i + c]).toBe(0);
  });

  test('moves', () => expect(renderKeeper(20, small).alpha).not.toEqual(a.alpha));
});

test('the harbour is night: dark, with a lamp that is brighter than anything', () => {
  const h = renderHarbour(240, 135);
  const mean = h.reduce((s, v) => s + v, 0) / h.length;
  expect(mean).toBeLessThan(0.12);
  const brightest = h.reduce((best, v, i) => (v > h[best]! ? i : best), 0);
  expect(Math.abs((Math.floor(brightest / 3) % 240) - 64.5)).toBeLessThan(4);
});

test('noise is even, and normal deviates have unit variance', () => {
  const next = random(3);
  const values = Array.from({ length: 4000 }, () => normal(next(), next()));
  const mean = values.reduce((s, v) => s + v, 0) / 4000;
  expect(Math.abs(mean)).toBeLessThan(0.06);
  expect(Math.abs(values.reduce((s, v) => s + (v - mean) ** 2, 0) / 4000 - 1)).toBeLessThan(0.08);
  const even = Array.from({ length: 2000 }, (_, i) => hash(i, 3, 1));
  expect(Math.abs(even.reduce((s, v) => s + v, 0) / 2000 - 0.5)).toBeLessThan(0.03);
});

describe('matting errors', () => {
  const truth = Float32Array.from({ length: 400 }, (_, i) => (i % 20 < 8 ? 0 : i % 20 > 12 ? 1 : ((i % 20) - 7) / 6));
  test('are nothing for the truth, and what the formulas say for an offset', () => {
    expect(matteErrors(truth, truth, 20, 20)).toEqual({ sad: 0, mse: 0, gradient: 0 });
    const off = matteErrors(
      truth.map((v) => v + 0.1),
      truth,
      20,
      20,
    );
    expect(off.sad).toBeCloseTo(0.04, 5);
    expect(off.mse).toBeCloseTo(0.01, 5);
    expect(off.gradient).toBeCloseTo(0, 6);
  });
  test('the band is the partial pixels, grown', () => {
    const count = (grow: number): number => partialBand(truth, 20, 20, grow).reduce((s, v) => s + v, 0);
    expect(count(0)).toBe(5 * 20);
    expect(count(2)).toBeGreaterThan(count(1));
  });
});
