import { random } from '../random';
import { testLearnt } from '../testing/lesson';
import { checkExamples, sizeProblem } from './check';
import { featuresOf, teachMost } from './choose';
import type { Example, Variation } from './lesson';
import { changedOf, codeOf, lightOf, variationFor } from './lesson';
import { readLesson, writeLesson } from './lesson-file';
import { TABLE, lookOf } from './look';
import { startOf } from './trainer';
import { CROP, Varied } from './variation';

const [W, H] = [160, 140];
const n = W * H;

function example(frame: number, fill: (x: number, y: number, c: number) => number, matte: (x: number, y: number) => number): Example {
  const input = Float32Array.from({ length: 3 * n }, (_, i) => fill(i % W, Math.floor((i % n) / W), Math.floor(i / n)));
  const target = Float32Array.from({ length: n }, (_, i) => matte(i % W, Math.floor(i / W)));
  return { frame, width: W, height: H, input, target, held: false };
}
const disc = (x: number, y: number): number => (Math.hypot(x - 80, y - 70) < 40 ? 1 : 0);
const plain = example(1, (x, y, c) => (disc(x, y) ? [0.6, 0.2, 0.1] : [0.1, 0.3 + 0.1 * Math.sin(x), 0.2])[c]!, disc);
const NONE: Variation = Object.fromEntries(Object.keys(variationFor('matte')).map((k) => [k, 0])) as unknown as Variation;

test('code values are a curve with an inverse, below 0 too', () => {
  for (const v of [-3, -0.2, 0, 1e-4, 0.18, 1, 40]) expect(lightOf(codeOf(v))).toBeCloseTo(v, 5);
});

describe('how colours are seen', () => {
  test('whitened they have no mean, variance 1, and no correlation', () => {
    const next = random(2);
    // Three channels that hang together, as those of a photograph do.
    const light = Float32Array.from({ length: n }, () => next());
    const mixed = Float32Array.from({ length: 3 * n }, (_, i) => 0.6 * light[i % n]! + 0.2 * next());
    const { whiten } = lookOf([{ ...plain, input: mixed }], 'matte');
    const sums = Array.from({ length: 12 }, () => 0);
    for (let i = 0; i < n; i++) {
      const code = [0, 1, 2].map((c) => codeOf(mixed[c * n + i]!));
      const white = [0, 1, 2].map((r) => [0, 1, 2].reduce((s, c) => s + whiten[4 * r + c]! * code[c]!, whiten[4 * r + 3]!));
      for (let r = 0; r < 3; r++) {
        sums[r]! += white[r]! / n;
        for (let c = 0; c < 3; c++) sums[3 + 3 * r + c]! += (white[r]! * white[c]!) / n;
      }
    }
    [0, 1, 2].forEach((r) => expect(sums[r]).toBeCloseTo(0, 3));
    [0, 1, 2].forEach((r) => [0, 1, 2].forEach((c) => expect(sums[3 + 3 * r + c]).toBeCloseTo(r === c ? 1 : 0, 2)));
  });

  test('the table guesses what each colour was, and something between where none was', () => {
    const { box, table } = lookOf([plain], 'matte');
    const guess = (rgb: readonly number[]): number => {
      const at = rgb.map((v, c) => Math.min(TABLE - 1, Math.max(0, Math.round((codeOf(v) - box[c]!) * box[3 + c]!))));
      return table[at[0]! + TABLE * (at[1]! + TABLE * at[2]!)]!;
    };
    expect(guess([0.6, 0.2, 0.1])).toBeGreaterThan(0.95);
    expect(guess([0.1, 0.3, 0.2])).toBeLessThan(0.05);
    expect(table.every((v) => v >= 0 && v <= 1)).toBe(true);
  });
});

