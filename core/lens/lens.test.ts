import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import { positionPlanes } from '../filters/position-planes';
import { Mapping } from '../geometry/mapping';
import { rect } from '../geometry/rect';
import { straightening } from './curve';
import { lensFile, parseLens } from './exchange';
import type { LensReading } from '../readings/types';
import { parseReadings } from '../readings/exchange';
import type { Lens } from './lens';
import { foldInside, lensBetween, lensFor, lensMapOf, plainLens } from './lens';
import type { SolvedLens } from './reading';
import { LensData } from './reading';

const FORMAT = { width: 960, height: 540 };
const wide: Lens = {
  ...plainLens(FORMAT, 'brown'),
  focal: 604,
  coefficients: { k1: -0.236, k2: 0.072, k3: -0.009, p1: 0.0007, p2: -0.0005 },
};

describe('a lens', () => {
  test('without coefficients bends nothing', () => {
    const to = new Float64Array(2);
    lensMapOf(plainLens(FORMAT)).bend(123.4, 45.6, to);
    expect([...to]).toEqual([expect.closeTo(123.4, 9), expect.closeTo(45.6, 9)]);
  });

  test('goes along with the size of the picture', () => {
    const half = lensMapOf(lensFor(wide, { width: 480, height: 270 }));
    const [a, b] = [new Float64Array(2), new Float64Array(2)];
    lensMapOf(wide).bend(700, 60, a);
    half.bend(350, 30, b);
    expect(Math.hypot(a[0]! - 2 * b[0]!, a[1]! - 2 * b[1]!)).toBeLessThan(1e-9);
  });

  test('says where it folds, and has no place beyond', () => {
    const strong: Lens = { ...plainLens(FORMAT), focal: 600, coefficients: { k1: -0.6 } };
    const fold = foldInside(strong)!;
    // r(1 + k1·r²) stops to grow at r = 1/√(−3·k1).
    expect(fold).toBeCloseTo(600 / Math.sqrt(1.8), 0);
    expect(foldInside(wide)).toBeNull();
    const to = new Float64Array(2);
    lensMapOf(strong).bend(480 + fold + 20, 270, to);
    expect(to[0]).toBeNaN();
    lensMapOf(strong).straighten(0, 0, to);
    expect(to[0]).toBeNaN();
  });

  test('between two focal lengths is mixed of both', () => {
    const long = { ...wide, focal: 1208, coefficients: { k1: -0.1, k2: 0.01 } };
    const half = lensBetween(wide, long, 0.5);
    expect(half.focal).toBe(906);
    expect(half.coefficients.k1).toBeCloseTo(-0.168, 9);
    const solved = (mm: number, lens: Lens): SolvedLens => ({ lens, mm, rms: 0, max: 0, rings: [] });
    const zoom = new LensData([solved(50, long), solved(25, wide)]);
    expect(zoom.lens(10).focal).toBe(604);
    expect(zoom.lens(37.5).focal).toBe(906);
    expect(zoom.lens(80).focal).toBe(1208);
    expect(() => lensBetween(wide, plainLens(FORMAT), 0.5)).toThrow('two models');
  });

  test('comes back from its file as a reading, with its crossings', () => {
    const corner = { frame: 2, column: 1, row: 3, x: 10.5, y: 20.25, residual: 0.02, used: true };
    const [reading] = parseReadings(
      JSON.stringify({ ...wide, rms: 0.03, max: 0.2, corners: [corner, { ...corner, row: 4, used: false }] }),
      'wide.json',
    );
    expect(reading).toMatchObject({ kind: 'lens', name: 'wide', solved: [{ lens: wide, rms: 0.03 }] });
    expect((reading as LensReading).frames[0]!.crossings.map((c) => c.used)).toEqual([true, false]);
    expect(() => parseReadings('{"coefficients":{}}', 'wide.json')).toThrow('it holds no lens');
  });

  test('a zoom comes back with all of its focal lengths', () => {
    const solved = [24, 50].map((mm): SolvedLens => ({ lens: { ...wide, focal: 20 * mm }, mm, rms: 0.1, max: 0.2, rings: [] }));
    const [back] = parseReadings(JSON.stringify(lensFile({ solved, frames: [] })), 'zoom.json') as [LensReading];
    expect(back.solved.map((s) => [s.mm, s.lens.focal])).toEqual([
      [24, 480],
      [50, 1000],
    ]);
  });

  test('is read from what is written of it; what is none is told', () => {
    expect(parseLens(JSON.stringify({ ...wide, corners: [], rms: 0.1 }), 'lens.json')).toEqual(wide);
    expect(() => parseLens('{"model":"brown"}', 'lens.json')).toThrow(/lens\.json.*it holds no lens/);
    expect(() => parseLens(JSON.stringify({ ...wide, focal: -3 }), 'lens.json')).toThrow('no lens');
    expect(() => parseLens('no json', 'lens.json')).toThrow('no lens');
  });
});

describe('mappings', () => {
  const shift = (x: number, y: number) => Mapping.by([1, 0, x, 0, 1, y]);
  const lens = Mapping.along(straightening(wide));

  test('that undo each other are nothing, also with others around them', () => {
    expect(lens.then(lens.inverse).isIdentity).toBe(true);
    expect(shift(3, 4).then(shift(-3, -4)).isIdentity).toBe(true);
    expect(shift(3, 4).then(lens).then(lens.inverse).then(shift(-3, -4)).isIdentity).toBe(true);
    expect(lens.then(shift(1, 0)).then(lens.inverse).isIdentity).toBe(false);
  });

  test('go both ways', () => {
    const all = shift(5, -7)
      .then(lens)
      .then(Mapping.by([1, 0.1, 0, 0, 1, 0, 1e-4, 0, 1]));
    const to = new Float64Array(2);
    fc.assert(
      fc.property(fc.double({ min: 60, max: 900, noNaN: true }), fc.double({ min: 60, max: 480, noNaN: true }), (x, y) => {
        all.forth(x, y, to);
        all.back(to[0]!, to[1]!, to);
        expect(Math.hypot(to[0]! - x, to[1]! - y)).toBeLessThan(1e-5);
      }),
    );
  });

  test('that flatten the plane show nothing, and what lies behind the horizon is nowhere', () => {
    expect(Mapping.by([0, 0, 5, 0, 0, 5]).isFlat).toBe(true);
    expect(Mapping.by([1, 0, 0, 0, 1, 0, -0.01, 0, 1]).place(150, 0)[0]).toBeNaN();
  });

  test('as planes of positions they are what they are pixel by pixel, within a thousandth', async () => {
    const kernels = await nodeKernels();
    const want = rect(-37, -11, 521, 300);
    const all = lens.then(shift(0.3, 0.4));
    const { xs, ys } = positionPlanes(kernels, all, want);
    const to = new Float64Array(2);
    for (let i = 0; i < xs.length; i += 97) {
      all.back(want.x0 + (i % 558) + 0.5, want.y0 + Math.floor(i / 558) + 0.5, to);
      expect(Math.hypot(xs[i]! - to[0]!, ys[i]! - to[1]!)).toBeLessThan(1e-3);
    }
    [xs, ys].forEach((p) => kernels.give(p));
  });
});
