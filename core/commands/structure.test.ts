import { produce } from 'immer';
import type { Shot } from '../document/types';
import { parseShot } from '../document/schema';
import * as commands from './commands';
import { newShot } from './make';
import { stillSource } from '../testing/sources';

const after = (shot: Shot, ...changes: commands.Change[]): Shot => changes.reduce((s, c) => produce(s, c), shot);
const made: { lane?: string } = {};
const plain = after(
  newShot('t'),
  commands.addSource(stillSource('a', 'harbour')),
  commands.addLane('a'),
  commands.layerLane('a', '', made),
);
const [second, first] = plain.lanes.map((l) => l.id) as [string, string];
const shot = after(plain, ...['blur', 'grade', 'crop', 'invert'].map((type) => commands.addStep(first, type, undefined)));
const names = (s: Shot, lane: string): string[] => s.lanes.find((l) => l.id === lane)!.steps.map((x) => x.name);
const ids = (...wanted: string[]): string[] =>
  wanted.map((name) => shot.lanes.find((l) => l.id === first)!.steps.find((x) => x.name === name)!.id);

describe('steps that are moved together', () => {
  test.each([
    [0, ['Grade', 'Crop', 'Blur', 'Invert']],
    [1, ['Blur', 'Grade', 'Crop', 'Invert']],
    [2, ['Blur', 'Grade', 'Crop', 'Invert']],
    [4, ['Blur', 'Invert', 'Grade', 'Crop']],
  ])('to the gap %i of their own lane', (gap, wanted) => {
    const moved = after(shot, commands.moveSteps(ids('Grade', 'Crop'), first, gap));
    expect(names(moved, first)).toEqual(wanted);
  });

  test('to another lane, in their order; copied, the first ones stay', () => {
    const moved = after(shot, commands.moveSteps(ids('Blur', 'Grade'), second, 0));
    expect([names(moved, first), names(moved, second)]).toEqual([
      ['Crop', 'Invert'],
      ['Blur', 'Grade'],
    ]);
    const copied = after(shot, commands.moveSteps(ids('Blur', 'Grade'), second, 0, true));
    expect([names(copied, first).length, names(copied, second)]).toEqual([4, ['Blur', 'Grade']]);
    expect(() => parseShot(JSON.parse(JSON.stringify(copied)))).not.toThrow();
  });
});

describe('a source that stands outside of the shot', () => {
  test('comes to its first frame, and what was left out of it stays so', () => {
    const late = after(shot, commands.changeSource('a', { start: 400, duration: 5 }), commands.alignSource('a'));
    expect(late.sources[0]).toMatchObject({ start: late.range.first, duration: 5 });
  });
});
