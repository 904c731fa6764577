import '../testing/browser';
import { act, screen } from '@testing-library/react';
import type { Value } from '@/core/document/types';
import { evenGrain } from '@/core/grain/model';
import { setParam, setParams } from '@/core/commands/commands';
import { Controls } from '../controls/Controls';
import { laneOf, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { RemoveDialog } from './RemoveDialog';
import { removing, useRemoving } from './removing';

describe('remove this', () => {
  test('asks what comes into its place, what it goes with and what is in front; another outline is drawn on the same frame', async () => {
    const session = shotWith('grade');
    const { user } = showBench(session, <RemoveDialog onClose={() => view.set({ dialog: null })} />);
    act(() => removing.start());
    expect(view.get().drawing).toEqual({ kind: 'remove' });
    view.set({ frame: 7 });
    act(() => removing.drawn(session.store.getState().shot, [10, 10, 60, 10, 60, 50], 7));
    expect(view.get()).toMatchObject({ drawing: null, dialog: 'remove' });
    expect(screen.getByText(/One outline on frame 7/)).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Draw another' }));
    expect(view.get()).toMatchObject({ drawing: { kind: 'remove' }, dialog: null, frame: 7 });
    act(() => removing.drawn(session.store.getState().shot, [80, 10, 90, 10, 90, 50], 7));
    expect(screen.getByText(/2 outlines on frame 7/)).toBeTruthy();
    expect(useRemoving.getState().outlines).toHaveLength(2);
    await user.click(screen.getByRole('combobox', { name: 'In its place' }));
    await user.click(screen.getByRole('option', { name: 'A place beside it' }));
    expect((screen.getByRole('textbox', { name: 'Beside x' }) as HTMLInputElement).value).toBe('-104');
    await user.click(screen.getByRole('combobox', { name: 'In front of it' }));
    expect(screen.getAllByRole('option').map((o) => o.textContent)).toContain('The matte of keeper');
    // Outlines on another frame begin again.
    act(() => removing.drawn(session.store.getState().shot, [80, 10, 90, 10, 90, 50], 9));
    expect(useRemoving.getState().outlines).toHaveLength(1);
  });
});

describe('what was measured is told', () => {
  test('the grain of a plate, by light and size', () => {
    const session = shotWith('grain');
    const { id } = stepOf(session, 'grain');
    showBench(session, <Controls />, { selection: { kind: 'step', id } });
    expect(screen.queryByTestId('grain figures')).toBeNull();
    act(() => session.run('grain', setParams(id, { measured: evenGrain(0.0004) as unknown as Value }, 1)));
    expect(screen.getByTestId('grain figures').textContent).toContain('Green2.00 %2.00 %1.0 px');
    expect(screen.getByText(/flattest places/)).toBeTruthy();
    act(() => view.set({ probe: [0, 0, 40, 40] }));
    expect(screen.getByText(/In the probed box/)).toBeTruthy();
  });

  test("a patch's light leads to its curve", async () => {
    const session = shotWith('patch');
    const { id } = stepOf(session, 'patch');
    const { user } = showBench(session, <Controls />, { selection: { kind: 'step', id } });
    expect(screen.queryByText(/frames in Curves/)).toBeNull();
    const keys = [1, 2].map((frame) => ({ frame, value: [1, 1.1, 0.9], ease: 'linear' as const }));
    act(() => session.run('light', setParam(id, 'gain', { keys })));
    await user.click(screen.getByText('2 frames in Curves'));
    expect(view.get().tab).toBe('curves');
    expect(laneOf(session, 'keeper').steps).toHaveLength(1);
  });
});
