import { nodeKernels } from '@/engine/node/host';
import type { Kernels, Plane } from '@/kernels';
import { passesOf } from '../layers';
import type { Picture } from '../picture';
import { adjustLight, factorsOf, onlyScaled } from './adjust';
import { scaleRays, takeFromSolid, toDistance } from './depth';
import { floatsOf, idAt, idChannels, idSetOf, idSets } from './id';
import { channelsOfPass, mergedOf, passesMerged, toPixels, toUsual } from './merge';
import { solidNoise } from './noise';
import { solidPixels } from './pass-frame';
import type { RoledPass } from './roles';
import { passOf, roleByName, roledPasses } from './roles';

const FORMAT = { width: 4, height: 2, pixelAspect: 1 };
const region = { x0: 0, y0: 0, x1: 4, y1: 2 };
const pass = (name: string, kind: RoledPass['kind'] = 'colour'): RoledPass => ({ name, kind, channels: [], role: 'other' });
const rgb = (layer: string): string[] => ['R', 'G', 'B'].map((c) => `${layer}.${c}`);

describe('what a pass is for, by its name', () => {
  test.each([
    ['diffuse', 'diffuse'],
    ['diffuse_direct', 'diffuse'],
    ['direct_diffuse', 'diffuse'],
    ['indirectDiffuse', 'diffuse'],
    ['spec', 'specular'],
    ['glossy_indirect', 'specular'],
    ['reflections', 'reflection'],
    ['refr', 'refraction'],
    ['transmission_direct', 'transmission'],
    ['SSS', 'subsurface'],
    ['subsurface_scattering', 'subsurface'],
    ['emission', 'emission'],
    ['self_illumination', 'emission'],
    ['clearcoat', 'coat'],
    ['sheen_indirect', 'sheen'],
    ['atmosphere', 'volume'],
    ['base_color', 'albedo'],
    ['diffuse_colour', 'albedo'],
    ['ambient_occlusion', 'occlusion'],
    ['rawDiffuse', 'other'],
    ['diffuseRaw', 'raw'],
    ['raw_lighting', 'raw'],
    ['diffuse_filter', 'filter'],
    ['ViewLayer.Combined', 'beauty'],
    ['quay.specular', 'specular'],
    ['puddles', 'other'],
  ])('%s is %s', (name, role) => expect(roleByName(pass(name))).toBe(role));

  test('the main picture is the beauty, and a kind that speaks for itself is its role', () => {
    expect(roleByName(pass(''))).toBe('beauty');
    expect(roleByName(pass('deep.z', 'depth'))).toBe('depth');
    expect(roleByName(pass('lgt_lantern', 'light'))).toBe('light');
    expect(roleByName(pass('objectID', 'id'))).toBe('id');
    expect(roleByName(pass('CryptoObject00', 'id'))).toBe('cryptomatte');
  });

  test('what somebody has noted counts before the name', () => {
    const channels = ['R', 'G', 'B', 'A', ...rgb('spec'), 'Z'];
    const told = roledPasses(channels, { spec: { role: 'reflection' } });
    expect(told.map(({ name, role }) => [name, role])).toEqual([
      ['', 'beauty'],
      ['spec', 'reflection'],
      ['Z', 'depth'],
    ]);
    expect(passOf(told, '', 'depth')?.name).toBe('Z');
    expect(passOf(told, 'spec', 'specular')?.role).toBe('reflection');
    expect(passOf(told, 'none', 'depth')).toBeUndefined();
    expect(passOf(undefined, '', 'depth')).toBeUndefined();
  });

  test('the channels of a pass stand as they are spoken of, and the main picture is first', () => {
    const found = passesOf(['A', 'B', 'G', 'N.Z', 'N.X', 'N.Y', 'R', 'Z', 'uv.V', 'uv.U']);
    expect(found.map((p) => [p.name, p.kind, p.channels.join(' ')])).toEqual([
      ['', 'colour', 'R G B A'],
      ['Z', 'depth', 'Z'],
      ['N', 'normal', 'N.X N.Y N.Z'],
      ['uv', 'uv', 'uv.U uv.V'],
    ]);
  });
});

