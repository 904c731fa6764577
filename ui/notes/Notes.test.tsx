import { act, screen } from '@testing-library/react';
import { addNote } from '@/core/commands/commands';
import { retype, shotOf, shotWith, showBench } from '../testing/bench';
import { view } from '../workbench/state';
import { Notes } from './Notes';

const notes = (session: ReturnType<typeof shotWith>) => shotOf(session).notes;

describe('notes', () => {
  test('one is added at the frame that is seen, written, given an end and a colour; typing is one undo', async () => {
    const session = shotWith();
    const { user } = showBench(session, <Notes />);
    expect(screen.getByRole('region', { name: 'Notes' }).textContent).toContain('frame by frame');
    act(() => view.set({ frame: 12 }));
    await user.click(screen.getByRole('button', { name: 'Note at frame 12' }));
    // A new note is there to be written.
    expect(document.activeElement).toBe(screen.getByRole('textbox', { name: 'Text of the note at 12' }));
    await user.keyboard('rope');
    expect(notes(session)).toMatchObject([{ frame: 12, text: 'rope' }]);
    act(() => void session.undo());
    expect(notes(session)[0]!.text).toBe('');
    act(() => void session.redo());

    const last = screen.getByRole('textbox', { name: 'Last frame of the note at 12' });
    await retype(user, last, '20');
    await user.click(screen.getByRole('button', { name: 'Colour glaze' }));
    expect(notes(session)).toMatchObject([{ frame: 12, last: 20, colour: 'glaze', text: 'rope' }]);
    expect(screen.getByRole('button', { name: 'Go to the note at 12' }).textContent).toBe('12–20');
  });

  test('its end does not come before its start', async () => {
    const session = shotWith();
    const { user } = showBench(session, <Notes />);
    act(() => session.run('note', addNote(30)));
    const last = screen.getByRole('textbox', { name: 'Last frame of the note at 30' });
    await retype(user, last, '29');
    expect(last.getAttribute('aria-invalid')).toBe('true');
    expect(notes(session)[0]!.last).toBeUndefined();
  });

  test('those that are done can be left out, lead to their frames, and are deleted', async () => {
    const session = shotWith();
    const { user } = showBench(session, <Notes />);
    act(() => {
      session.run('note', addNote(3));
      session.run('note', addNote(40));
    });
    await user.click(screen.getByRole('checkbox', { name: 'Note at 3 is done' }));
    await user.click(screen.getByRole('button', { name: 'Open ones only' }));
    expect(screen.queryByTestId('note 3')).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Go to the note at 40' }));
    expect(view.get().frame).toBe(40);
    await user.click(screen.getByRole('button', { name: 'Delete the note at 40' }));
    expect(notes(session).map((n) => n.frame)).toEqual([3]);
    expect(screen.getByRole('region', { name: 'Notes' }).textContent).toContain('No note is of this kind');
  });
});
