import { act, fireEvent, screen } from '@testing-library/react';
import { setParams } from '@/core/commands/commands';
import { retype, shotWith, showBench, stepOf } from '../testing/bench';
import { Controls } from './Controls';

/** The panel as it would lie on the page: 224 pixels square. */
function open() {
  const session = shotWith('curves');
  const shown = showBench(session, <Controls />, { selection: { kind: 'step', id: stepOf(session, 'curves').id } });
  const panel = screen.getByRole('group', { name: 'Curves: all' });
  panel.getBoundingClientRect = () => ({ left: 0, top: 0, width: 224, height: 224 }) as DOMRect;
  return { session, panel, curves: () => stepOf(session, 'curves').params.curves as unknown, ...shown };
}

describe('the panel of curves', () => {
  test('a press adds a point where it is, a drag moves it, all in one undo', () => {
    const { session, panel, curves } = open();
    fireEvent.pointerDown(panel, { clientX: 112, clientY: 112, button: 0 });
    fireEvent.pointerMove(panel, { clientX: 112, clientY: 56 });
    fireEvent.pointerUp(panel, { clientX: 112, clientY: 56 });
    expect(curves()).toEqual([{ channel: 'all', points: [0, 0, 0.5, 0.75, 1, 1] }]);
    expect(screen.getAllByRole('button', { name: /^Point/ })).toHaveLength(3);
    act(() => void session.undo());
    expect(curves()).toBeUndefined();
  });

  test('a point is typed, kept between its neighbours, and taken away by Delete; ends stay', async () => {
    const { session, curves, user } = open();
    act(() =>
      session.run('set', setParams(stepOf(session, 'curves').id, { curves: [{ channel: 'all', points: [0, 0, 0.5, 0.6, 1, 1] }] }, 1)),
    );
    act(() => screen.getByRole('button', { name: 'Point 2 of all' }).focus());
    await retype(user, screen.getByRole('textbox', { name: 'Point out' }), '0.8');
    await retype(user, screen.getByRole('textbox', { name: 'Point in' }), '7');
    expect(curves()).toEqual([{ channel: 'all', points: [0, 0, 0.9999, 0.8, 1, 1] }]);
    fireEvent.keyDown(screen.getByRole('button', { name: 'Point 1 of all' }), { key: 'Delete' });
    fireEvent.keyDown(screen.getByRole('button', { name: 'Point 2 of all' }), { key: 'Delete' });
    expect(curves()).toEqual([]);
  });

  test('each channel has a curve of its own; straightened it is gone, the others stay', async () => {
    const { session, curves, user } = open();
    const both = ['all', 'G'].map((channel) => ({ channel, points: [0, 0.1, 1, 1] }));
    act(() => session.run('set', setParams(stepOf(session, 'curves').id, { curves: both }, 1)));
    await user.click(screen.getByRole('button', { name: 'Green' }));
    expect(screen.getByRole('group', { name: 'Curves: green' })).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Straighten green' }));
    expect(curves()).toEqual([both[0]]);
  });
});