describe('depth', () => {
  const distance = (values: number[], facts: Parameters<typeof toDistance>[2]): number[] => {
    const plane = Float32Array.from(values);
    toDistance(plane, { x0: 0, y0: 0, x1: values.length, y1: 1 }, facts);
    return [...plane];
  };

  test('is a distance along the view, however it was stored', () => {
    expect(distance([2, 8], {})).toEqual([2, 8]);
    expect(distance([0.5, 0.125], { as: 'inverse' })).toEqual([2, 8]);
    expect(distance([1, 0.5], { as: 'nearness', from: [10, 2] })).toEqual([2, 6]);
  });

  test('nothing is there at infinity, behind the camera, where it is no number, and from a value on that says so', () => {
    expect(distance([Infinity, -3, 0, NaN, 5], {})).toEqual([Infinity, Infinity, Infinity, Infinity, 5]);
    expect(distance([999, 1000, 1e10], { nothing: 1000 })).toEqual([999, Infinity, Infinity]);
    // Of 1 / distance the value itself is meant, since greater ones are near.
    expect(distance([0.01, 4], { as: 'inverse', nothing: 0.01 })).toEqual([Infinity, 0.25]);
  });

  test('along rays it is longer by the ray: a wall square to the view is flat again', () => {
    const focal = 2;
    const wall = new Float32Array(8).fill(3);
    const rays = wall.slice();
    scaleRays(rays, region, focal, FORMAT, 1);
    // The pixel at the left top looks 1.5 px to the side and 0.5 px up.
    expect(rays[0]).toBeCloseTo(3 * Math.hypot(1, 1.5 / 2, 0.5 / 2), 6);
    toDistance(rays, region, { along: 'ray' }, focal, FORMAT);
    rays.forEach((v) => expect(v).toBeCloseTo(3, 6));
  });

  test('at a soft edge it is taken from the neighbour that is covered most, and is not a mixture', () => {
    const alpha = Float32Array.from([1, 0.6, 0.2, 0]);
    const z = Float32Array.from([4, 7, 9, Infinity]);
    takeFromSolid([z], alpha, 4);
    expect([...z]).toEqual([4, 4, 7, Infinity]);
  });
});

describe('IDs', () => {
  const crypto = ['CryptoAsset00', 'CryptoAsset01'];
  const channels = [
    'R',
    'G',
    'B',
    'A',
    ...crypto.flatMap((l) => ['R', 'G', 'B', 'A'].map((c) => `${l}.${c}`)),
    'objectID',
    ...rgb('partid'),
  ];
  const passes: RoledPass[] = [
    { name: 'CryptoAsset01', kind: 'id', channels: [], role: 'cryptomatte' },
    { name: 'CryptoAsset00', kind: 'id', channels: [], role: 'cryptomatte' },
    { name: 'objectID', kind: 'id', channels: ['objectID'], role: 'id' },
    { name: 'partid', kind: 'id', channels: rgb('partid'), role: 'id' },
  ];
  const picture = { format: FORMAT, bounds: region, channels, passes } as unknown as Parameters<typeof idSets>[0];

  test('a picture says in three ways what is where, Cryptomatte first and its ranks in order', () => {
    const sets = idSets(picture);
    expect(sets.map((s) => [s.kind, s.name])).toEqual([
      ['cryptomatte', 'CryptoAsset'],
      ['number', 'objectID'],
      ['colour', 'partid'],
    ]);
    expect(idChannels(sets[0]!)).toEqual(crypto.flatMap((l) => ['R', 'G', 'B', 'A'].map((c) => `${l}.${c}`)));
    expect(idSetOf(picture, '')).toEqual(sets[0]);
    expect(idSetOf(picture, 'objectID')).toEqual(sets[1]);
    expect(idSetOf(picture, 'none')).toBeUndefined();
  });

  test('a level of Cryptomatte that lacks a channel is left out', () => {
    const cut = { ...picture, channels: channels.filter((c) => c !== 'CryptoAsset01.A') };
    expect(idChannels(idSets(cut)[0]!)).toHaveLength(4);
  });

  test('what covers a pixel most is picked: its hex digits stand for the very float in the file', () => {
    const [set, numbers, colours] = idSets(picture);
    const [quay, diver] = floatsOf(set!, [{ id: '3f000000' }, { id: '7d1a2b3c' }]);
    const values: Record<string, number> = {
      'CryptoAsset00.R': quay!,
      'CryptoAsset00.G': 0.3,
      'CryptoAsset00.B': diver!,
      'CryptoAsset00.A': 0.6,
    };
    expect(idAt(set!, (c) => values[c] ?? 0)).toBe('7d1a2b3c');
    expect(idAt(set!, () => 0)).toBeNull();
    expect(idAt(numbers!, () => 12)).toBe('12');
    expect(idAt(numbers!, () => NaN)).toBeNull();
    expect(idAt(colours!, (c) => (c.endsWith('R') ? 0.25 : 0.5))).toBe('0.25,0.5,0.5');
    expect([...floatsOf(colours!, [{ id: '0.25,0.5,0.5' }])]).toEqual([0.25, 0.5, 0.5]);
    expect([...floatsOf(numbers!, [{ id: '12' }, { id: '7' }])]).toEqual([12, 7]);
  });
});

