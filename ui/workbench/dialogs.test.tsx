import '@/store/testing/indexed-db';
import { act, fireEvent, screen, within } from '@testing-library/react';
import { setFeed } from '@/core/commands/commands';
import { db } from '@/store/db';
import type { ShotSession } from '@/store/shot-store';
import { RecipesDialog } from '../recipes/RecipesDialog';
import { laneOf, shotOf, showBench, shotWith, stepOf } from '../testing/bench';
import { clearToasts, toast, toastError, useToasts } from '../theme/toast';
import { chosenSteps, copySelected, pasteCopied } from './copying';
import { DeleteLaneDialog } from './DeleteLaneDialog';
import { Messages } from './Messages';
import { UnsavedDialog } from './UnsavedDialog';
import { view } from './state';

const button = (name: string | RegExp): HTMLButtonElement => screen.getByRole('button', { name });
const done = (): Promise<void> => act(() => new Promise<void>((next) => setTimeout(next, 20)));

beforeEach(() => {
  act(() => useToasts.setState({ list: [], said: [], unread: 0 }));
});

describe('messages', () => {
  test('stand at the most three at a time, the same text once, and are all kept to be read later', async () => {
    const { user } = showBench(shotWith(), <Messages />);
    act(() => ['one', 'two', 'three', 'two', 'four'].forEach((t) => toast('info', t)));
    expect(useToasts.getState().list.map((t) => t.text)).toEqual(['three', 'two', 'four']);
    await user.click(button('Messages'));
    const list = screen.getByRole('dialog', { name: 'Messages' });
    expect(list.textContent).toMatch(/four.*two.*three.*two.*one/);
    // What stood is in the list, and is not over the picture any more.
    expect(useToasts.getState().list).toEqual([]);
  });

  test('what went wrong counts as unread until the list is opened', async () => {
    const { user } = showBench(shotWith(), <Messages />);
    act(() => toast('info', 'Kept.'));
    expect(useToasts.getState().unread).toBe(0);
    act(() => toastError(new Error('no room left')));
    expect(useToasts.getState().unread).toBe(1);
    expect(screen.getByRole('alert').textContent).toContain('no room left');
    await user.click(button('Messages'));
    expect(useToasts.getState().unread).toBe(0);
  });

  test('one is closed by its cross, or by what it offers to do', async () => {
    const { user } = showBench(shotWith(), <Messages />);
    let undone = 0;
    act(() => toast('info', 'It was deleted.', { label: 'Undo', run: () => undone++ }));
    await user.click(button('Undo'));
    expect([undone, screen.queryByText('It was deleted.')]).toEqual([1, null]);
    act(() => toast('warning', 'Look at this.'));
    await user.click(button('Close message'));
    expect(screen.queryByText('Look at this.')).toBeNull();
    act(() => toast('warning', 'Of a place that is left.'));
    act(() => clearToasts());
    expect(screen.queryByText('Of a place that is left.')).toBeNull();
    expect(useToasts.getState().said).toHaveLength(3);
  });
});

describe('deleting a lane', () => {
  test('says what else goes with it, asks which lane is the result then, and comes back by one undo', async () => {
    const session = shotWith('grade');
    const [harbour, keeper] = [laneOf(session, 'harbour').id, laneOf(session, 'keeper').id];
    session.run('result', (s) => void (s.result = keeper));
    session.run('mask', setFeed(laneOf(session, 'harbour').steps[0]!.id, 'front', { lane: keeper }));
    const before = shotOf(session);
    const { user } = showBench(session, <DeleteLaneDialog onClose={() => undefined} />, { selection: { kind: 'lane', id: keeper } });
    const dialog = screen.getByRole('dialog');
    expect(dialog.textContent).toContain('Delete keeper?');
    expect(within(dialog).getAllByRole('listitem').length).toBeGreaterThan(0);
    expect(screen.getByRole('combobox', { name: 'The result is then' }).textContent).toBe('harbour');
    await user.click(button('Delete'));
    expect([shotOf(session).lanes.map((l) => l.id), shotOf(session).result]).toEqual([[harbour], harbour]);
    expect(view.get().selection).toBeNull();
    await user.click(button('Undo'));
    expect(shotOf(session)).toEqual(before);
  });

  test('of one that nothing uses it only asks', () => {
    const session = shotWith();
    session.run(
      'alone',
      (s) => void s.lanes.push({ id: 'x', name: 'gulls', start: { empty: true }, steps: [], muted: false, collapsed: false } as never),
    );
    showBench(session, <DeleteLaneDialog onClose={() => undefined} />, { selection: { kind: 'lane', id: 'x' } });
    expect(within(screen.getByRole('dialog')).queryAllByRole('listitem')).toEqual([]);
    expect(screen.queryByRole('combobox')).toBeNull();
  });
});

