import type { ColourSample } from '../../keying/samples';
import { sampleBox, samplesOf } from '../../keying/samples';
import { evaluate, flat } from '../../testing/evaluate';

const GREEN = [0.05, 0.25, 0.07];
/** Pixels around a colour in light of several stops, as a box over uneven ground has them. */
function patch(colour: readonly number[], of: 'screen' | 'subject') {
  const pixels = new Float32Array(4 * 64);
  for (let i = 0; i < 64; i++) pixels.set([...colour.map((c, k) => c * (0.7 + 0.01 * i) * (1 + 0.03 * Math.sin(i * 7.1 + k))), 1], 4 * i);
  return sampleBox(pixels, 8, [0, 0, 8, 8], 12, of);
}
const keyOf = async (samples: readonly ColourSample[], colour: readonly number[], params = {}): Promise<number> => {
  const got = await evaluate({ main: flat(4, 4, colour[0]!, colour[1], colour[2]) }, [
    { type: 'rangeKey', params: { samples, ...params } },
  ]);
  return got.at('A', 1, 1);
};

describe('range key', () => {
  const both = [patch(GREEN, 'screen'), patch([0.4, 0.3, 0.2], 'subject')];

  test('what was marked as screen is empty and what was marked as subject solid, in other light too', async () => {
    for (const k of [0.75, 1, 1.3]) {
      expect(
        await keyOf(
          both,
          GREEN.map((c) => c * k),
        ),
      ).toBe(0);
      expect(await keyOf(both, [0.4 * k, 0.3 * k, 0.2 * k])).toBe(1);
    }
  });

  test('a second colour of the subject is kept once it is marked', async () => {
    const blue = [0.05, 0.06, 0.2];
    const more = [patch(GREEN, 'screen'), patch([0.4, 0.3, 0.2], 'subject'), patch(blue, 'subject')];
    expect(await keyOf(more, blue)).toBe(1);
    expect(await keyOf(more, GREEN)).toBe(0);
    expect(await keyOf(more, [0.4, 0.3, 0.2])).toBe(1);
  });

  test('with the screen alone marked everything else is kept', async () => {
    const screen = [patch(GREEN, 'screen')];
    expect(await keyOf(screen, GREEN)).toBe(0);
    expect(await keyOf(screen, [0.3, 0.3, 0.3])).toBe(1);
  });

  test('without samples the picture passes', async () => {
    expect(await keyOf([], GREEN)).toBe(1);
  });

  test('damaged samples are told, not used', async () => {
    for (const list of [[{ frame: 1 }], [{ frame: 1, box: [0, 0, 1, 1], of: 'screen', colours: [1, 2] }]]) {
      expect(() => samplesOf(list)).toThrow('samples are damaged');
      await expect(keyOf(list as never, GREEN)).rejects.toThrow('samples are damaged');
    }
    expect(() => samplesOf('{')).toThrow('samples are damaged');
  });

  test('samples come back as they were written, and colours of no number are left out', () => {
    expect(samplesOf(JSON.parse(JSON.stringify(both)))).toEqual(both);
    expect(both[0]!.colours.length).toBe(3 * 64);
    expect(sampleBox(new Float32Array(16).fill(NaN), 2, [0, 0, 2, 2], 1, 'screen').colours).toEqual([]);
  });
});