describe('data that goes along with a join', () => {
  const depth: RoledPass = { name: 'deep', kind: 'depth', channels: ['deep.V'], role: 'depth' };
  const motion: RoledPass = { name: 'mv', kind: 'motion', channels: ['mv.X', 'mv.Y'], role: 'motion', facts: { unit: 'half' } };
  const spec: RoledPass = { name: 'spec', kind: 'colour', channels: rgb('spec'), role: 'specular' };
  const info = (passes: RoledPass[]) => ({ format: FORMAT, bounds: region, channels: [], passes }) as never;

  test('depth always does; the rest where either side has it', () => {
    expect(mergedOf(info([spec])).map((m) => m.name)).toEqual(['Z']);
    expect(mergedOf(info([spec]), info([motion])).map((m) => m.name)).toEqual(['Z', 'motion']);
  });

  test('what comes out has the usual meaning, and the other passes of the main picture are kept', () => {
    const out = passesMerged(info([depth, spec]), info([motion]));
    expect(out.map((p) => [p.name, p.role, p.facts])).toEqual([
      ['spec', 'specular', undefined],
      ['Z', 'depth', undefined],
      ['motion', 'motion', undefined],
    ]);
    expect(channelsOfPass({ ...depth, channels: ['deep.V', 'deep.W'] })).toEqual(['deep.V']);
  });

  test('motion is pixels of the whole format along the movement, at any proxy scale', () => {
    const moved = (facts: RoledPass['facts'], axis: 0 | 1, scale = 1): number[] => {
      const plane = Float32Array.of(0.5, NaN);
      toPixels(plane, axis, facts, FORMAT, scale);
      return [...plane];
    };
    expect(moved({}, 0)).toEqual([0.5, 0]);
    expect(moved({ unit: 'frame' }, 0)).toEqual([2, 0]);
    expect(moved({ unit: 'half' }, 1)).toEqual([0.5, 0]);
    expect(moved({ unit: 'frame', towards: 'previous' }, 1)).toEqual([-1, 0]);
    expect(moved({ turned: 'y' }, 1)).toEqual([-0.5, 0]);
    expect(moved({ unit: 'frame' }, 0, 0.5)).toEqual([4, 0]);
  });

  test('normals are unpacked and their axes turned back', () => {
    const usual = (facts: RoledPass['facts'], k: number): number => {
      const plane = Float32Array.of(0.75);
      toUsual(plane, { name: 'N', kind: 'normal', channels: [], role: 'normal', ...(facts && { facts }) }, k, region, FORMAT, 1, 50);
      return plane[0]!;
    };
    expect(usual(undefined, 0)).toBe(0.75);
    expect(usual({ packed: true }, 0)).toBe(0.5);
    expect(usual({ packed: true, turned: 'y' }, 1)).toBe(-0.5);
    expect(usual({ turned: 'yz' }, 0)).toBe(0.75);
  });
});

