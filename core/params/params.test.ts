import { STEPS } from '../steps';
import type { Shot, Value } from '../document/types';
import type { ParamDefinition, ParamSchema } from '../param';
import { box, choice, colour, integer, number, parts, point, toggle, triple } from '../param';
import { flat, testShot } from '../testing/evaluate';
import { isStructured } from './kind';
import { kindOf, limitsOf, referencesOf } from './kinds';
import { isNumbers, listOf } from './list-of';
import { checkParts, feedsOf, gatherParts, partKey, schemaOf, strayParams } from './parts';
import * as yup from 'yup';

const shot: Shot = testShot({ main: flat(16, 16, 0.5) }, []);
const place = { shot, time: 3, scale: 1 };
const all = [...STEPS.values()].flatMap((s) =>
  Object.entries(s.params as ParamSchema).map(([name, d]) => [`${s.type}.${name}`, d] as const),
);
const step = (type: string) => STEPS.get(type)!;
const admit = (d: ParamDefinition, v: unknown): Value => kindOf(d).admit(v as Value, d);

/** What a damaged or hostile document may hold. */
const GARBAGE: readonly unknown[] = [
  NaN,
  Infinity,
  -Infinity,
  1e300,
  -1e300,
  '',
  'x',
  true,
  [],
  [1],
  [NaN, 1, 2],
  ['a', 'b', 'c'],
  {},
  { a: 1 },
];

describe('every parameter of every step', () => {
  test('there are many, and each says how it is limited', () => {
    expect(all.length).toBeGreaterThan(400);
    all.forEach(([, d]) => expect(typeof kindOf(d).tell(d)).toBe('string'));
  });

  test('admits its own default as it is', () => {
    for (const [name, d] of all) {
      if (!('default' in d) || d.default === undefined) continue;
      expect([name, admit(d, d.default)]).toEqual([name, d.default]);
    }
  });

  test('whatever it is given becomes something that it admits again, the same', () => {
    for (const [name, d] of all)
      for (const v of GARBAGE) {
        const once = admit(d, v);
        expect([name, v, admit(d, once)]).toEqual([name, v, once]);
      }
  });

  test('numbers stay between their limits, and are numbers', () => {
    for (const [name, d] of all) {
      if (!['number', 'integer', 'point', 'triple', 'box', 'colour'].includes(d.kind)) continue;
      const [min, max] = limitsOf(d);
      for (const v of [...GARBAGE, (d as { default: Value }).default])
        [admit(d, v)].flat().forEach((n) => expect([name, v, typeof n === 'number' && n >= min && n <= max]).toEqual([name, v, true]));
    }
  });

  test('what lists of objects hold is told where it is damaged, and their defaults are not', () => {
    for (const [name, d] of all) {
      const { problem } = kindOf(d);
      if (!problem) continue;
      expect([name, problem((d as { default: unknown }).default)]).toEqual([name, null]);
      expect([name, typeof problem([{ nonsense: 1 }])]).toEqual([name, 'string']);
    }
  });
});

describe('single kinds', () => {
  test('numbers are cut to their range; whole ones are rounded', () => {
    const n = number('Size', 4, [0, 10], { min: 0, max: 100 });
    expect([-5, 7.25, 1e9].map((v) => admit(n, v))).toEqual([0, 7.25, 100]);
    const k = integer('Count', 3, [1, 8], { min: 1, max: 9 });
    expect([2.6, 0.2, 99].map((v) => admit(k, v))).toEqual([3, 1, 9]);
  });

  test('pixels shrink with the proxy, the rest does not', () => {
    const at = (d: ParamDefinition, v: Value) => kindOf(d).resolve!(v, d, { ...place, scale: 0.25 });
    expect(at(number('Size', 4, [0, 10], { pixels: true }), 8)).toBe(2);
    expect(at(number('Gain', 4, [0, 10]), 8)).toBe(8);
    expect(at(point('At', [0, 0], { pixels: true }), [4, -8])).toEqual([1, -2]);
    expect(at(box('Box', [0, 0, 4, 4]), [0, 4, 8, 12])).toEqual([0, 1, 2, 3]);
  });

  test('lists of another length, or that hold no numbers, become the default; the very list where nothing is cut', () => {
    const t = triple('Slope', 1, [0, 2], { min: 0, max: 4 });
    const given = [0.5, 1, 2];
    expect(admit(t, given)).toBe(given);
    expect(admit(t, [0.5, 9, -1])).toEqual([0.5, 4, 0]);
    expect(admit(t, [1, 2])).toEqual([1, 1, 1]);
    expect(admit(colour('Tint', [0.2, 0.3, 0.4]), 'red')).toEqual([0.2, 0.3, 0.4]);
  });

  test('choices are one of theirs, toggles are true or false', () => {
    const c = choice('Edge', 'soft', [
      { value: 'soft', title: 'Soft' },
      { value: 'hard', title: 'Hard' },
    ]);
    expect([admit(c, 'hard'), admit(c, 'firm'), admit(c, 3)]).toEqual(['hard', 'soft', 'soft']);
    expect(kindOf(c).tell(c)).toBe('one of soft, hard');
    expect([admit(toggle('On', true), false), admit(toggle('On', true), 0)]).toEqual([false, true]);
  });

  test('what it names of the shot is listed, and goes along when that is given another name', () => {
    const names = referencesOf(step('follow').params, { reading: 'bollard' });
    expect(names).toEqual([{ name: 'reading', to: { kind: 'reading', id: 'bollard' } }]);
    const d = step('follow').params.reading as ParamDefinition;
    expect(kindOf(d).remap!('bollard', (id) => `${id} 2`)).toBe('bollard 2');
    expect(kindOf(d).references!('')).toEqual([]);
    // A reading that is not there gives nothing, in words of the step that asks.
    expect(kindOf(d).resolve!('bollard', d, place)).toBeNull();
  });
});

