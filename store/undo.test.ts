import fc from 'fast-check';
import type { Shot, Source } from '@/core/document/types';
import { STEPS } from '@/core/steps';
import type { Change } from '@/core/commands/commands';
import * as commands from '@/core/commands/commands';
import { newShot } from '@/core/commands/make';
import { openShot } from './shot-store';
import { stillSource } from '@/core/testing/sources';

// Saving waits on a timer, and there is no database here: time stands still.
beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

/** Of a width of its own, so that formats differ. */
const takeOf = (n: number): Source => ({ ...stillSource(`s${n}`, `take ${n}`), format: { width: 64 + n, height: 36, pixelAspect: 1 } });

const types = [...STEPS.keys()];

/** A command from four random numbers, on whatever the shot holds; null where it cannot be. */
function commandFrom(shot: Shot, [kind, a, b, c]: readonly [number, number, number, number]): Change | null {
  const at = <T>(list: readonly T[], i: number): T | undefined => list[i % Math.max(1, list.length)];
  const lane = at(shot.lanes, a);
  const step = at(
    shot.lanes.flatMap((l) => l.steps),
    b,
  );
  switch (kind % 15) {
    case 0:
      return commands.addSource(takeOf(shot.sources.length + c));
    case 1:
      return shot.sources.length ? commands.addLane(at(shot.sources, a)!.id) : null;
    case 2:
    case 3:
      return lane ? commands.addStep(lane.id, at(types, c)!, undefined) : null;
    case 4:
      return step ? commands.removeStep(step.id) : null;
    case 5:
      return step && lane ? commands.moveStep(step.id, lane.id, c % 5, c % 2 === 0) : null;
    case 6:
      return step ? commands.setParams(step.id, { mix: (c % 100) / 100 }, 1 + (a % 9)) : null;
    case 7:
      return step ? commands.toggleKey(step.id, 'mix', 0.5, 1 + (c % 9)) : null;
    case 8:
      return lane ? commands.removeLane(lane.id) : null;
    case 9:
      return lane && step ? commands.setMask(step.id, { lane: lane.id, channel: 'A', invert: c % 2 === 0 }) : null;
    case 10:
      return lane ? commands.changeLane(lane.id, { name: `lane ${c % 3}`, muted: c % 2 === 0 }) : null;
    case 11:
      return commands.addNote(1 + (c % 40));
    case 12:
      return lane ? commands.tapLane({ lane: lane.id }) : null;
    case 13:
      return step ? commands.changeStep(step.id, { on: c % 2 === 0 }) : null;
    default:
      return shot.sources.length ? commands.changeSource(at(shot.sources, a)!.id, { colourSpace: 'Rec.709', start: c % 7 }) : null;
  }
}

test('any sequence of commands undone is the document it began with, and redone the one it made', () => {
  const number = fc.nat(1000);
  fc.assert(
    fc.property(
      fc.array(fc.tuple(number, number, number, number), { minLength: 1, maxLength: 40 }),
      fc.array(fc.boolean()),
      (moves, joins) => {
        const session = openShot(newShot('t'));
        const now = (): Shot => session.store.getState().shot;
        const states: Shot[] = [now()];
        moves.forEach((move, i) => {
          const change = commandFrom(now(), move);
          if (!change) return;
          const before = now();
          try {
            // Some are parts of the same gesture, and undone with it.
            session.run('random', change, joins[i] ? 'gesture' : undefined);
          } catch {
            // What is refused has changed nothing.
            expect(now()).toBe(before);
          }
          states.push(now());
        });
        const [first, last] = [states[0]!, now()];
        while (session.undo() !== null);
        expect(now()).toEqual(first);
        while (session.redo() !== null);
        expect(now()).toEqual(last);
      },
    ),
    { numRuns: 200 },
  );
});
