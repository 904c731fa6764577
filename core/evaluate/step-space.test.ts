import type { Shot } from '../document/types';
import { STEPS } from '../steps';
import type { TestStep } from '../testing/evaluate';
import { flat, testShot } from '../testing/evaluate';
import { stepSpace } from './step-space';

/** A picture of 100×50 in a shot of 200×100. */
const shotOf = (steps: TestStep[], extra = {}): Shot => ({
  ...testShot({ main: flat(100, 50, 0.5), ...extra }, steps),
  format: { width: 200, height: 100, pixelAspect: 1 },
});
const space = (shot: Shot, after: string, seen: { lane: string; after?: string } = { lane: 'main' }) =>
  stepSpace(shot, { lane: 'main', after }, seen, 1, STEPS);
const at = (shot: Shot, after: string, x: number, y: number): number[] | null => {
  const found = space(shot, after);
  return found && found.toSeen.place(x, y).map((v) => Math.round(v * 1e6) / 1e6);
};
const crop: TestStep = { type: 'crop', params: { left: 10 } };

describe('where a step is seen', () => {
  test('before a conform it is seen as large as that makes it, in its own frame', () => {
    const shot = shotOf([crop, { type: 'conform' }]);
    expect(space(shot, 'step 0')!.format).toMatchObject({ width: 100, height: 50 });
    expect([at(shot, 'step 0', 10, 0), at(shot, 'step 0', 100, 50)]).toEqual([
      [20, 0],
      [200, 100],
    ]);
    expect(at(shot, 'step 1', 20, 0)).toEqual([20, 0]);
  });

  test('through a conform, a transform and a pin one after the other', () => {
    const shot = shotOf([
      crop,
      { type: 'conform' },
      { type: 'transform', params: { translate: [5, -3] } },
      { type: 'cornerPin', params: { topLeft: [7, 7], topRight: [7, 7], bottomRight: [7, 7], bottomLeft: [7, 7] } },
    ]);
    expect(at(shot, 'step 0', 10, 20)).toEqual([32, 44]);
  });

  test('placing steps that are done as one are still told apart', () => {
    const move = (x: number): TestStep => ({ type: 'transform', params: { translate: [x, 0], rotate: x } });
    const shot = shotOf([move(10), move(20), move(30)]);
    const direct = space(shot, 'step 0')!.toSeen;
    const second = space(shot, 'step 1')!.toSeen;
    const through = second.place(...space(shot, 'step 0', { lane: 'main', after: 'step 1' })!.toSeen.place(30, 20));
    direct.place(30, 20).forEach((v, i) => expect(v).toBeCloseTo(through[i]!, 6));
  });

  test('a step that changes nothing yet is seen where it will act', () => {
    const shot = shotOf([{ type: 'transform' }, { type: 'conform' }]);
    expect(at(shot, 'step 0', 50, 25)).toEqual([100, 50]);
  });

  test('through a join of another lane it stays where it is; where it is not seen there is no place', () => {
    const shot = shotOf(
      [
        { type: 'transform', params: { translate: [4, 4] } },
        { type: 'join', feeds: ['front'] },
      ],
      { front: flat(100, 50, 1) },
    );
    const front = stepSpace(shot, { lane: 'front', after: '' }, { lane: 'main' }, 1, STEPS)!;
    expect(front.toSeen.place(10, 10)).toEqual([10, 10]);
    expect(stepSpace(shot, { lane: 'main' }, { lane: 'front' }, 1, STEPS)).toBeNull();
    expect(stepSpace(shot, { lane: 'gone' }, { lane: 'main' }, 1, STEPS)).toBeNull();
  });
});
