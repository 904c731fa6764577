import { isData, keepsValues, kindOfLayer, passesOf } from './layers';

describe('layers by their names', () => {
  test.each([
    ['diffuse', 'colour'],
    ['specular_indirect', 'colour'],
    ['light_moon', 'light'],
    ['Z', 'depth'],
    ['zdepth', 'depth'],
    ['N', 'normal'],
    ['world_position', 'position'],
    ['motionvector', 'motion'],
    ['uv', 'uv'],
    ['objectId', 'id'],
    ['CryptoObject00', 'id'],
    ['CryptoMaterial01', 'id'],
    ['ao', 'matte'],
    ['ViewLayer.Normal', 'normal'],
    ['lighthouse', 'colour'],
    ['nozzle', 'colour'],
  ] as const)('%s is %s', (name, kind) => expect(kindOfLayer(name)).toBe(kind));

  test('a channel list becomes passes: the main picture first, lone channels by themselves', () => {
    const passes = passesOf(['A', 'B', 'G', 'R', 'Z', 'N.X', 'N.Y', 'N.Z', 'diffuse.B', 'diffuse.G', 'diffuse.R', 'light_moon.R']);
    expect(passes.map((p) => [p.name, p.kind, p.channels.length])).toEqual([
      ['', 'colour', 4],
      ['diffuse', 'colour', 3],
      ['light_moon', 'light', 1],
      ['Z', 'depth', 1],
      ['N', 'normal', 3],
    ]);
  });

  test('data is kept from changes of primaries, and ids from means', () => {
    expect(['N.X', 'Z', 'CryptoObject00.R', 'uv.U'].every(isData)).toBe(true);
    expect(['R', 'diffuse.R', 'light_moon.B', 'A'].some(isData)).toBe(false);
    expect([keepsValues('objectId.Y'), keepsValues('CryptoObject01.A'), keepsValues('N.X'), keepsValues('ao.V'), keepsValues('R')]).toEqual(
      [true, true, true, false, false],
    );
  });
});
