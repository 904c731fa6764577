import { nodeKernels } from '@/engine/node/host';
import { channelsForSpace, planesFromCodes, settleAlpha, settleColour } from '../formats/ingest';
import { encodeMedia } from '@/engine/codecs';
import { DEFAULT_OUTPUT } from '../formats/output';
import { inspectExr, readExr } from '../formats/exr/read';
import { rect } from '../geometry/rect';
import { apply3, bradford, betweenPrimaries, PRIMARIES, REC709_PRIMARIES, toXyz } from './primaries';
import { LINEAR_SPACES, SPACES, SPACE_NAMES, matricesOf, spaceOfChromaticities } from './spaces';

const close = (got: readonly number[], want: readonly number[], tolerance: number): void => {
  expect(got).toHaveLength(want.length);
  got.forEach((v, i) => expect(Math.abs(v - want[i]!)).toBeLessThanOrEqual(tolerance));
};

describe('primaries', () => {
  test('Rec.709 to XYZ is the published matrix', () => {
    close(
      toXyz(REC709_PRIMARIES),
      [0.4123908, 0.3575843, 0.1804808, 0.212639, 0.7151687, 0.0721923, 0.0193308, 0.1191948, 0.9505322],
      1e-6,
    );
  });

  test('Bradford from D65 to D50 is the published matrix', () => {
    const d50 = [0.3457, 0.3585] as const;
    close(bradford([0.3127, 0.329], d50), [1.0479, 0.0229, -0.0502, 0.0296, 0.9904, -0.0171, -0.0092, 0.0151, 0.7519], 2e-4);
  });

  test('AP1 to Rec.709 is the published matrix, and Rec.2020 to Rec.709 that of BT.2087', () => {
    close(
      betweenPrimaries(PRIMARIES.ap1, REC709_PRIMARIES),
      [1.70505, -0.62179, -0.08326, -0.13026, 1.1408, -0.01055, -0.024, -0.12897, 1.15297],
      2e-4,
    );
    close(
      betweenPrimaries(PRIMARIES.rec2020, REC709_PRIMARIES),
      [1.6605, -0.5876, -0.0728, -0.1246, 1.1329, -0.0083, -0.0182, -0.1006, 1.1187],
      1e-4,
    );
  });

  test.each(SPACE_NAMES)('%s: white stays white', (space) => {
    const m = matricesOf(space);
    if (m) close(apply3(m.toWorking, [1, 1, 1]), [1, 1, 1], 1e-6);
  });
});

describe('transfer functions', () => {
  // Codes of 18 % grey and of 90 % white as their makers and standards publish them, in 10 bits or as a share.
  test.each([
    ['S-Log3', 0.18, 420 / 1023],
    ['S-Log3', 0.9, 598 / 1023],
    ['LogC3', 0.18, 0.391],
    ['LogC4', 0.18, 0.2784],
    ['V-Log', 0.18, 433 / 1023],
    ['V-Log', 0.9, 602 / 1023],
    ['Log3G10', 0.18, 1 / 3],
    ['C-Log3', 0.18, 0.3434],
    ['Cineon', 1, 685 / 1023],
    ['Cineon', 0, 95 / 1023],
    ['PQ', 100, 1],
    ['PQ', 10, 0.7518],
    ['PQ', 1, 0.5081],
    ['HLG', 1, 1],
    ['HLG', 1 / 12, 0.5],
    ['gamma 2.2', 0.18, 0.18 ** (1 / 2.2)],
  ] as const)('%s: %s has the code %s', (space, light, code) => {
    expect(Math.abs(SPACES[space].transfer.encode(light) - code)).toBeLessThan(1e-3);
  });

  test.each(SPACE_NAMES)('%s: to light and back within 1e-5, and light rises with the code', (space) => {
    const { decode, encode } = SPACES[space].transfer;
    let last = -Infinity;
    for (let i = 0; i <= 400; i++) {
      const code = i / 400;
      const light = decode(code);
      expect(light).toBeGreaterThanOrEqual(last);
      last = light;
      expect(Math.abs(encode(light) - code)).toBeLessThan(1e-5);
    }
  });

  test.each(SPACE_NAMES)('%s: a colour to the space and back within 1e-5', (space) => {
    const { decode, encode } = SPACES[space].transfer;
    const m = matricesOf(space);
    for (const colour of [
      [0.18, 0.18, 0.18],
      [0.9, 0.02, 0.4],
      [0.001, 0.6, 0.3],
    ] as const) {
      const there = (m ? apply3(m.toSpace, colour) : [...colour]) as [number, number, number];
      // Cineon has no code for light below its black.
      if (space === 'Cineon' && there.some((v) => v < 0)) continue;
      const back = there.map((v) => decode(encode(v))) as [number, number, number];
      close(m ? apply3(m.toWorking, back) : back, colour, 1e-5);
    }
  });
});

