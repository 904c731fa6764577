import './testing/indexed-db';
import fc from 'fast-check';
import type { Curve } from '@/core/curves/curves';
import type { Shot } from '@/core/document/types';
import type { Stroke } from '@/core/paint/strokes';
import * as commands from '@/core/commands/commands';
import { newShot } from '@/core/commands/make';
import { openShot } from './shot-store';

const stroke = (x: number): Stroke => ({
  ...{ tool: 'paint', first: 1, last: 1, size: 4, hardness: 1, flow: 1, colour: [1, 1, 1], points: [x, 1, x, 9] },
});

const opened: { close(): Promise<void> }[] = [];
afterAll(() => Promise.all(opened.map((s) => s.close())));

/** An empty lane with a step, and what its lists are. */
function open(type: string) {
  const session = openShot(newShot('lists'));
  opened.push(session);
  const made: { lane?: string; step?: string } = {};
  session.run('lane', commands.emptyLane(made));
  session.run('step', commands.addStep(made.lane!, type, undefined, made));
  const step = made.step!;
  const shot = (): Shot => session.store.getState().shot;
  const value = (name: string) => shot().lanes[0]!.steps[0]!.params[name];
  const last = () => session.store.getState().past.at(-1)!;
  return { session, step, shot, value, last };
}

describe('lists of a step', () => {
  test('one stroke more is one patch, however many there are; undo takes it back', () => {
    const { session, step, value, last } = open('paint');
    const many = Array.from({ length: 300 }, (_, i) => stroke(i));
    session.run('many', commands.setParams(step, { strokes: many }, 1));
    session.run('more', commands.setParams(step, { strokes: [...many, stroke(999)] }, 1));
    expect(JSON.stringify([last().forward, last().back]).length).toBeLessThan(600);
    expect(value('strokes')).toHaveLength(301);
    session.undo();
    expect(value('strokes')).toEqual(many);
  });

  test('whatever a list becomes, it is that, and undone what it was', () => {
    const lists = fc.array(fc.integer({ min: 0, max: 5 }), { minLength: 1, maxLength: 7 });
    fc.assert(
      fc.property(lists, lists, (a, b) => {
        // The same again is no change.
        fc.pre(JSON.stringify(a) !== JSON.stringify(b));
        const { session, step, value } = open('paint');
        session.run('a', commands.setParams(step, { strokes: a.map(stroke) }, 1));
        session.run('b', commands.setParams(step, { strokes: b.map(stroke) }, 1));
        expect(value('strokes')).toEqual(b.map(stroke));
        session.undo();
        expect(value('strokes')).toEqual(a.map(stroke));
        session.redo();
        expect(value('strokes')).toEqual(b.map(stroke));
      }),
      { numRuns: 60 },
    );
  });

  test('a long drag of a point does not grow the history, and is one undo', () => {
    const { session, step, value, last } = open('curves');
    const at = (y: number): Curve[] => [{ channel: 'all', points: [0, 0, 0.5, y, 1, 1] }];
    for (let i = 0; i < 200; i++) session.run('drag', commands.setParams(step, { curves: at(i / 200) }, 1), 'one gesture');
    expect(last().forward.length).toBeLessThanOrEqual(2);
    expect(value('curves')).toEqual(at(199 / 200));
    session.undo();
    expect(value('curves')).toBeUndefined();
    session.redo();
    expect(value('curves')).toEqual(at(199 / 200));
  });

  test('a parameter that the step does not have, and a list that is damaged, are refused', () => {
    const { session, step } = open('curves');
    expect(session.refusal(commands.setParams(step, { wobble: 1 }, 1))).toMatch(/wobble is no parameter of this step/);
    expect(session.refusal(commands.setParams(step, { curves: [{ channel: 'all', points: [0] }] }, 1))).toMatch(/curves are damaged/);
  });
});

describe('a lane that starts from nothing', () => {
  test('is the result of an empty shot, and joined over it later; it may be copied and pasted', () => {
    const { session, shot } = open('noise');
    const made: { lane?: string } = {};
    session.run('second', commands.emptyLane(made));
    const [front, back] = shot().lanes;
    expect([front!.id, back!.id === shot().result]).toEqual([made.lane, true]);
    expect(back!.steps.map((s) => s.type)).toEqual(['noise', 'join']);
    expect([front!.name, back!.name]).toEqual(['empty 2', 'empty']);
  });
});
