import { MediaError } from '../errors';
import { floatOfId, hexOfId, idAttributes, idLayers, idOfName, murmur3, readManifest } from './cryptomatte';

const channels = (name: string, levels: number, spelling = ['R', 'G', 'B', 'A']): string[] =>
  Array.from({ length: levels }, (_, l) => spelling.map((c) => `${name}0${l}.${c}`)).flat();

describe('ID mattes', () => {
  test.each([
    // Published values of MurmurHash3_x86_32 with seed 0.
    ['', 0],
    ['hello', 0x248bfa47],
    ['hello, world', 0x149bbb7f],
    ['The quick brown fox jumps over the lazy dog', 0x2e4ff723],
  ] as const)('the hash of "%s"', (text, hash) => expect(murmur3(text)).toBe(hash));

  test('ids are finite floats that are not subnormal, and keep their bits', () => {
    for (let i = 0; i < 3000; i++) {
      const id = idOfName(`thing ${i}`);
      const f = floatOfId(id);
      expect(Number.isFinite(f) && Math.abs(f) >= 2 ** -126).toBe(true);
      expect(new Uint32Array(Float32Array.of(f).buffer)[0]).toBe(id);
    }
  });

  test('what is written in a header is found in it, with its ranks and names', () => {
    const attributes = { ...idAttributes('CryptoObject', ['helmet', 'glass']), comments: 'x' };
    const [layer, ...rest] = idLayers(attributes, ['R', ...channels('CryptoObject', 2)]);
    expect(rest).toEqual([]);
    expect(layer!.ranks).toEqual([
      ['CryptoObject00.R', 'CryptoObject00.G'],
      ['CryptoObject00.B', 'CryptoObject00.A'],
      ['CryptoObject01.R', 'CryptoObject01.G'],
      ['CryptoObject01.B', 'CryptoObject01.A'],
    ]);
    expect(layer!.manifest[hexOfId(idOfName('glass'))]).toBe('glass');
  });

  test('long spellings count, a header without the channels does not, and a damaged manifest is no manifest', () => {
    const attributes = { 'cryptomatte/abc/name': 'Mat', 'cryptomatte/abc/manifest': '{"a":', 'cryptomatte/abc/manif_file': 'mat.json' };
    const [layer] = idLayers(attributes, channels('Mat', 1, ['red', 'green', 'blue', 'alpha']));
    expect([layer!.ranks.length, layer!.manifest, layer!.sidecar]).toEqual([2, {}, 'mat.json']);
    expect(idLayers(attributes, ['R', 'G', 'B'])).toEqual([]);
  });

  test('a manifest beside the picture is read, and what is none is refused', () => {
    expect(readManifest('{"buoy":"0011FFaa"}', 'm.json')).toEqual({ '0011ffaa': 'buoy' });
    for (const bad of ['', '[]', 'null', '{"a":1}', '{"a":"xyz"}']) expect(() => readManifest(bad, 'm.json')).toThrow(MediaError);
  });
});