describe('pictures', () => {
  test('a saturated code of a wide space becomes negative light in a narrower one, not a clipped colour', async () => {
    const k = await nodeKernels();
    const codes = { width: 1, height: 1, bits: 8 as const, channels: 3 as const, data: Uint8Array.from([0, 255, 0]) };
    const got = planesFromCodes(codes, 'linear Rec.2020', k);
    close(
      ['R', 'G', 'B'].map((c) => got.planes[c]![0]!),
      [-0.5876, 1.1329, -0.1006],
      1e-4,
    );
    Object.values(got.planes).forEach((p) => k.give(p));
  });

  test('written as ACEScg and read by its header, a picture is what it was', async () => {
    const k = await nodeKernels();
    const planes = Object.fromEntries(
      [
        ['R', 0.9],
        ['G', 0.2],
        ['B', 0.05],
      ].map(([c, v]) => [c, k.copy([v as number, 0.18])]),
    );
    const settings = { ...DEFAULT_OUTPUT, colourSpace: 'ACEScg', bits: 32, alpha: false } as const;
    const bytes = await encodeMedia({ region: rect(0, 0, 2, 1), planes }, { width: 2, height: 1, pixelAspect: 1 }, settings, k);
    expect(planes.R![0]).toBeCloseTo(0.9, 6);
    const space = spaceOfChromaticities(inspectExr(bytes, 'a.exr').parts[0]!.attributes.chromaticities);
    expect(space).toBe('ACEScg');
    const stored = readExr(bytes, 'a.exr', k);
    expect(Math.abs(stored.planes.R![0]! - 0.9)).toBeGreaterThan(0.1);
    const back = settleColour(stored, space!, k);
    for (const c of 'RGB') close([...back.planes[c]!], [...planes[c]!], 1e-5);
    [...Object.values(planes), ...Object.values(back.planes)].forEach((p) => k.give(p));
  });

  test('layers without three colours are data and stay as they are', async () => {
    const k = await nodeKernels();
    const fill = (v: number) => k.copy([v]);
    const planes = { 'diffuse.R': fill(1), 'diffuse.G': fill(0), 'diffuse.B': fill(0), 'N.X': fill(0.7), Z: fill(3) };
    const one = { width: 1, height: 1, pixelAspect: 1 };
    const got = settleColour({ format: one, bounds: rect(0, 0, 1, 1), channels: Object.keys(planes), planes }, 'ACEScg', k);
    expect(got.planes['diffuse.R']![0]).toBeCloseTo(1.705, 2);
    expect([got.planes['N.X']![0], got.planes.Z![0]]).toEqual([Math.fround(0.7), 3]);
    Object.values(planes).forEach((p) => k.give(p));
  });

  test('one channel of a wide space needs its two neighbours; of a space with the same primaries it does not', () => {
    const all = ['R', 'G', 'B', 'A', 'N.X'];
    expect([...channelsForSpace(['G', 'N.X'], all, 'ACEScg')].sort()).toEqual(['B', 'G', 'N.X', 'R']);
    expect([...channelsForSpace(['G'], all, 'sRGB')]).toEqual(['G']);
  });

  test('an element on black gets its coverage from its brightness, held at 1, and keeps its light', async () => {
    const k = await nodeKernels();
    const planes = { R: k.copy([0.5, 3, 0]), G: k.copy([0.5, 3, 0]), B: k.copy([0.5, 3, 0]) };
    const one = { width: 3, height: 1, pixelAspect: 1 };
    const got = settleAlpha({ format: one, bounds: rect(0, 0, 3, 1), channels: ['R', 'G', 'B'], planes }, 'luma', k);
    close([...got.planes.A!], [0.5, 1, 0], 1e-6);
    expect([...got.planes.R!]).toEqual([0.5, 3, 0]);
    Object.values(got.planes).forEach((p) => k.give(p));
  });

  test('every linear space is found again by its chromaticities', () => {
    for (const s of LINEAR_SPACES) {
      const { red, green, blue, white } = SPACES[s].primaries;
      expect(spaceOfChromaticities([...red, ...green, ...blue, ...white])).toBe(s);
    }
    expect(spaceOfChromaticities([0.5, 0.3, 0.3, 0.6, 0.2, 0.1, 0.3, 0.3])).toBeUndefined();
  });
});
