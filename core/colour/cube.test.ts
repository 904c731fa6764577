import { nodeKernels } from '@/engine/node/host';
import { evaluate, flat } from '../testing/evaluate';
import { MediaError } from '../errors';
import { applyCube, formatCube, giveCube, parseCube, prepareCube } from './cube';
import type { Cube } from './cube';
import { SPACES } from './spaces';

/** A cube of a function of red, green and blue. */
const cubeOf = (size: number, f: (r: number, g: number, b: number) => number[], low = 0, high = 1): Cube => {
  const at = (i: number): number => low + ((high - low) * i) / (size - 1);
  const data: number[] = [];
  for (let b = 0; b < size; b++) for (let g = 0; g < size; g++) for (let r = 0; r < size; r++) data.push(...f(at(r), at(g), at(b)));
  return { title: 'test', cube: { size, low: [low, low, low], high: [high, high, high], data: Float32Array.from(data) } };
};

async function through(cube: Cube, colours: readonly (readonly [number, number, number])[]): Promise<number[][]> {
  const k = await nodeKernels();
  const planes = [0, 1, 2].map((c) => k.copy(colours.map((v) => v[c]!))) as unknown as Parameters<typeof applyCube>[1];
  const prepared = prepareCube(cube, k);
  applyCube(prepared, planes, k);
  const out = colours.map((_, i) => planes.map((p) => p[i]!));
  giveCube(prepared, k);
  planes.forEach((p) => k.give(p));
  return out;
}

const near = (got: readonly number[], wanted: readonly number[], within = 1e-6): void =>
  wanted.forEach((w, i) => expect(Math.abs(got[i]! - w)).toBeLessThan(within));

describe('colour tables', () => {
  test('what is linear comes back exactly, in every one of the six tetrahedra', async () => {
    const mix = (r: number, g: number, b: number): number[] => [0.5 * r + 0.25 * g, b - 0.5 * g, r + g + b];
    const colours = [
      [0.9, 0.5, 0.1],
      [0.9, 0.1, 0.5],
      [0.5, 0.1, 0.9],
      [0.1, 0.5, 0.9],
      [0.1, 0.9, 0.5],
      [0.5, 0.9, 0.1],
      [0, 0, 0],
      [1, 1, 1],
    ] as const;
    const got = await through(cubeOf(5, mix), colours);
    colours.forEach(([r, g, b], i) => near(got[i]!, mix(r, g, b)));
  });

  test('along the grey diagonal only the two greys of a cell count', async () => {
    const spiky = cubeOf(3, (r, g, b) => (r === g && g === b ? [r, g, b] : [9, 9, 9]));
    near((await through(spiky, [[0.3, 0.3, 0.3]]))[0]!, [0.3, 0.3, 0.3]);
  });

  test('beyond the domain the ends hold, and a domain of its own is honoured', async () => {
    const got = await through(
      cubeOf(4, (r, g, b) => [r, g, b], -1, 3),
      [
        [-5, 0.5, 9],
        [2.5, -0.5, 1],
      ],
    );
    near(got[0]!, [-1, 0.5, 3]);
    near(got[1]!, [2.5, -0.5, 1]);
  });

  test('curves are linear between entries; curves before a cube come first', async () => {
    const text = ['LUT_1D_SIZE 3', '0 0 0', '0.5 0.25 0.1', '1 1 1'].join('\n');
    near((await through(parseCube(text, 'a.cube'), [[0.25, 0.75, 0.5]]))[0]!, [0.25, 0.625, 0.1]);
    const both = [
      'LUT_1D_SIZE 2',
      'LUT_1D_INPUT_RANGE 0 2',
      'LUT_3D_SIZE 2',
      'LUT_3D_INPUT_RANGE 0 1',
      '0 0 0',
      '1 1 1',
      ...[0, 1].flatMap((b) => [0, 1].flatMap((g) => [0, 1].map((r) => `${1 - r} ${g} ${b}`))),
    ].join('\n');
    const parsed = parseCube(both, 'b.cube');
    near((await through(parsed, [[1, 0.5, 2]]))[0]!, [0.5, 0.25, 1]);
    near((await through(parseCube(formatCube(parsed), 'c.cube'), [[1, 0.5, 2]]))[0]!, [0.5, 0.25, 1]);
  });

  test('written and read again it is the same table', () => {
    const cube = cubeOf(3, (r, g, b) => [r * 0.3333333, g ** 2, b - 0.125], -0.5, 2);
    const back = parseCube(formatCube({ ...cube, title: 'a "warm" look' }), 'a.cube');
    expect(back.title).toBe("a 'warm' look");
    expect(back.cube).toEqual(cube.cube);
  });

  test.each<[string, string, RegExp]>([
    ['nothing', '', /no \.cube file/],
    ['a size of one', 'LUT_3D_SIZE 1', /line 1: LUT_3D_SIZE is a whole number from 2 to 256/],
    ['a huge size', 'LUT_3D_SIZE 4000', /from 2 to 256/],
    ['a line too few', 'LUT_1D_SIZE 2\n0 0 0', /should hold 2 lines of three numbers and holds 1/],
    ['two numbers', 'LUT_1D_SIZE 2\n0 0\n1 1 1', /line 2: three numbers are wanted/],
    ['a word among numbers', 'LUT_1D_SIZE 2\n0 0 0\n1 x 1', /line 3: three numbers are wanted/],
    ['a domain upside down', 'LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 0 0\n0 0 0\n1 1 1', /DOMAIN_MAX is not above/],
    ['a range of one number', 'LUT_1D_SIZE 2\nLUT_1D_INPUT_RANGE 1\n', /takes two numbers/],
  ])('%s is refused', (_, text, message) => {
    expect(() => parseCube(text, 'bad.cube')).toThrow(MediaError);
    expect(() => parseCube(text, 'bad.cube')).toThrow(message);
  });
});

