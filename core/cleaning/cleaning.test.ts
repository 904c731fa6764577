import fc from 'fast-check';
import { inverseOf } from '../geometry/solve';
import { agreeOn } from './agree';
import { fitLight } from './fit-light';
import { fillMembrane, holeOf } from './membrane';
import { fillByPatches } from './patch-fill';

/** The same membrane by a dense system, for a small grid. */
function dense(plane: Float32Array, open: Uint8Array, w: number, h: number, guide?: Float32Array): Float64Array {
  const at = [...open.keys()].filter((i) => open[i]);
  const n = at.length;
  const m = new Float64Array(n * n);
  const b = new Float64Array(n);
  at.forEach((i, k) => {
    for (const j of [i % w > 0 ? i - 1 : -1, i % w < w - 1 ? i + 1 : -1, i - w, i + w]) {
      if (j < 0 || j >= w * h) continue;
      m[k * n + k]!++;
      if (guide) b[k]! += guide[i]! - guide[j]!;
      const o = at.indexOf(j);
      if (o >= 0) m[k * n + o]!--;
      else b[k]! += plane[j]!;
    }
  });
  const inverse = inverseOf(m, n)!;
  return Float64Array.from(at, (_, k) => b.reduce((s, v, j) => s + inverse[k * n + j]! * v, 0));
}

describe('membrane', () => {
  const [w, h] = [19, 15];
  const picture = fc.array(fc.float({ min: 0, max: 1, noNaN: true }), { minLength: w * h, maxLength: w * h });
  const holes = fc.array(fc.boolean(), { minLength: w * h, maxLength: w * h });

  test('a filled hole is the dense solution of the same Poisson problem, with a guide and without', () => {
    fc.assert(
      fc.property(picture, picture, holes, fc.boolean(), (values, guides, is, guided) => {
        const open = Uint8Array.from(is, (v, i) => (v && i > 0 ? 1 : 0));
        if (!open.some((v) => v)) return;
        const plane = Float32Array.from(values);
        const guide = guided ? Float32Array.from(guides) : undefined;
        const want = dense(plane, open, w, h, guide);
        fillMembrane(plane, holeOf(open, w, h), guide);
        [...open.keys()].filter((i) => open[i]).forEach((i, k) => expect(Math.abs(plane[i]! - want[k]!)).toBeLessThan(1e-4));
      }),
      { numRuns: 25 },
    );
  });

  test('a plane of light is continued exactly, and with a guide its detail comes along', () => {
    const [W, H] = [90, 70];
    const light = Float32Array.from({ length: W * H }, (_, i) => 0.2 + 0.003 * (i % W) + 0.002 * Math.floor(i / W));
    const detail = Float32Array.from({ length: W * H }, (_, i) => 0.05 * Math.sin(i * 1.7));
    const open = Uint8Array.from(light, (_, i) => (Math.hypot((i % W) - 45, Math.floor(i / W) - 35) < 25 ? 1 : 0));
    const bare = light.slice();
    for (let i = 0; i < W * H; i++) if (open[i]) bare[i] = 9;
    const smooth = bare.slice();
    fillMembrane(smooth, holeOf(open, W, H));
    expect(Math.max(...smooth.map((v, i) => Math.abs(v - light[i]!)))).toBeLessThan(1e-4);
    const known = light.map((v, i) => (open[i] ? 9 : v + detail[i]!));
    fillMembrane(known, holeOf(open, W, H), detail);
    expect(Math.max(...known.map((v, i) => Math.abs(v - light[i]! - detail[i]!)))).toBeLessThan(1e-4);
  });

  test('with nothing known around it a hole is 0', () => {
    const plane = new Float32Array(16).fill(3);
    fillMembrane(plane, holeOf(new Uint8Array(16).fill(1), 4, 4));
    expect([...plane]).toEqual(new Array(16).fill(0));
  });
});

