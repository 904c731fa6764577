import { produce } from 'immer';
import { checkShot } from '../document/schema';
import type { Shot, Source } from '../document/types';
import { stepValues } from '../document/values';
import { STEPS } from '../steps';
import { resetParam, setFeed, setParams } from './commands';
import { newLane, newShot } from './make';
import { addLamp, addParts, commandsFor, maskByPasses, removePart, setPass, stepForPasses } from './passes';
import { stillSource } from '../testing/sources';
import { roledPasses } from '../passes/roles';

const CHANNELS = [
  'R',
  'G',
  'B',
  'A',
  'Z',
  'motion.X',
  'motion.Y',
  'P.X',
  'P.Y',
  'P.Z',
  'CryptoObject00.R',
  'CryptoObject00.G',
  'CryptoObject00.B',
  'CryptoObject00.A',
];
const rgb = (layer: string): string[] => ['R', 'G', 'B'].map((c) => `${layer}.${c}`);

function shotWith(layers: readonly string[], change: Partial<Source> = {}): Shot {
  const source = { ...stillSource('cg1', 'render'), channels: [...CHANNELS, ...layers.flatMap(rgb)], ...change };
  const lane = newLane('render', { source: 'cg1' }, []);
  return { ...newShot('t'), sources: [source], lanes: [lane], result: lane.id };
}
const full = shotWith(['diffuse', 'specular', 'light_a', 'light_b']);
const stepsOf = (s: Shot): string[] => s.lanes[0]!.steps.map((x) => x.type);

describe('steps for the passes of a render', () => {
  test('parts are the material passes, lamps the light groups; each stands where it belongs whatever the order', () => {
    const made = produce(full, (d) => {
      for (const type of ['vectorBlur', 'haze', 'lightMix', 'rebuildBeauty', 'depthOfField']) stepForPasses('cg1', type)(d);
    });
    expect(stepsOf(made)).toEqual(['rebuildBeauty', 'lightMix', 'haze', 'depthOfField', 'vectorBlur']);
    const [rebuild, mix] = made.lanes[0]!.steps;
    expect(rebuild!.params.parts).toEqual(['diffuse', 'specular'].map((name) => ({ id: name, name })));
    expect(mix!.params.lamps).toEqual(['light_a', 'light_b'].map((name) => ({ id: name, name })));
    expect(() => checkShot(made)).not.toThrow();
  });

  test('a matte is a lane of its own, before other work is joined', () => {
    const made = produce(full, (d) => stepForPasses('cg1', 'idMatte')(d));
    expect(made.lanes).toHaveLength(2);
    expect(made.lanes[1]!.steps.map((s) => s.type)).toEqual(['idMatte']);
  });

  test('what a render has no pass for is refused in words, and not offered', () => {
    const bare = shotWith([], { channels: ['R', 'G', 'B', 'A'] });
    expect(commandsFor(roledPasses(bare.sources[0]!.channels))).toEqual([]);
    expect(() => produce(bare, (d) => stepForPasses('cg1', 'haze')(d))).toThrow(/no pass for it: none is depth/);
  });

  test('raw light brings its filter', () => {
    const raw = shotWith(['giRaw', 'giFilter'], { passes: { giRaw: { role: 'raw', facts: { times: 'giFilter' } } } });
    const made = produce(raw, (d) => stepForPasses('cg1', 'rebuildBeauty')(d));
    expect(made.lanes[0]!.steps[0]!.params['giRaw.filter']).toBe('giFilter');
  });

  test('a role that is chosen by hand is no guess any more', () => {
    const guessed = shotWith([], { passes: { Z: { role: 'depth', reason: 'by its name', doubt: 'who knows' } } });
    const made = produce(guessed, (d) => setPass('cg1', 'Z', { role: 'depth', facts: { as: 'inverse' }, reason: 'x' })(d));
    expect(made.sources[0]!.passes!.Z).toEqual({ role: 'depth', facts: { as: 'inverse' } });
    expect(() => checkShot(made)).not.toThrow();
  });
});

describe('parts of a step', () => {
  const rebuilt = produce(full, (d) => stepForPasses('cg1', 'rebuildBeauty')(d));
  const id = rebuilt.lanes[0]!.steps[0]!.id;
  const step = (s: Shot) => s.lanes[0]!.steps[0]!;
  const parts = (s: Shot) =>
    stepValues(s, STEPS.get('rebuildBeauty')!.params, step(s), 1).parts as unknown as { name: string; gain: number }[];

  test('have parameters of their own, which go when they go', () => {
    const set = produce(rebuilt, (d) => {
      setParams(id, { 'diffuse.gain': 2 }, 1)(d);
      setFeed(id, 'diffuse.mask', { lane: d.lanes[0]!.id, after: '' })(d);
    });
    expect(parts(set).map((p) => [p.name, p.gain])).toEqual([
      ['diffuse', 2],
      ['specular', 0],
    ]);
    const gone = produce(set, (d) => removePart(id, 'parts', 'diffuse')(d));
    expect(Object.keys(step(gone).params)).toEqual(['parts']);
    expect(step(gone).feeds).toEqual({});
    expect(() => checkShot(gone)).not.toThrow();
    const reset = produce(set, (d) => resetParam(id, 'parts')(d));
    expect(step(reset).params).toEqual({});
  });

  test('two of one name have ids of their own', () => {
    const passes = roledPasses(full.sources[0]!.channels).filter((p) => p.name === 'diffuse');
    const twice = produce(rebuilt, (d) => addParts(id, 'parts', passes)(d));
    expect((step(twice).params.parts as unknown as { id: string }[]).map((p) => p.id)).toEqual(['diffuse', 'specular', 'diffuse_2']);
  });

  test('a parameter of a part that is not listed is no parameter', () => {
    const odd = {
      ...rebuilt,
      lanes: rebuilt.lanes.map((l) => ({ ...l, steps: l.steps.map((s) => ({ ...s, params: { ...s.params, 'coat.gain': 1 } })) })),
    };
    expect(() => checkShot(odd)).toThrow(/coat\.gain is no parameter/);
  });

  test('lamps have names of their own and stand where they are set', () => {
    const lit = produce(full, (d) => {
      const made: { step?: string } = {};
      stepForPasses('cg1', 'relight', made)(d);
      addLamp(made.step!, [1, 2, 3])(d);
      addLamp(made.step!, null)(d);
    });
    const lamps = stepValues(lit, STEPS.get('relight')!.params, step(lit), 1).lamps as unknown as { name: string; at: number[] }[];
    expect(lamps.map((l) => [l.name, l.at])).toEqual([
      ['Lamp', [1, 2, 3]],
      ['Lamp 2', [0, 0, 0]],
    ]);
  });
});

test('a step is limited by things that are picked on what it stands on', () => {
  const made: { lane?: string; step?: string } = {};
  const limited = produce(full, (d) => {
    const own: { step?: string } = {};
    stepForPasses('cg1', 'haze', own)(d);
    maskByPasses(own.step!, 'idMatte', made)(d);
  });
  const owner = limited.lanes.find((l) => l.name === 'render')!;
  const matte = limited.lanes.find((l) => l.id === made.lane)!;
  expect(owner.steps[0]!.mask).toEqual({ lane: made.lane, channel: 'A', invert: false });
  expect(matte.start).toEqual({ tap: { lane: owner.id, after: '' } });
  expect(matte.steps[0]!.type).toBe('idMatte');
  expect(() => checkShot(limited)).not.toThrow();
});