describe('the light of a part', () => {
  const plain = { on: true, gain: 0, tint: [1, 1, 1] as [number, number, number], saturation: 1, black: 0, white: 1, gamma: 1 };
  let kernels: Kernels;
  beforeAll(async () => {
    kernels = await nodeKernels();
  });
  const adjusted = (light: number[], alpha: number, more: Partial<typeof plain>): number[] => {
    const planes = [...light, alpha].map((v) => kernels.zeros(4).fill(v) as Plane);
    adjustLight(kernels, planes.slice(0, 3), planes[3]!, { ...plain, ...more });
    const out = planes.slice(0, 3).map((p) => Number(p[3]!.toPrecision(6)));
    planes.forEach((p) => kernels.give(p));
    return out;
  };

  test('stops and tint multiply, and what is off is black', () => {
    expect(factorsOf({ ...plain, gain: 1, tint: [1, 0.5, 0.25] })).toEqual([2, 1, 0.5]);
    expect(factorsOf({ ...plain, on: false })).toEqual([0, 0, 0]);
    expect([onlyScaled(plain), onlyScaled({ ...plain, gamma: 1.2 })]).toEqual([true, false]);
    expect(adjusted([0.1, 0.2, 0.4], 1, { gain: 1 })).toEqual([0.2, 0.4, 0.8]);
  });

  test('levels act on light divided by its cover: half of a thing stays half of what all of it becomes', () => {
    const whole = adjusted([0.3, 0.5, 0.9], 1, { black: 0.1, white: 0.9, gamma: 2 });
    const half = adjusted([0.15, 0.25, 0.45], 0.5, { black: 0.1, white: 0.9, gamma: 2 });
    expect(whole.map((v) => Number(v.toFixed(5)))).toEqual([0.5, Number(Math.SQRT1_2.toFixed(5)), 1]);
    half.forEach((v, i) => expect(v).toBeCloseTo(0.5 * whole[i]!, 5));
  });

  test('without saturation the three are one, as bright as before', () => {
    const [r, g, b] = adjusted([0.2, 0.6, 0.1], 1, { saturation: 0 }) as [number, number, number];
    expect(r).toBeCloseTo(g, 5);
    expect(b).toBeCloseTo(0.2126 * 0.2 + 0.7152 * 0.6 + 0.0722 * 0.1, 4);
  });
});

test('noise in space is the same again, smooth, and within −1 and 1', () => {
  let [least, most, step] = [1, -1, 0];
  for (let i = 0; i < 4000; i++) {
    const [x, y, z] = [(i % 20) * 0.37, Math.floor(i / 20) * 0.21, i * 0.011];
    const v = solidNoise(x, y, z);
    expect(solidNoise(x, y, z)).toBe(v);
    [least, most] = [Math.min(least, v), Math.max(most, v)];
    step = Math.max(step, Math.abs(solidNoise(x + 1e-3, y, z) - v));
  }
  expect([least >= -1, most <= 1, most - least > 0.8]).toEqual([true, true, true]);
  expect(step).toBeLessThan(0.01);
});

test('only pixels that are wholly covered, with all their neighbours, say how data is meant', () => {
  const bounds = { x0: 0, y0: 0, x1: 7, y1: 7 };
  const alpha = new Float32Array(49).fill(1);
  alpha[3 * 7 + 2] = 0.5;
  const frame: Pick<Picture, 'planes' | 'bounds' | 'format' | 'channels'> = {
    bounds,
    format: FORMAT,
    channels: ['A'],
    planes: { A: alpha as never },
  };
  // Of the inner 3 × 3, the soft pixel at (2, 3) and those beside it are out.
  expect(solidPixels(frame)).toEqual([2 * 7 + 3, 2 * 7 + 4, 3 * 7 + 4, 4 * 7 + 3, 4 * 7 + 4]);
  expect(solidPixels({ ...frame, planes: {} })).toHaveLength(9);
});
