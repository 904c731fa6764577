import type { Shot } from '@/core/document/types';
import { addLane, addSource, addStep, changeLane, removeLane } from '@/core/commands/commands';
import { newShot } from '@/core/commands/make';
import { openShot } from './shot-store';
import { stillSource } from '@/core/testing/sources';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

describe('a locked lane', () => {
  const locked = (): { shot: Shot; session: ReturnType<typeof openShot>; id: string } => {
    const session = openShot(newShot('quay'));
    session.run('Bring in', addSource(stillSource('s1', 'wall')));
    session.run('Add lane', addLane('s1'));
    const { id } = session.store.getState().shot.lanes[0]!;
    session.run('Lock lane', changeLane(id, { locked: true }));
    return { shot: session.store.getState().shot, session, id };
  };

  test('refuses what would change it, saying its name, and stays as it was', () => {
    const { shot, session, id } = locked();
    for (const change of [
      addStep(id, 'blur', undefined),
      removeLane(id),
      changeLane(id, { name: 'other' }),
      changeLane(id, { muted: true }),
    ]) {
      expect(() => session.run('Change', change)).toThrow(`the lane "${shot.lanes[0]!.name}" is locked`);
      expect(session.store.getState().shot).toBe(shot);
    }
  });

  test('collapses, and can be unlocked and changed then', () => {
    const { session, id } = locked();
    session.run('Collapse lane', changeLane(id, { collapsed: true }));
    session.run('Unlock lane', changeLane(id, { locked: false }));
    session.run('Add', addStep(id, 'blur', undefined));
    expect(session.store.getState().shot.lanes[0]!.steps).toHaveLength(1);
  });
});
