import { FUNCTIONS, compileFormula } from './formula';

const KNOWN = ['R', 'G', 'x', 'frame', 'other.R'];
/** The values of a formula on two pixels, R 0.25 and 0.5, G 1 and −2; the other picture's R 3 and 4. */
function values(text: string): number[] {
  const names = {
    R: Float32Array.of(0.25, 0.5),
    G: Float32Array.of(1, -2),
    'other.R': Float32Array.of(3, 4),
    x: Float32Array.of(0, 1),
    frame: 12,
  };
  const out = compileFormula(text, KNOWN).evaluate(names, 2);
  return typeof out === 'number' ? [out, out] : [...out];
}

describe('a formula', () => {
  test.each([
    ['R + G', [1.25, -1.5]],
    ['R - G * 2', [-1.75, 4.5]],
    ['(R - G) * 2', [-1.5, 5]],
    ['2 ^ 3 ^ 2', [512, 512]],
    ['-R', [-0.25, -0.5]],
    ['+R', [0.25, 0.5]],
    ['!(G > 0)', [0, 1]],
    ['R / 0', [0, 0]],
    ['G % 1.5', [1, 1]],
    ['G ^ 0.5', [1, 0]],
    ['R == 0.25 || G == -2', [1, 1]],
    ['R != 0.25 && G <= -2', [0, 1]],
    ['R >= 0.5', [0, 1]],
    ['R < 0.5', [1, 0]],
    ['G > 0 ? R : frame', [0.25, 12]],
    ['frame > 10 ? 1 : 2', [1, 1]],
    ['other.R * 2', [6, 8]],
    ['min(R, G, 0.3)', [0.25, -2]],
    ['max(R, 0.3)', [0.30000001192092896, 0.5]],
    ['clamp(G, -1, 0.5)', [0.5, -1]],
    ['mix(0, G, R)', [0.25, -1]],
    ['step(0.3, R)', [0, 1]],
    ['smoothstep(0, 1, R)', [0.15625, 0.5]],
    ['smoothstep(1, 1, R)', [0, 0]],
    ['pow(2, G)', [2, 0.25]],
    ['sqrt(G)', [1, 0]],
    ['abs(G) + floor(R) + ceil(R) + sign(G) + round(R)', [3, 3]],
    ['atan2(0, 1) + sin(0) + cos(0)', [1, 1]],
    ['log2(8) + exp(0) + e - e', [4, 4]],
    ['round(100 * pi)', [314, 314]],
  ])('%s', (text, wanted) => values(text).forEach((v, i) => expect(v).toBeCloseTo(wanted[i]!, 6)));

  test('of numbers alone is one number, and it says which channels it needs', () => {
    expect(compileFormula('2 * pi', KNOWN).evaluate({}, 5)).toBeCloseTo(6.2832, 4);
    expect(compileFormula('R * other.R + R', KNOWN).names).toEqual(['R', 'other.R']);
    expect(compileFormula('1 + 1', KNOWN).names).toEqual([]);
    // What is named and not there counts as nothing.
    expect(compileFormula('R + 1', KNOWN).evaluate({}, 1)).toBe(1);
  });

  test('nothing that it can be given makes a number that is none out of numbers', () => {
    for (const f of FUNCTIONS)
      for (const v of [0, -1, -1e9, 1e9]) {
        const arity = ['min', 'max', 'pow', 'atan2', 'step'].includes(f) ? 2 : ['clamp', 'mix', 'smoothstep'].includes(f) ? 3 : 1;
        const text = `${f}(${new Array<string>(arity).fill(`(${v})`).join(', ')})`;
        const made = compileFormula(text, KNOWN).evaluate({}, 1);
        expect([text, Number.isNaN(made)]).toEqual([text, false]);
      }
  });

  test.each([
    ['R +', /character \d+: .*, at “/],
    ['R * * G', /character \d+/],
    ['B', /“B” is not known; there are R, G, x, frame, other\.R/],
    ['other.Q', /“other\.Q” is not known/],
    ['glow(R)', /“glow” is no function; there are abs, /],
    ['sin(R, G)', /“sin” takes 1 value, at “sin\(R, G\)”/],
    ['clamp(R)', /“clamp” takes 3 values/],
    ['min(R)', /“min” takes 2 values or more/],
    ['R[0]', /brackets/],
    ['"red"', /only numbers are values here/],
    ['~R', /“~” is not known/],
    ['R << 2', /“<<” is not known/],
    ['R; G', /one value/],
    ['[R, G]', /one value|character/],
    ['', /one value/],
    [`${'R+'.repeat(1001)}R`, /2000 characters at most/],
  ])('%.20s is refused, and where', (text, why) => expect(() => compileFormula(text, KNOWN)).toThrow(why));

  test.each(['toString', 'constructor', '__proto__', 'constructor(R)', 'toString(R)', 'valueOf(R, G)', 'R.constructor'])(
    '%s reaches nothing of the program',
    (text) => expect(() => compileFormula(text, KNOWN)).toThrow(/is not known|is no function/),
  );
});