describe('parts of a step', () => {
  const schema: ParamSchema = {
    gain: number('Gain', 1, [0, 2]),
    lamps: parts('Lamps', 'things' as never, {
      on: toggle('On', true),
      gain: number('Strength', 0, [-4, 4], { when: { on: [true] } }),
    }),
  };
  const lamps = [
    { id: 'a', name: 'lantern' },
    { id: 'b', name: 'moon' },
  ];

  test('have their parameters beside those of the step, under their own names and conditions', () => {
    const full = schemaOf(schema, { lamps } as never);
    expect(Object.keys(full)).toEqual(['gain', 'lamps', 'a.on', 'a.gain', 'b.on', 'b.gain']);
    expect(full['a.gain']).toMatchObject({ title: 'lantern: strength', when: { 'a.on': [true] } });
    // The same list gives the same object, so that what is drawn from it is drawn once.
    expect(schemaOf(schema, { lamps } as never)).toBe(full);
    expect(schemaOf(undefined, {})).toEqual({});
    expect(partKey('a', 'gain')).toBe('a.gain');
  });

  test('are gathered into their list for the step', () => {
    const values: Record<string, unknown> = { gain: 1, lamps, 'a.on': true, 'a.gain': 2, 'b.on': false, 'b.gain': 0 };
    gatherParts(schema, values);
    expect(values).toEqual({
      gain: 1,
      lamps: [
        { id: 'a', name: 'lantern', on: true, gain: 2 },
        { id: 'b', name: 'moon', on: false, gain: 0 },
      ],
    });
  });

  test('parameters of one that is no longer listed are strays', () => {
    expect(strayParams(schema, { lamps, 'a.gain': 1, 'c.gain': 1, gain: 2 } as never)).toEqual(['c.gain']);
    expect(strayParams({ gain: schema.gain! }, { 'c.gain': 1 } as never)).toEqual([]);
  });

  test('an id counts once, and what is no list of parts is refused', () => {
    expect(checkParts([...lamps, { id: 'a', name: 'again' }])).toEqual(lamps);
    for (const bad of ['lamps', [{ id: 'a b', name: 'x' }], [{ id: 'a' }], [null], [3]])
      expect(() => checkParts(bad)).toThrow(/damaged; reset it/);
  });

  test('bring feeds of their own', () => {
    const merge = step('scene');
    const things = [{ id: 't1', name: 'marker' }];
    const before = feedsOf(merge, {}).map((f) => f.name);
    const after = feedsOf(merge, { things } as never).map((f) => f.name);
    expect(after.slice(0, before.length)).toEqual(before);
    expect(after.slice(before.length).every((n) => n.startsWith('t1.'))).toBe(true);
    expect(after.length).toBeGreaterThan(before.length);
  });
});

describe('lists of objects', () => {
  const check = listOf<{ x: number }>(yup.object({ x: yup.number().required() }).required(), 'its list is damaged; reset it');

  test('are looked through item by item; a frozen one that was right is not looked at again', () => {
    const good = Object.freeze({ x: 1 });
    expect(check([good])).toEqual([good]);
    expect(check([good, { x: 2 }])).toHaveLength(2);
    for (const bad of [[{ x: '1' }], [{}], [undefined], {}, 'x', null]) expect(() => check(bad)).toThrow('its list is damaged');
  });

  test('are told from lists of numbers', () => {
    expect([isStructured([{ a: 1 }]), isStructured([]), isStructured([1]), isStructured([[1]]), isStructured('x')]).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
    expect([isNumbers([1, 2]), isNumbers([1, NaN]), isNumbers('12')]).toEqual([true, false, false]);
  });
});
