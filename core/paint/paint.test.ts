import fc from 'fast-check';
import type { Reading } from '../readings/types';
import type { TestPicture } from '../testing/evaluate';
import { evaluate } from '../testing/evaluate';
import { testStroke } from '../testing/strokes';
import { newPoint } from '../readings/make';
import type { Stroke } from './strokes';

const [W, H] = [64, 48];
const scene = (x: number, y: number): number => 0.2 + 0.004 * x + 0.1 * Math.sin(x * 0.7) * Math.cos(y * 0.5);
const main: TestPicture = { width: W, height: H, fill: { R: scene, G: (x, y) => scene(x, y) * 0.8, B: (x, y) => scene(y, x), A: 1 } };
const other: TestPicture = { width: W, height: H, fill: { R: (x) => x / 100, G: 0.5, B: (_, y) => y / 100, A: 1 } };
const stroke = (change: Partial<Stroke>): Stroke => testStroke({ size: 14, colour: [0.9, 0.1, 0.1], points: [20, 24, 40, 24], ...change });
const painted = (list: readonly Stroke[], more: Parameters<typeof evaluate>[2] = {}) =>
  evaluate({ main, other }, [{ type: 'paint', params: { strokes: list as never }, feeds: ['other'] }], more);

describe('brushes', () => {
  test('clone copies from beside, to the bit by whole pixels, and nothing else changes', async () => {
    const out = await painted([stroke({ tool: 'clone', shift: [5, -9] })]);
    for (const [x, y] of [
      [20, 24],
      [30, 26],
      [38, 22],
    ] as const)
      expect(out.at('R', x, y)).toBe(Math.fround(scene(x + 5, y - 9)));
    expect(out.at('R', 20, 40)).toBe(Math.fround(scene(20, 40)));
  });

  test('a clone sees what an earlier stroke made', async () => {
    const out = await painted([stroke({}), stroke({ tool: 'clone', points: [20, 40, 40, 40], size: 6, shift: [0, -16] })]);
    expect(out.at('R', 30, 40)).toBeCloseTo(0.9, 6);
  });

  test('reveal shows another picture in place; erase takes back to the picture as it came', async () => {
    const list = [stroke({ tool: 'reveal', other: true })];
    const out = await painted(list);
    expect([out.at('R', 30, 24), out.at('G', 30, 24)]).toEqual([Math.fround(0.3), 0.5]);
    const back = await painted([...list, stroke({ tool: 'erase', points: [30, 24] })]);
    expect(back.at('R', 30, 24)).toBe(Math.fround(scene(30, 24)));
    expect(back.at('G', 20, 24)).toBe(0.5);
  });

  test('heal brings detail along and keeps the light of where it lands', async () => {
    // Twice as bright to the right; the same texture everywhere.
    const texture = (x: number, y: number): number => 0.02 * Math.sin(x * 1.3 + y);
    const lit: TestPicture = { width: W, height: H, fill: { R: (x, y) => (x < 32 ? 0.2 : 0.4) + texture(x, y), G: 0.1, B: 0.1, A: 1 } };
    const at = (tool: Stroke['tool']) =>
      evaluate({ main: lit }, [{ type: 'paint', params: { strokes: [stroke({ tool, points: [14, 24], shift: [34, 0] })] as never } }]);
    const [cloned, healed] = [await at('clone'), await at('heal')];
    expect(cloned.at('R', 14, 24)).toBeGreaterThan(0.37);
    expect(Math.abs(healed.at('R', 14, 24) - 0.2)).toBeLessThan(0.03);
  });

  test('dodge and burn are stops of light, blur evens out, sharpen does not move the mean', async () => {
    const [dodged, burnt] = [await painted([stroke({ tool: 'dodge', amount: 1 })]), await painted([stroke({ tool: 'burn', amount: 2 })])];
    expect(dodged.at('R', 30, 24)).toBeCloseTo(2 * scene(30, 24), 5);
    expect(burnt.at('R', 30, 24)).toBeCloseTo(scene(30, 24) / 4, 5);
    const spread = async (list: Stroke[]): Promise<number> => {
      const out = await painted(list);
      const row = Array.from({ length: 14 }, (_, i) => out.at('R', 23 + i, 24) - 0.004 * (23 + i));
      const mean = row.reduce((s, v) => s + v, 0) / row.length;
      return row.reduce((s, v) => s + (v - mean) ** 2, 0);
    };
    const was = await spread([]);
    expect(await spread([stroke({ tool: 'blur', amount: 4 })])).toBeLessThan(0.3 * was);
    expect(await spread([stroke({ tool: 'sharpen', amount: 2 })])).toBeGreaterThan(1.3 * was);
  });

  test('smear carries colour along the way and leaves an even place even', async () => {
    const edge: TestPicture = { width: W, height: H, fill: { R: (x) => (x < 30 ? 1 : 0), G: 0.3, B: 0.3, A: 1 } };
    const out = await evaluate({ main: edge }, [
      { type: 'paint', params: { strokes: [stroke({ tool: 'smear', flow: 0.9, points: [24, 24, 44, 24] })] as never } },
    ]);
    expect(out.at('R', 34, 24)).toBeGreaterThan(0.4);
    expect(out.at('R', 34, 40)).toBe(0);
    expect(out.at('G', 34, 24)).toBeCloseTo(0.3, 6);
  });

  test('a stroke pressed half as hard is half as wide', async () => {
    const wide = async (pressure?: number[]): Promise<number> => {
      const out = await painted([stroke({ colour: [5, 5, 5], ...(pressure && { pressure }) })]);
      return Array.from({ length: H }, (_, y) => +(out.at('R', 30, y) > 2)).reduce((s, v) => s + v, 0);
    };
    expect([await wide(), await wide([0.5, 0.5])]).toEqual([14, 8]);
  });

  test('a stroke follows a point, its source too; switched off it is not there', async () => {
    const made = newPoint([10, 10], { id: 'p', name: 'p', from: { lane: 'main' }, reference: 1, range: { first: 1, last: 10 } });
    const at = (frame: number, x: number, y: number) => ({ frame, x, y, turn: 0, scale: 1, confidence: 1, error: 0 });
    const reading: Reading = { ...made, frames: [at(1, 10, 10), at(5, 18, 13)] };
    const list = [stroke({ tool: 'clone', points: [20, 20], size: 6, shift: [4, 4], follows: ['p'] })];
    const out = await painted(list, { frame: 5, readings: [reading] });
    expect(out.at('R', 28, 23)).toBe(Math.fround(scene(32, 27)));
    expect(out.at('R', 20, 20)).toBe(Math.fround(scene(20, 20)));
    const off = await painted([{ ...list[0]!, off: true }], { frame: 5, readings: [reading] });
    expect(off.at('R', 28, 23)).toBe(Math.fround(scene(28, 23)));
  });

  test('many strokes are the same whether they are laid from the first or from where they were left, in whatever is changed of them', async () => {
    const many = Array.from({ length: 150 }, (_, i) =>
      stroke({
        tool: (['paint', 'clone', 'smear', 'dodge'] as const)[i % 4]!,
        size: 4 + (i % 5),
        points: [(i * 7) % W, (i * 11) % H, (i * 7 + 9) % W, (i * 11) % H],
        shift: [3, 2],
      }),
    );
    // Laid by themselves, over a picture that was not seen before.
    const alone = async (list: readonly Stroke[]) => {
      const other_ = { ...other, fill: { ...other.fill, G: list.length + Math.random() } };
      return (await evaluate({ main, other: other_ }, [{ type: 'paint', params: { strokes: list as never }, feeds: ['other'] }])).planes.R!;
    };
    await painted(many.slice(0, 149));
    expect((await painted(many)).planes.R).toEqual(await alone(many));
    const changed = many.map((s, i) => (i === 140 ? { ...s, size: 20 } : s));
    expect((await painted(changed)).planes.R).toEqual(await alone(changed));
    const fewer = many.filter((_, i) => i !== 10);
    expect((await painted(fewer)).planes.R).toEqual(await alone(fewer));
  });

  test('any strokes, of any brush, leave finite pixels', async () => {
    const any = fc.record({
      tool: fc.constantFrom(
        'paint',
        'tint',
        'clone',
        'heal',
        'reveal',
        'erase',
        'smear',
        'blur',
        'sharpen',
        'dodge',
        'burn',
      ) as fc.Arbitrary<Stroke['tool']>,
      size: fc.double({ min: 0.1, max: 60, noNaN: true }),
      hardness: fc.double({ min: 0, max: 1, noNaN: true }),
      points: fc
        .array(fc.double({ min: -50, max: 120, noNaN: true }), { minLength: 2, maxLength: 8 })
        .map((p) => p.slice(0, p.length - (p.length % 2))),
      shift: fc.tuple(fc.double({ min: -80, max: 80, noNaN: true }), fc.double({ min: -80, max: 80, noNaN: true })),
      other: fc.boolean(),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(any, { maxLength: 5 }), async (list) => {
        const out = await painted(list.map((s) => stroke(s)));
        for (const c of ['R', 'G', 'B', 'A']) expect(out.planes[c]!.every(Number.isFinite)).toBe(true);
      }),
      { numRuns: 40 },
    );
  });
});