describe('filling by patches', () => {
  const [w, h] = [96, 80];
  const wall = (i: number, c: number): number => {
    const [x, y] = [i % w, Math.floor(i / w)];
    const row = Math.floor(y / 10);
    const joint = y % 10 === 0 || (x + 7 * (row % 2)) % 14 === 0;
    return (joint ? 0.6 : 0.2) * [1, 0.9, 0.8][c]!;
  };
  const planes = (): Float32Array[] => [0, 1, 2].map((c) => Float32Array.from({ length: w * h }, (_, i) => wall(i, c)));
  const hole = Uint8Array.from({ length: w * h }, (_, i) => (Math.abs((i % w) - 48) < 14 && Math.abs(Math.floor(i / w) - 40) < 11 ? 1 : 0));
  const holed = (): Float32Array[] => planes().map((p) => p.map((v, i) => (hole[i] ? 0 : v)));

  test('a wall of bricks is continued: joints lie where they lay', () => {
    const made = holed();
    expect(fillByPatches(made, hole, w, h)).toBe(true);
    const wrong = [...hole.keys()].filter((i) => hole[i] && Math.abs(made[0]![i]! - wall(i, 0)) > 0.1);
    expect(wrong.length / hole.reduce((s, v) => s + v, 0)).toBeLessThan(0.1);
  });

  test('it is the same each time, another for another seed, and nothing outside of the hole changes', () => {
    const noisy = holed().map((p) => p.map((v, i) => v + 0.05 * Math.sin(i * 12.9898) ** 2));
    const [a, b, c] = [1, 1, 5].map((seed) => {
      const made = noisy.map((p) => p.slice());
      fillByPatches(made, hole, w, h, { seed });
      return made[1]!;
    }) as [Float32Array, Float32Array, Float32Array];
    expect(a).toEqual(b);
    expect(a).not.toEqual(c);
    hole.forEach((open, i) => !open && expect(a[i]).toBe(noisy[1]![i]));
  });

  test('nothing is taken from what is barred, and where all is barred nothing is changed', () => {
    const avoid = Uint8Array.from({ length: w * h }, (_, i) => (i % w < 34 ? 1 : 0));
    const marked = holed().map((p) => p.map((v, i) => (i % w < 34 ? 5 : v)));
    const made = marked.map((p) => p.slice());
    fillByPatches(made, hole, w, h, { avoid });
    expect(Math.max(...[...hole.keys()].filter((i) => hole[i] && i % w > 40).map((i) => made[0]![i]!))).toBeLessThan(1);
    const none = holed();
    expect(fillByPatches(none, hole, w, h, { avoid: new Uint8Array(w * h).fill(1) })).toBe(false);
    expect(none[0]!.every((v, i) => !hole[i] || v === 0)).toBe(true);
  });
});

describe('what frames agree on', () => {
  const values = [0.2, 0.21, 0.19, 0.9, 0.2].map((v) => [v, v / 2, v / 3]);
  const channels = [0, 1, 2].map((c) => Float64Array.from(values, (v) => v[c]!));
  const out = new Float64Array(3);

  test('the median leaves one that passes out, and says how many agree', () => {
    expect(agreeOn(channels, 5, 'median', () => 0.03, out)).toBe(4);
    expect([...out]).toEqual([0.2, 0.1, expect.closeTo(0.2 / 3, 10)]);
  });

  test('the most agreed value holds where what passes is there on most frames', () => {
    const busy = [0.2, 0.5, 0.7, 0.2, 0.9, 0.201, 0.35];
    const list = [0, 1, 2].map(() => Float64Array.from(busy));
    expect(agreeOn(list, 7, 'mode', () => 0.03, out)).toBe(3);
    expect(out[0]).toBeCloseTo(0.2, 2);
    agreeOn(list, 7, 'median', () => 0.03, out);
    expect(out[0]).toBeCloseTo(0.35, 5);
  });

  test('a place that no frame sees is nothing', () => {
    expect([agreeOn(channels, 0, 'median', () => 0.03, out), ...out]).toEqual([0, 0, 0, 0]);
  });
});

describe('light of a ring', () => {
  const n = 900;
  const from = [0, 1, 2].map((c) => Float32Array.from({ length: n }, (_, i) => 0.1 + 0.4 * Math.abs(Math.sin(i * (c + 1)))));
  const use = new Uint8Array(n).fill(1);

  test('gain and lift come back, whatever lies in a fifth of the ring', () => {
    const to = from.map((p, c) => p.map((v, i) => (i % 5 === 0 ? 2 : v * [1.2, 0.9, 1.05][c]! + 0.02)));
    const { gain, lift } = fitLight(from, to, use, { lift: true });
    [1.2, 0.9, 1.05].forEach((g, c) => expect(gain[c]).toBeCloseTo(g, 3));
    lift.forEach((l) => expect(l).toBeCloseTo(0.02, 3));
    expect(
      fitLight(
        from,
        from.map((p) => p.map((v) => 0.8 * v)),
        use,
      ).gain.map((g) => Number(g.toFixed(4))),
    ).toEqual([0.8, 0.8, 0.8]);
  });

  test('a ring of few pixels says nothing', () => {
    expect(
      fitLight(
        from,
        from,
        use.map((_, i) => (i < 10 ? 1 : 0)),
      ),
    ).toMatchObject({ gain: [1, 1, 1], pixels: 0 });
  });
});
