import { produce } from 'immer';
import { evenGrain } from '../grain/model';
import { parseShot } from '../document/schema';
import type { Shot } from '../document/types';
import { STEPS } from '../steps';
import { makePlan } from '../evaluate/plan';
import { ShotError } from '../errors';
import { flat, testShot } from '../testing/evaluate';
import { addPlane } from '../commands/readings';
import type { RemoveOptions, Removed } from './remove-this';
import { removeThis } from './remove-this';
import type { Change } from '../commands/change';

const commandsOn = (shot: Shot, change: Change): Shot => produce(shot, (d) => change(d));

const start = (): Shot => testShot({ main: flat(200, 120, 0.2), people: flat(200, 120, 0.1) }, [{ type: 'grade' }]);
const outline = [80, 40, 120, 40, 120, 70, 80, 70];
const options: RemoveOptions = { tap: { lane: 'main', after: 'step 0' }, outlines: [outline], frame: 3, by: 'patches', name: 'Box' };

describe('remove this', () => {
  test('makes a reading around it, a clean frame, a patch with grain, and joins it where it was seen', () => {
    const made: Removed = {};
    const shot = commandsOn(start(), removeThis({ ...options, front: 'people', grain: evenGrain(0.0004) }, made));
    expect(parseShot(JSON.parse(JSON.stringify(shot)))).toEqual(shot);
    const laneOf = (id: string) => shot.lanes.find((l) => l.id === id)!;
    expect(laneOf(made.lane!).steps.map((s) => s.type)).toEqual(['patch', 'grain']);
    expect(laneOf(made.clean!).steps.map((s) => s.type)).toEqual(['denoise', 'fill', 'hold']);
    expect(laneOf('main').steps.map((s) => s.type)).toEqual(['grade', 'join']);
    const [patch] = laneOf(made.lane!).steps;
    expect(patch!.feeds).toEqual({ from: { lane: made.clean }, front: { lane: 'people' } });
    expect(patch!.params).toMatchObject({ reading: made.reading, frame: 3, output: 'alone' });
    // The hole follows the patch's outline.
    expect(laneOf(made.clean!).steps[1]!.params.shapes).toEqual({ link: { step: made.patch, param: 'shapes' } });
    const reading = shot.readings.find((r) => r.id === made.reading)!;
    expect(reading).toMatchObject({ kind: 'plane', reference: 3, region: { without: [outline] } });
    // Planned through to the end, with no complaint but that nothing is measured yet.
    expect(makePlan(shot, { tap: { lane: 'main' }, frame: 3, scale: 1, channels: ['R', 'G', 'B', 'A'] }, STEPS).remarks).toEqual([]);
  });

  test.each([
    ['frames', ['cleanPlate', 'fill']],
    ['smooth', ['fill', 'hold']],
    ['beside', null],
  ] as const)('by %s', (by, clean) => {
    const made: Removed = {};
    const shot = commandsOn(start(), removeThis({ ...options, by, shift: [-50, 4] }, made));
    expect(made.clean ? shot.lanes.find((l) => l.id === made.clean)!.steps.map((s) => s.type) : null).toEqual(clean);
    const patch = shot.lanes.find((l) => l.id === made.lane)!.steps[0]!;
    expect(patch.params.shift).toEqual(by === 'beside' ? [-50, 4] : undefined);
  });

  test('goes with a reading that is there, several outlines at once; a second one finds names of its own', () => {
    const ids: { reading?: string } = {};
    const base = commandsOn(start(), addPlane({ lane: 'main' }, [10, 10, 60, 10, 60, 60], 1, ids));
    const shot = commandsOn(base, (s) => {
      for (let i = 0; i < 2; i++) removeThis({ ...options, reading: ids.reading!, outlines: [outline, outline.map((v) => v + 20)] })(s);
    });
    expect(shot.readings).toHaveLength(1);
    expect(shot.lanes.map((l) => l.name).filter((n) => n.startsWith('Box'))).toEqual(
      expect.arrayContaining(['Box', 'Box clean', 'Box 2', 'Box 2 clean']),
    );
    const patch = shot.lanes.find((l) => l.name === 'Box')!.steps[0]!;
    expect(patch.params.shapes).toHaveLength(2);
  });

  test.each([
    [{ outlines: [[1, 2, 3, 4]] }, 'three corners'],
    [{ outlines: [] }, 'three corners'],
    [{ front: 'gone' }, 'in front is no longer there'],
    [{ reading: 'gone' }, 'reading that it goes with'],
    [{ tap: { lane: 'gone' } }, 'lane is no longer there'],
  ] as const)('%j is refused, and nothing is changed', (by, words) => {
    const shot = start();
    expect(() => produce(shot, (d) => removeThis({ ...options, ...by } as RemoveOptions)(d))).toThrow(ShotError);
    expect(() => produce(shot, (d) => removeThis({ ...options, ...by } as RemoveOptions)(d))).toThrow(words);
  });
});