describe('variations', () => {
  test('without any, a crop is a piece of its frame', () => {
    const crop = new Varied('matte', [plain], { ...NONE }).crop(1, 5);
    // What is varied at the least is brightness, of all channels alike: colours keep their ratios.
    let seen = 0;
    for (let i = 0; i < CROP * CROP; i++) {
      if (crop.target[i]! < 0.9999) continue;
      seen++;
      expect(crop.input[i]! / crop.input[CROP * CROP + i]!).toBeCloseTo(3, 3);
    }
    expect(seen).toBeGreaterThan(1000);
  });

  test('are the same for the same seed and number', () => {
    const varied = new Varied('matte', [plain], variationFor('matte'));
    expect(varied.crop(3, 8)).toEqual(varied.crop(3, 8));
    expect(varied.crop(3, 8).input).not.toEqual(varied.crop(3, 9).input);
  });

  test('light changes the picture and not its matte', () => {
    const bright = new Varied('matte', [plain], { ...NONE, exposure: 1 });
    const means = Array.from({ length: 12 }, (_, i) => bright.crop(2, i).input.reduce((s, v) => s + v, 0));
    expect(Math.max(...means) / Math.min(...means)).toBeGreaterThan(3);
  });

  test('what is laid in front of a change covers picture and target alike, and acts nowhere', () => {
    const changed: Example = { ...plain, target: plain.input.map((v, i) => (disc(i % W, Math.floor((i % n) / W)) ? v * 0.3 : v)) };
    const varied = new Varied('change', [changed], { ...NONE, occluders: 1 });
    let covered = 0;
    for (let k = 0; k < 6; k++) {
      const { input, target, acts } = varied.crop(1, k);
      for (let i = 0; i < CROP * CROP; i++) if (acts[i] === 0 && Math.abs(input[i]! - target[i]!) < 1e-6) covered++;
    }
    expect(covered).toBeGreaterThan(1000);
  });

  test('the light of another frame moves a crop towards it, and its target with it', () => {
    const changed: Example = { ...plain, target: plain.input.slice() };
    const dark = { width: W, height: H, input: plain.input.map((v) => v * 0.2) };
    const mean = (of: Varied): number =>
      Array.from({ length: 8 }, (_, i) => of.crop(1, i)).reduce((s, c) => s + c.target.reduce((t, v) => t + v, 0), 0);
    expect(mean(new Varied('change', [changed], { ...NONE, light: 1 }, [dark]))).toBeLessThan(
      0.9 * mean(new Varied('change', [changed], NONE, [dark])),
    );
  });
});

test('a change acts where target and picture differ, and three pixels around', () => {
  const changed: Example = { ...plain, target: plain.input.map((v, i) => (i % W === 50 ? v + 0.2 : v)) };
  const acts = changedOf(changed);
  const row = (x: number): number => acts[70 * W + x]!;
  expect([46, 47, 50, 53, 54].map((x) => (row(x) > 0.5 ? 1 : 0))).toEqual([0, 1, 1, 1, 0]);
});

describe('which frames teach most', () => {
  const look = (frame: number, v: number): { frame: number; features: Float32Array } => ({
    frame,
    features: featuresOf({ width: W, height: H, input: new Float32Array(3 * n).fill(v) }),
  });
  const looks = [look(1, 0.1), look(2, 0.11), look(3, 0.5), look(4, 0.51), look(5, 0.9)];

  test('those least like the ones that are given', () => {
    expect(teachMost(looks, [1], 2)).toEqual([5, 3]);
    expect(teachMost(looks, [1, 3, 5], 1)).toHaveLength(1);
    expect(teachMost(looks, [], 1)).toEqual([3]);
    expect(teachMost(looks, [1, 2, 3, 4, 5], 3)).toEqual([]);
  });

  test('where it is known, those that the lesson is least sure of', () => {
    const unsure = new Map([
      [2, 0.9],
      [3, 0],
      [4, 0],
      [5, 0],
    ]);
    expect(teachMost(looks, [1, 4, 5], 1, unsure)).toEqual([2]);
  });
});

