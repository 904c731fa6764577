import '../testing/browser';
import { act, screen } from '@testing-library/react';
import { changeLane } from '@/core/commands/commands';
import { Controls } from '../controls/Controls';
import { laneOf, lastAlert, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { shaping } from './shaping';

beforeEach(() => shaping.set({ tool: 'select' }));

const open = (...types: string[]) => {
  const session = shotWith(...types);
  const shown = showBench(session, <Controls />);
  const step = stepOf(session, types.at(-1)!);
  act(() => view.set({ selection: { kind: 'step', id: step.id } }));
  const draw = async (field: RegExp): Promise<void> => {
    await shown.user.click(screen.getByRole('button', { name: field }));
    await shown.user.click(screen.getByRole('menuitem', { name: 'Draw shapes for it' }));
  };
  return { session, step, draw, ...shown };
};

describe('a matte is drawn where it is wanted', () => {
  test('of a mask: a lane of what the step gets, with the pen in hand on its picture; one undo', async () => {
    const { session, step, draw } = open('blur', 'grade');
    const before = shotOf(session);
    await draw(/^Mask: none/);
    const lane = laneOf(session, 'Mask shapes');
    expect(lane.start).toEqual({ tap: { lane: laneOf(session, 'keeper').id, after: stepOf(session, 'blur').id } });
    expect(stepOf(session, 'grade').mask).toEqual({ lane: lane.id, channel: 'A', invert: false });
    expect(view.get()).toMatchObject({ selection: { kind: 'step', id: lane.steps[0]!.id }, seen: { lane: lane.id }, channel: 'overlay' });
    expect(shaping.get().tool).toBe('pen');
    act(() => session.undo());
    expect(shotOf(session).lanes).toEqual(before.lanes);
    expect(step.mask).toBeUndefined();
  });

  test.each(['Inside', 'Outside', 'Where'])('of edge detail: %s', async (title) => {
    const { session, draw } = open('edgeDetail');
    await draw(new RegExp(`^${title}: none`));
    const feeds = Object.values(stepOf(session, 'edgeDetail').feeds);
    expect(feeds).toEqual([{ lane: laneOf(session, `${title} shapes`).id }]);
  });

  test('a picture that is no matte is not drawn', async () => {
    const { user } = open('edgeDetail');
    await user.click(screen.getByRole('button', { name: /^Plate: none/ }));
    expect(screen.queryByRole('menuitem', { name: 'Draw shapes for it' })).toBeNull();
  });

  test('refused, it says why and leaves the tools as they were', async () => {
    const { session, draw } = open('grade');
    // The lane is locked while the menu is open.
    const lanes = shotOf(session).lanes.length;
    const locked = draw(/^Mask: none/);
    session.run('lock', changeLane(laneOf(session, 'keeper').id, { locked: true }));
    await locked;
    expect(lastAlert().textContent).toMatch(/locked/);
    expect(shotOf(session).lanes).toHaveLength(lanes);
    expect(shaping.get().tool).toBe('select');
  });
});