describe('steps that use them', () => {
  const invert = cubeOf(2, (r, g, b) => [1 - r, 1 - g, 1 - b]);

  test('a table meets the values it was made for', async () => {
    const params = { table: 'look', takes: 'sRGB', gives: 'sRGB' };
    const got = await evaluate({ main: flat(3, 2, 0.5, 0.2, 0.05) }, [{ type: 'lut', params }], { tables: { look: invert } });
    const { encode, decode } = SPACES.sRGB.transfer;
    near(
      ['R', 'G', 'B'].map((c) => got.at(c, 1, 1)),
      [0.5, 0.2, 0.05].map((v) => decode(1 - encode(v))),
      1e-5,
    );
  });

  test('without a table nothing changes; a table that is gone is passed by and told of', async () => {
    const none = await evaluate({ main: flat(2, 2, 0.3) }, [{ type: 'lut' }]);
    expect(none.at('R', 0, 0)).toBeCloseTo(0.3, 6);
    const gone = await evaluate({ main: flat(2, 2, 0.3) }, [{ type: 'lut', params: { table: 'lost' } }]);
    expect(gone.at('R', 0, 0)).toBeCloseTo(0.3, 6);
    expect(gone.plan.remarks[0]!.message).toMatch(/no longer among the sources/);
  });

  test('half-covered pixels are looked up by their own colour', async () => {
    const got = await evaluate({ main: flat(2, 2, 0.2, 0.2, 0.2, 0.5) }, [{ type: 'lut', params: { table: 'look' } }], {
      tables: { look: invert },
    });
    expect(got.at('R', 0, 0)).toBeCloseTo(0.5 * (1 - 0.4), 5);
    expect(got.at('A', 0, 0)).toBeCloseTo(0.5, 6);
  });

  test('a colour space step and its opposite leave the picture as it was', async () => {
    const there = { type: 'colourSpace', params: { from: 'linear', to: 'LogC3' } };
    const back = { type: 'colourSpace', params: { from: 'LogC3', to: 'linear' } };
    const log = await evaluate({ main: flat(2, 2, 0.18) }, [there]);
    expect(log.at('G', 0, 0)).toBeCloseTo(0.391, 2);
    const both = await evaluate({ main: flat(2, 2, 0.7, 0.18, 0.02) }, [there, back]);
    near(
      ['R', 'G', 'B'].map((c) => both.at(c, 1, 0)),
      [0.7, 0.18, 0.02],
      1e-5,
    );
  });
});