describe('frames that cannot be taught by', () => {
  test.each([
    ['none', [], /shown no frame/],
    ['all held back', [{ ...plain, held: true }], /held back/],
    ['an empty matte', [{ ...plain, target: new Float32Array(n) }], /empty/],
    ['a full one', [{ ...plain, target: new Float32Array(n).fill(1) }], /full everywhere/],
    ['NaN', [{ ...plain, input: plain.input.map((v, i) => (i === 7 ? NaN : v)) }], /frame 1 .*NaN/],
    ['a stamp', [{ ...plain, width: 10, height: 9, input: new Float32Array(270), target: new Float32Array(90) }], /only 10×9/],
  ] as const)('%s', (_, examples, said) => {
    expect(() => checkExamples(examples as unknown as Example[], 'matte')).toThrow(said);
  });

  test('a change that is none', () => {
    expect(() => checkExamples([{ ...plain, target: plain.input }], 'change')).toThrow(/same as the picture/);
  });

  test('a target of another size is told with both sizes', () => {
    expect(sizeProblem(4, { width: 960, height: 540 }, { width: 480, height: 270 })).toMatch(/frame 4 is 480×270, the picture 960×540/);
    expect(sizeProblem(4, { width: 4, height: 3 }, { width: 4, height: 3 })).toBeNull();
  });

  test('frames that look the same and are told otherwise are named', () => {
    const other = { ...plain, frame: 9, target: plain.target.map((v) => 1 - v) };
    expect(checkExamples([plain, other], 'matte')).toEqual([expect.stringMatching(/frames 1 and 9 look the same .*targets differ/)]);
    // Another picture may have another target.
    expect(checkExamples([plain, { ...other, input: plain.input.map((v) => v + 0.2) }], 'matte')).toEqual([]);
    expect(checkExamples([plain, { ...other, target: plain.target }], 'matte')).toEqual([]);
  });

  test('one alone is allowed, and said to be little', () => {
    expect(checkExamples([plain], 'matte')).toEqual([expect.stringMatching(/one frame alone/)]);
  });
});

describe('files of lessons that cannot be used', () => {
  const note = { name: 'a', teaches: 'matte' as const, steps: 3, seconds: 1, about: {} };
  const good = writeLesson({ note, learnt: testLearnt('matte'), state: { ...startOf('matte', 1), step: 3 } });
  const head = (change: (json: string) => string): Uint8Array => {
    const length = new DataView(good.buffer).getUint32(8, true);
    const text = change(Buffer.from(good.subarray(12, 12 + length)).toString());
    const bytes = good.slice();
    bytes.set(Buffer.from(text.padEnd(length).slice(0, length)), 12);
    return bytes;
  };
  test.each([
    ['something else', Uint8Array.from([1, 2, 3]), /no lesson/],
    ['cut off', good.slice(0, 5000), /cut off/],
    ['a damaged note', head((t) => t.replace('{', '[')), /note cannot be read/],
    ['another kind', head((t) => t.replace('"matte"', '"motor"')), /teaches "motor"/],
    ['another net', head((t) => t.replace(/\["means",\d+/, '["means",17')), /of another net/],
  ])('%s', (_, bytes, said) => {
    expect(() => readLesson(bytes, 'x.lesson')).toThrow(said);
  });

  test('numbers that are none', () => {
    const bytes = good.slice();
    new DataView(bytes.buffer).setFloat32(bytes.length - 4, NaN, true);
    expect(() => readLesson(bytes, 'x.lesson')).toThrow(/damaged/);
  });

  test('what is made to be applied alone is a quarter as large, and a training goes on from it', () => {
    const small = writeLesson({ note, learnt: testLearnt('matte'), state: startOf('matte', 1) }, true);
    expect(small.length).toBeLessThan(0.35 * good.length);
    const { state, learnt } = readLesson(small, 'x.lesson');
    expect(state.weights).toEqual(learnt.weights);
  });
});