describe('a shot that could not be saved', () => {
  test('is not left without a question, and the ways out are named', () => {
    const session = shotWith();
    act(() => session.store.setState({ saved: 'failed', problem: 'The browser has no room left to save this shot.' }));
    showBench(session, <UnsavedDialog onClose={() => undefined} />);
    expect(screen.getByRole('dialog').textContent).toContain('no room left');
    expect(screen.getByText('Leave and lose the changes')).toBeTruthy();
    act(() => session.store.setState({ saved: 'saved', problem: null }));
    expect(screen.getByText('This shot is saved now')).toBeTruthy();
    expect(screen.getByText('To the Library')).toBeTruthy();
  });
});

/** Selects the steps of the keeper from one to another. */
function choose(session: ShotSession, from: number, to: number): void {
  const lane = laneOf(session, 'keeper');
  act(() => view.set({ selection: { kind: 'step', id: lane.steps[from]!.id }, run: { lane: lane.id, from, to } }));
}

describe('steps that are chosen together', () => {
  test('are a run of a lane in its order, whichever end came first', () => {
    const session = shotWith('grade', 'blur', 'exposure');
    showBench(session, <Messages />);
    choose(session, 2, 1);
    expect(chosenSteps(shotOf(session)).map((s) => s.type)).toEqual(['blur', 'exposure']);
    act(() => view.set({ run: null, selection: { kind: 'step', id: stepOf(session, 'grade').id } }));
    expect(chosenSteps(shotOf(session)).map((s) => s.type)).toEqual(['grade']);
    act(() => view.set({ selection: null }));
    expect(chosenSteps(shotOf(session))).toEqual([]);
  });

  test('are copied, and pasted after what is selected, as copies of their own', () => {
    const session = shotWith('grade', 'blur', 'exposure');
    showBench(session, <Messages />);
    localStorage.clear();
    act(() => pasteCopied(session));
    expect(screen.getByText(/Nothing was copied yet/)).toBeTruthy();
    choose(session, 0, 1);
    act(() => copySelected(session));
    expect(screen.getByText('2 steps were copied.')).toBeTruthy();
    act(() => view.set({ run: null, selection: { kind: 'step', id: stepOf(session, 'exposure').id } }));
    act(() => pasteCopied(session));
    const steps = laneOf(session, 'keeper').steps;
    expect(steps.map((s) => s.type)).toEqual(['grade', 'blur', 'exposure', 'grade', 'blur']);
    expect(new Set(steps.map((s) => s.id)).size).toBe(5);
    expect(view.get().selection).toEqual({ kind: 'step', id: steps[3]!.id });
  });

  test('a lane is copied with what it needs, and what is damaged is refused', () => {
    const session = shotWith('grade');
    showBench(session, <Messages />);
    act(() => view.set({ selection: { kind: 'lane', id: laneOf(session, 'harbour').id }, run: null }));
    act(() => copySelected(session));
    expect(screen.getByText('The lane and 1 that it needs were copied.')).toBeTruthy();
    act(() => pasteCopied(session));
    expect(shotOf(session).lanes).toHaveLength(4);
    localStorage.setItem('ostracon clipboard', '{"format":"nonsense"}');
    act(() => pasteCopied(session));
    expect(shotOf(session).lanes).toHaveLength(4);
  });
});

describe('recipes', () => {
  test('chosen steps are kept under a name, used in a lane, and deleted with an undo', async () => {
    const session = shotWith('grade', 'blur');
    const { user } = showBench(session, <RecipesDialog onClose={() => undefined} />, {
      selection: { kind: 'step', id: stepOf(session, 'grade').id },
      run: { lane: laneOf(session, 'keeper').id, from: 0, to: 1 },
    });
    await user.type(screen.getByRole('textbox', { name: 'Name of the recipe' }), 'Night look');
    await user.click(button('Keep these 2 steps'));
    const row = await screen.findByTestId('recipe Night look');
    expect(row.textContent).toMatch(/ → /);
    await user.click(within(row).getByRole('button', { name: 'Use' }));
    expect(laneOf(session, 'keeper').steps.map((s) => s.type)).toEqual(['grade', 'blur', 'grade', 'blur']);
    await user.click(button('Delete recipe Night look'));
    await done();
    expect(await db.recipes.count()).toBe(0);
    await user.click(button('Undo'));
    await done();
    expect(await db.recipes.count()).toBe(1);
  });

  test('a file that is no recipe is refused with its name', async () => {
    const session = shotWith('grade');
    showBench(session, <RecipesDialog onClose={() => undefined} />);
    const file = Object.assign(new File(['{}'], 'gull.json'), { text: () => Promise.resolve('{"what": 1}') });
    fireEvent.change(screen.getByLabelText('Recipe file'), { target: { files: [file] } });
    expect((await screen.findByRole('alert')).textContent).toContain('gull.json');
  });
});
