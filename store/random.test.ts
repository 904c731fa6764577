import './testing/indexed-db';
import fc from 'fast-check';
import { parseShot } from '@/core/document/schema';
import type { Shot } from '@/core/document/types';
import { STEPS } from '@/core/steps';
import * as commands from '@/core/commands/commands';
import { newShot } from '@/core/commands/make';
import { openShot } from './shot-store';
import { stillSource } from '@/core/testing/sources';

const TYPES = [...STEPS.values()].filter((d) => !d.internal).map((d) => d.type);

/** A command by three numbers: whatever they are, it means something in the shot as it is. */
function commandOf(shot: Shot, [kind, a, b]: readonly [number, number, number]): commands.Change {
  const of = <T>(list: readonly T[], n: number): T | undefined => list[n % Math.max(1, list.length)];
  const lane = of(shot.lanes, a);
  const step = of(
    shot.lanes.flatMap((l) => l.steps),
    b,
  );
  const other = of(shot.lanes, b);
  const zone = of(
    shot.lanes.flatMap((l) => l.zones ?? []),
    a,
  );
  switch (kind % 18) {
    case 0:
      return commands.emptyLane();
    case 1:
      return commands.addLane('src');
    case 2:
    case 3:
      return lane ? commands.addStep(lane.id, TYPES[b % TYPES.length]!, step?.id) : commands.emptyLane();
    case 4:
      return step ? commands.removeStep(step.id) : commands.emptyLane();
    case 5:
      return lane ? commands.removeLane(lane.id) : commands.emptyLane();
    case 6:
      return lane ? commands.gatherZone(lane.steps.slice(0, 1 + (b % 3)).map((s) => s.id)) : commands.emptyLane();
    case 7:
      return zone && other ? commands.moveZone(zone.id, other.id, b % 4, b % 2 === 0) : commands.emptyLane();
    case 8:
      return zone ? (b % 2 ? commands.dissolveZone(zone.id) : commands.removeZone(zone.id)) : commands.emptyLane();
    case 9:
      return step && lane ? commands.moveStep(step.id, lane.id, b % 5, a % 3 === 0) : commands.emptyLane();
    case 10:
      return step && lane ? commands.setMask(step.id, { lane: lane.id, channel: 'A', invert: a % 2 === 0 }) : commands.emptyLane();
    case 11:
      return zone && lane ? commands.setMask(zone.id, { lane: lane.id, channel: 'A', invert: false }) : commands.emptyLane();
    case 12:
      return step ? commands.toggleKey(step.id, 'mix', (a % 10) / 10, b % 48) : commands.emptyLane();
    case 13:
      return step && lane?.steps[0]
        ? commands.setLink(step.id, 'mix', { step: lane.steps[0].id, param: 'mix' }, 1, 1)
        : commands.emptyLane();
    case 14:
      return lane ? commands.tapLane({ lane: lane.id, after: step?.id ?? '' }) : commands.emptyLane();
    case 15:
      return lane ? commands.moveInStack(lane.id, b % 2 ? 1 : -1) : commands.emptyLane();
    case 16:
      return lane ? commands.setResult(lane.id) : commands.emptyLane();
    default:
      return step && lane ? commands.setFeed(step.id, 'front', { lane: lane.id }) : commands.emptyLane();
  }
}

describe('whatever is done', () => {
  test('what can be saved can be opened again, and all of it undone and done again', async () => {
    const numbers = fc.array(fc.tuple(fc.nat(100), fc.nat(100), fc.nat(100)), { minLength: 1, maxLength: 30 });
    await fc.assert(
      fc.asyncProperty(numbers, async (list) => {
        const first = newShot('random');
        const session = openShot(first);
        session.run('source', commands.addSource(stillSource('src', 'harbour')));
        for (const n of list) {
          // What is refused changes nothing.
          try {
            session.run('command', commandOf(session.store.getState().shot, n));
          } catch {
            continue;
          }
        }
        const { shot } = session.store.getState();
        expect(parseShot(JSON.parse(JSON.stringify(shot)))).toEqual(JSON.parse(JSON.stringify(shot)));
        while (session.undo());
        expect(session.store.getState().shot).toEqual(first);
        while (session.redo());
        expect(session.store.getState().shot).toEqual(shot);
        await session.close();
      }),
      { numRuns: 60 },
    );
  });
});
