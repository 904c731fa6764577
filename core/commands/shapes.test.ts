import { produce } from 'immer';
import { parseShot } from '../document/schema';
import type { Shot, Structured } from '../document/types';
import { stepsOfZone } from '../document/zones';
import { boxPoints, movePoints, withPointsAt } from '../shape/edit';
import type { Shape } from '../shape/shapes';
import { addRecipe, recipeOf } from './clipboard';
import * as commands from './commands';
import { hideMark } from '../assemblies/hide-mark';
import { newShot } from './make';
import { removeReading, usersOfReading } from './readings';
import { addShapes, changeSome, inputOf, keyFramesOf, moveShape, shapesIn, shapesLane } from './shapes';

const after = (shot: Shot, ...changes: commands.Change[]): Shot => {
  const next = changes.reduce((s, c) => produce(s, c), shot);
  // Whatever commands make can be opened again.
  parseShot(JSON.parse(JSON.stringify(next)));
  return next;
};
const made: { lane?: string } = {};
const bare = after(newShot('t'), commands.emptyLane(made));
const lane = made.lane!;
const outline = [100, 100, 200, 100, 200, 180, 100, 180];
const box = boxPoints(10, 10, 60, 50);
const stepMade: { step?: string } = {};
const rotoed = after(bare, commands.addStep(lane, 'roto', undefined, stepMade));
const step = stepMade.step!;
const shapes = (s: Shot, id = step): readonly Shape[] =>
  shapesIn(s.lanes.flatMap((l) => [...l.steps, ...(l.zones ?? [])]).find((x) => x.id === id)!);

describe('shapes of a step', () => {
  const ids: string[] = [];
  const two = after(rotoed, addShapes(step, [{ points: box }, { points: box, name: 'Coat' }], 7, ids));

  test('are added with names and marks of their own, changed, put in order, and deleted', () => {
    expect(shapes(two).map((s) => [s.name, s.mark, s.keys[0]!.frame])).toEqual([
      ['Shape 1', 0, 7],
      ['Coat', 1, 7],
    ]);
    const moved = after(
      two,
      changeSome(step, [ids[1]!], (s, shot) =>
        withPointsAt(
          shot,
          s,
          12,
          movePoints(box, null, (x, y) => [x + 1, y]),
          'here',
        ),
      ),
    );
    const roto = moved.lanes[0]!.steps[0]!;
    expect(keyFramesOf(roto).sort((a, b) => a - b)).toEqual([7, 12]);
    expect(shapes(after(moved, moveShape(step, ids[1]!, 0))).map((s) => s.name)).toEqual(['Coat', 'Shape 1']);
    expect(
      shapes(
        after(
          moved,
          changeSome(step, ids, () => null),
        ),
      ),
    ).toEqual([]);
    // What was not touched is the same object: an edit costs what it touches.
    expect(shapes(moved)[0]).toBe(shapes(two)[0]);
  });

  test('a locked one is refused, until it is unlocked', () => {
    const locked = after(
      two,
      changeSome(step, [ids[0]!], (s) => ({ ...s, locked: true })),
    );
    expect(() =>
      after(
        locked,
        changeSome(step, [ids[0]!], (s) => ({ ...s, feather: 9 })),
      ),
    ).toThrow('is locked');
    expect(() =>
      after(
        locked,
        changeSome(step, [ids[0]!], () => null),
      ),
    ).toThrow('is locked');
    expect(
      shapes(
        after(
          locked,
          changeSome(step, [ids[0]!], (s) => ({ ...s, locked: false })),
        ),
      )[0]!.locked,
    ).toBe(false);
  });

  test('a step without shapes says so; a damaged shot with damaged shapes is refused', () => {
    const blurred: { step?: string } = {};
    const more = after(two, commands.addStep(lane, 'blur', undefined, blurred));
    expect(() => after(more, addShapes(blurred.step!, [{ points: box }], 1))).toThrow('has no shapes');
    const broken = JSON.parse(JSON.stringify(two)) as Shot;
    (broken.lanes[0]!.steps[0]!.params.shapes as Structured as unknown as { keys: unknown[] }[])[0]!.keys = [];
    expect(() => parseShot(broken)).toThrow('its shapes are damaged');
  });
});

