import fc from 'fast-check';
import { produce } from 'immer';
import { parseShot } from '../document/schema';
import type { Shot } from '../document/types';
import type { Change } from './change';
import * as commands from './commands';
import { newShot } from './make';
import { moveInStack, placeLane, stackOf } from './stack';
import { stillSource } from '../testing/sources';

const after = (shot: Shot, ...changes: Change[]): Shot => changes.reduce((s, c) => produce(s, (d) => void c(d)), shot);
const names = (s: Shot): string[] => stackOf(s).map((e) => s.lanes.find((l) => l.id === e.lane)!.name);
const idOf = (s: Shot, name: string): string => s.lanes.find((l) => l.name === name)!.id;
const rows = (s: Shot): string[] => s.lanes.map((l) => l.name);

const base = ['harbour', 'keeper', 'fog'].reduce(
  (s, name, i) => after(s, commands.addSource(stillSource(`s${i}`, name)), commands.addLane(`s${i}`)),
  newShot('quay'),
);

describe('what lies over what', () => {
  test('the lane that came last is in front, the first is the result', () => {
    expect([names(base), rows(base)]).toEqual([
      ['fog', 'keeper', 'harbour'],
      ['fog', 'keeper', 'harbour'],
    ]);
  });

  test('a source dropped below the result goes under it, between two lanes between them', () => {
    const with4 = after(base, commands.addSource(stillSource('s4', 'sky')));
    const below = after(with4, commands.addLane('s4', {}, { lane: idOf(base, 'harbour'), side: 'below' }));
    expect([names(below), rows(below)]).toEqual([
      ['fog', 'keeper', 'harbour', 'sky'],
      ['fog', 'keeper', 'harbour', 'sky'],
    ]);
    const harbour = below.lanes.find((l) => l.name === 'harbour')!;
    expect(harbour.steps.find((x) => x.feeds.front?.lane === idOf(below, 'sky'))!.params.operator).toBe('under');
    const between = after(with4, commands.addLane('s4', {}, { lane: idOf(base, 'fog'), side: 'below' }));
    expect(names(between)).toEqual(['fog', 'sky', 'keeper', 'harbour']);
  });

  test('a lane is moved up and down, through the result and back', () => {
    const keeper = idOf(base, 'keeper');
    const up = after(base, moveInStack(keeper, -1));
    expect([names(up), rows(up)]).toEqual([
      ['keeper', 'fog', 'harbour'],
      ['keeper', 'fog', 'harbour'],
    ]);
    expect(() => after(up, moveInStack(keeper, -1))).toThrow('in front of everything');
    const under = after(base, moveInStack(keeper, 1));
    expect(names(under)).toEqual(['fog', 'harbour', 'keeper']);
    expect(names(after(under, moveInStack(keeper, -1)))).toEqual(['fog', 'keeper', 'harbour']);
  });

  test('steps between the joins stay where they are', () => {
    const harbour = idOf(base, 'harbour');
    const graded = after(base, commands.addStep(harbour, 'grade', base.lanes[2]!.steps[0]!.id));
    const moved = after(graded, moveInStack(idOf(base, 'keeper'), -1));
    expect(moved.lanes[2]!.steps.map((x) => x.type)).toEqual(['join', 'grade', 'join']);
  });

  test('a lane that is joined to nothing is joined where it is put; onto a lane outside of the stack it is laid over it', () => {
    const loose = after(base, commands.tapLane({ lane: idOf(base, 'keeper') }), commands.tapLane({ lane: idOf(base, 'fog') }));
    const [a, b] = [idOf(loose, 'keeper tap'), idOf(loose, 'fog tap')];
    expect(names(after(loose, placeLane(a, { lane: idOf(base, 'fog'), side: 'above' })))).toEqual([
      'keeper tap',
      'fog',
      'keeper',
      'harbour',
    ]);
    const onto = after(loose, placeLane(a, { lane: b, side: 'above' }));
    expect(onto.lanes.find((l) => l.id === b)!.steps[0]!.feeds.front).toEqual({ lane: a });
    expect(() => after(loose, placeLane(idOf(base, 'harbour'), { lane: a, side: 'above' }))).toThrow(/ring|is the result/);
  });

  test('any moves leave every lane in the stack once, and a shot that can be opened', () => {
    const move = fc.tuple(fc.nat(2), fc.nat(2), fc.boolean());
    fc.assert(
      fc.property(fc.array(move, { maxLength: 12 }), (moves) => {
        let shot = base;
        for (const [a, b, below] of moves) {
          try {
            shot = after(shot, placeLane(base.lanes[a]!.id, { lane: base.lanes[b]!.id, side: below ? 'below' : 'above' }));
          } catch {
            continue;
          }
        }
        expect([...names(shot)].sort()).toEqual(['fog', 'harbour', 'keeper']);
        expect(rows(shot)).toEqual(names(shot));
        expect(() => parseShot(JSON.parse(JSON.stringify(shot)))).not.toThrow();
      }),
    );
  });
});
