import { act, cleanup, fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { setKeys } from '@/core/commands/commands';
import { laneOf, shotWith, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { ACTIONS, HELD, keyName } from './actions';
import { keysOf, takenBy, useKeymap } from './keymap';
import { Palette } from './Palette';

const action = (title: string) => ACTIONS.find((a) => a.title === title)!;

afterEach(cleanup);

describe('keys', () => {
  beforeEach(() => useKeymap.setState({ chosen: {} }));

  test('no key starts two actions, and none but Space, which pans while a drag lasts, is held for something else', () => {
    const all = ACTIONS.flatMap((a) => a.keys.map((k) => [k, a.title] as const));
    expect(new Set(all.map(([k]) => k)).size).toBe(all.length);
    expect(all.filter(([k]) => k in HELD).map(([k]) => k)).toEqual(['Space']);
  });

  test('a key that somebody chose takes the place of the action’s own; an empty one is none', () => {
    const search = action('Search anything');
    expect(keysOf(search)).toEqual(['Ctrl+K']);
    expect(keysOf(search, { [search.title]: 'F9' })).toEqual(['F9']);
    expect(keysOf(search, { [search.title]: '' })).toEqual([]);
  });

  test('a key is taken by the action that has it now, not by the one that had it', () => {
    const [search, add] = [action('Search anything'), action('Add a step after the selected')];
    expect(takenBy('Ctrl+K', add, ACTIONS)).toBe(search);
    expect(takenBy('Ctrl+K', search, ACTIONS)).toBeUndefined();
    useKeymap.setState({ chosen: { [search.title]: 'F9' } });
    expect(takenBy('Ctrl+K', add, ACTIONS)).toBeUndefined();
    expect(takenBy('F9', add, ACTIONS)).toBe(search);
  });

  test.each([
    [{ key: 'k', ctrlKey: true }, 'Ctrl+K'],
    [{ key: 'k', metaKey: true }, 'Ctrl+K'],
    [{ key: 'Z', ctrlKey: true, shiftKey: true }, 'Ctrl+Shift+Z'],
    [{ key: 'v' }, 'V'],
    [{ key: 'ArrowLeft', shiftKey: true }, 'Shift+←'],
  ])('%p is written %s', (init, wanted) => {
    expect(keyName(new KeyboardEvent('keydown', init))).toBe(wanted);
  });
});

describe('actions', () => {
  test('the next and the previous key of the selected step are gone to', () => {
    const session = shotWith('blur');
    const { id } = stepOf(session, 'blur');
    const keys = [4, 9, 30].map((frame) => ({ frame, value: frame, ease: 'linear' as const }));
    session.run('keys', setKeys(id, 'size', keys, 1));
    view.reset(9);
    view.set({ selection: { kind: 'step', id } });
    const [before, after] = ACTIONS.filter((a) => /key/i.test(a.title) && (a.keys.includes(',') || a.keys.includes('.'))).sort((a) =>
      a.keys.includes(',') ? -1 : 1,
    ) as [(typeof ACTIONS)[number], (typeof ACTIONS)[number]];
    after.run(session, {} as never);
    expect(view.get().frame).toBe(30);
    after.run(session, {} as never);
    expect(view.get().frame).toBe(30);
    before.run(session, {} as never);
    before.run(session, {} as never);
    expect(view.get().frame).toBe(4);
  });

  test('a channel is seen alone and, asked for again, all of them', () => {
    view.reset(1);
    const alpha = ACTIONS.find((a) => a.keys.includes('A'))!;
    alpha.run({} as never, {} as never);
    expect(view.get().channel).toBe('A');
    alpha.run({} as never, {} as never);
    expect(view.get().channel).toBe('colour');
  });

  test('what is selected is deleted', () => {
    const session = shotWith('blur', 'grade');
    view.reset(1);
    view.set({ selection: { kind: 'step', id: stepOf(session, 'blur').id } });
    ACTIONS.find((a) => a.keys.includes('Delete'))!.run(session, {} as never);
    expect(laneOf(session, 'keeper').steps.map((s) => s.type)).toEqual(['grade']);
    expect(view.get().selection).toBeNull();
  });
});

describe('the list that narrows', () => {
  const ran = jest.fn<void, [title: string]>();
  const closed = jest.fn();
  const entry = (title: string, detail: string) => ({ key: title, title, detail, run: () => ran(title) });
  const entries = [
    entry('Soften matte', 'Matte'),
    entry('Matte report', 'Checks'),
    entry('Blur', 'Filter'),
    entry('Choke', 'Matte: grows'),
  ];
  const titles = (): string[] => screen.getAllByRole('option').map((o) => o.querySelector('span')!.textContent);

  beforeEach(() => {
    ran.mockClear();
    closed.mockClear();
    render(<Palette label="Search anything" entries={entries} onClose={closed} />);
  });

  test('every word counts, in any order; titles that begin with it come first', async () => {
    const user = userEvent.setup();
    expect(titles()).toHaveLength(4);
    await user.type(screen.getByRole('textbox'), 'matte');
    expect(titles()).toEqual(['Matte report', 'Soften matte', 'Choke']);
    await user.type(screen.getByRole('textbox'), ' sof');
    expect(titles()).toEqual(['Soften matte']);
    await user.type(screen.getByRole('textbox'), 'x');
    expect(screen.getByText('Nothing is called that.')).toBeTruthy();
  });

  test('arrows choose, no farther than the ends, and Enter does it once', async () => {
    const user = userEvent.setup();
    await user.click(screen.getByRole('textbox'));
    await user.keyboard('{ArrowUp}{ArrowDown}{ArrowDown}');
    expect(screen.getByRole('option', { selected: true }).textContent).toContain('Blur');
    await user.keyboard('{ArrowDown}{ArrowDown}{ArrowDown}{Enter}');
    expect(ran.mock.calls).toEqual([['Choke']]);
    expect(closed).toHaveBeenCalledTimes(1);
  });

  test('a click does it', () => {
    act(() => void fireEvent.click(screen.getByRole('option', { name: /Blur/ })));
    expect(ran.mock.calls).toEqual([['Blur']]);
  });
});