describe('hide a mark', () => {
  const did: { reading?: string; zone?: string } = {};
  const hidden = after(rotoed, hideMark({ lane }, outline, 5, did));

  test('makes a plane there, and a zone of mosaic and blur whose shape follows it', () => {
    const [l] = hidden.lanes;
    const zone = l!.zones![0]!;
    expect(stepsOfZone(l!, zone).map((s) => s.type)).toEqual(['mosaic', 'blur']);
    expect(zone.name).toBe('Mark 1');
    const [reading] = hidden.readings;
    expect([reading!.kind, reading!.reference, reading!.from]).toEqual(['plane', 5, { lane, after: step }]);
    expect(shapes(hidden, zone.id)[0]!.follows).toEqual([reading!.id]);
    expect(l!.steps.find((s) => s.type === 'mosaic')!.params.size).toBe(16);
  });

  test('its reading is used by the zone and cannot be deleted under it', () => {
    expect(usersOfReading(hidden, did.reading!).map((u) => u.step.id)).toEqual([did.zone]);
    expect(() => after(hidden, removeReading(did.reading!))).toThrow('uses this reading');
  });

  test('taken to another shot the zone lies where it was drawn, and follows nothing that is not there', () => {
    const l = hidden.lanes[0]!;
    const recipe = recipeOf(hidden, stepsOfZone(l, l.zones![0]!), 'Hidden');
    const there = after(bare, addRecipe(recipe, lane, undefined));
    const zone = there.lanes[0]!.zones![0]!;
    const [shape] = shapes(there, zone.id);
    expect(shape!.follows).toEqual([]);
    expect(shape!.keys[0]!.value.slice(0, 2)).toEqual([100, 100]);
  });
});

describe('a step dropped at the edge of a zone', () => {
  const did: { zone?: string } = {};
  const hidden = after(bare, hideMark({ lane }, outline, 5, did));
  const [mosaic, blur] = hidden.lanes[0]!.steps.map((s) => s.id) as [string, string];
  const members = (s: Shot): string[] => s.lanes[0]!.zones!.flatMap((z) => stepsOfZone(s.lanes[0]!, z).map((x) => x.type));

  test('within its bracket changes places with the others; beside it, it leaves', () => {
    expect(members(after(hidden, commands.moveSteps([mosaic], lane, 2, false, {}, false, did.zone)))).toEqual(['blur', 'mosaic']);
    expect(members(after(hidden, commands.moveSteps([blur], lane, 0, false, {}, false, did.zone)))).toEqual(['blur', 'mosaic']);
    expect(members(after(hidden, commands.moveSteps([mosaic], lane, 2)))).toEqual(['blur']);
  });
});

describe('a matte that is drawn for something', () => {
  const graded: { step?: string } = {};
  const keyed = after(rotoed, commands.addStep(lane, 'grade', step, graded));

  test('lies on the picture that gets it, below its lane, and goes with one undo', () => {
    const lanes: { lane?: string; step?: string } = {};
    const masked = after(keyed, (s) => {
      shapesLane(inputOf(s as Shot, graded.step!), 'Mask', lanes)(s);
      commands.setMask(graded.step!, { lane: lanes.lane!, channel: 'A', invert: false })(s);
    });
    const [own, drawn] = masked.lanes;
    expect([own!.id, drawn!.id, drawn!.name]).toEqual([lane, lanes.lane, 'Mask shapes']);
    expect(drawn!.start).toEqual({ tap: { lane, after: step } });
    expect(drawn!.steps.map((s) => [s.id, s.type])).toEqual([[lanes.step, 'roto']]);
    expect(own!.steps[1]!.mask?.lane).toBe(lanes.lane);
  });

  test('the first step of a lane gets its start; a zone what its first step gets', () => {
    expect(inputOf(keyed, step)).toEqual({ lane, after: '' });
    const zone: { zone?: string } = {};
    const zoned = after(keyed, commands.gatherZone([graded.step!], zone));
    expect(inputOf(zoned, zone.zone!)).toEqual({ lane, after: step });
    expect(() => inputOf(zoned, 'gone')).toThrow(/no longer there/);
  });
});
