import { act, fireEvent, screen, within } from '@testing-library/react';
import { addLane, changeLane, changeStep, setMask, setParams, tapLane, toggleKey } from '@/core/commands/commands';
import { laneOf, lastAlert, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import { useView, view } from '../workbench/state';
import { DeleteLaneDialog } from '../workbench/DeleteLaneDialog';
import { deleteThing } from '../workbench/deleting';
import { Guarded } from '../workbench/Guarded';
import { Lanes } from './Lanes';
import { ticksOf } from './TimeStrip';

const rows = (): string[] => screen.getAllByTestId(/^lane /).map((r) => r.dataset.testid!.slice('lane '.length));
const row = (name: string): HTMLElement => screen.getByTestId(`lane ${name}`);
const chips = (name: string): string[] =>
  within(row(name))
    .getAllByTestId(/^chip /)
    .map((c) => c.dataset.testid!.slice('chip '.length));

type Shown = ReturnType<typeof showBench>;
/** Chooses from a lane's menu; what is chosen is done once the menu has given the focus back. */
async function fromMenu({ user }: Shown, lane: string, entry: string | RegExp): Promise<void> {
  await user.click(screen.getByRole('button', { name: `Menu of lane ${lane}` }));
  await user.click(screen.getByRole('menuitem', { name: entry }));
  await act(() => new Promise((done) => setTimeout(done)));
}

describe('the board', () => {
  test('has a row a lane, the one in front on top, each with its steps in order and what it is for', () => {
    const session = shotWith('grade', 'blur');
    showBench(session, <Lanes />);
    expect(rows()).toEqual(['keeper', 'harbour']);
    expect(chips('keeper')).toEqual(['Grade', 'Blur']);
    // The join is a chip that names what it brings.
    expect(row('harbour').textContent).toContain('over ◂ keeper');
    expect(row('harbour').textContent).toContain('result');
    expect(row('keeper').textContent).toContain('harbour');
  });

  test('finds lanes by their names and by their steps’', async () => {
    const session = shotWith('despill');
    const { user } = showBench(session, <Lanes />);
    const filter = screen.getByRole('textbox', { name: 'Find a lane or step' });
    await user.type(filter, 'spill');
    expect(rows()).toEqual(['keeper']);
    await user.clear(filter);
    await user.type(filter, 'lantern');
    expect(screen.queryAllByTestId(/^lane /)).toEqual([]);
    expect(screen.getByText('No lane or step is called that.')).toBeTruthy();
  });

  test('all lanes become one line each and whole again', async () => {
    const session = shotWith();
    const { user } = showBench(session, <Lanes />);
    await user.click(screen.getByRole('button', { name: 'Collapse all lanes' }));
    expect(shotOf(session).lanes.map((l) => l.collapsed)).toEqual([true, true]);
    await user.click(screen.getByRole('button', { name: 'Expand all lanes' }));
    expect(shotOf(session).lanes.map((l) => l.collapsed)).toEqual([false, false]);
  });
});

describe('a lane', () => {
  test('is muted by its eye, and shown again', async () => {
    const session = shotWith();
    const { user } = showBench(session, <Lanes />);
    await user.click(screen.getByRole('button', { name: 'Mute lane keeper' }));
    expect(laneOf(session, 'keeper').muted).toBe(true);
    await user.click(screen.getByRole('button', { name: 'Show lane keeper' }));
    expect(laneOf(session, 'keeper').muted).toBe(false);
  });

  test('solo is a way of looking: the shot does not change', async () => {
    const session = shotWith();
    const shown = showBench(session, <Lanes />);
    const before = shotOf(session);
    await fromMenu(shown, 'keeper', /^Solo/);
    expect(view.get().solo).toEqual([laneOf(session, 'keeper').id]);
    expect(shotOf(session)).toBe(before);
    await fromMenu(shown, 'keeper', 'End solo');
    expect(view.get().solo).toEqual([]);
  });

  test('locked, it refuses every change of it and says so', async () => {
    const session = shotWith('blur');
    const shown = showBench(session, <Lanes />);
    await fromMenu(shown, 'keeper', 'Lock against changes');
    const blur = stepOf(session, 'blur');
    await fromMenu(shown, 'keeper', 'Delete lane');
    expect(lastAlert().textContent).toMatch(/locked/);
    expect(() => session.run('set', setParams(blur.id, { size: 9 }, 1))).toThrow(/locked/);
    expect(rows()).toEqual(['keeper', 'harbour']);
    await fromMenu(shown, 'keeper', 'Unlock');
    act(() => session.run('set', setParams(blur.id, { size: 9 }, 1)));
    expect(stepOf(session, 'blur').params.size).toBe(9);
  });

  test('is renamed in its place; an empty name and Escape leave the old one', async () => {
    const session = shotWith();
    const shown = showBench(session, <Lanes />);
    const name = () => screen.getByRole('textbox', { name: 'Name' });
    for (const typed of ['{Escape}', '   {Enter}']) {
      await fromMenu(shown, 'keeper', 'Rename');
      await shown.user.clear(name());
      await shown.user.type(name(), typed);
      expect(rows()).toEqual(['keeper', 'harbour']);
    }
    await fromMenu(shown, 'keeper', 'Rename');
    await shown.user.clear(name());
    await shown.user.type(name(), ' tender {Enter}');
    expect(rows()).toEqual(['tender', 'harbour']);
  });

  test('a new lane from the start of one begins there, before its steps', async () => {
    const session = shotWith('blur');
    const shown = showBench(session, <Lanes />);
    await fromMenu(shown, 'keeper', 'New lane from the start of this one');
    expect(shotOf(session).lanes.find((l) => l.name === 'keeper tap')!.start).toEqual({
      tap: { lane: laneOf(session, 'keeper').id, after: '' },
    });
    expect(row('keeper tap').textContent).toContain('keeper');
  });

  test('that others are made of is not deleted, and its users are named', async () => {
    const session = shotWith();
    const shown = showBench(session, <Lanes />);
    act(() => session.run('tap', tapLane({ lane: laneOf(session, 'keeper').id })));
    await fromMenu(shown, 'keeper', 'Delete lane');
    expect(lastAlert().textContent).toMatch(/keeper tap|harbour/);
    expect(rows()).toContain('keeper');
  });
});

/** What asks before a lane is deleted. */
const Asked = () => (useView((s) => s.dialog) === 'deleteLane' ? <DeleteLaneDialog onClose={() => view.set({ dialog: null })} /> : null);

describe('by the keyboard', () => {
  const focused = (): string | undefined =>
    (document.activeElement as HTMLElement).dataset.label ?? document.activeElement?.textContent ?? undefined;

  test('arrows walk along a lane and between lanes, Enter selects, Alt moves a chip', async () => {
    const session = shotWith('grade', 'blur', 'invert');
    const { user } = showBench(session, <Lanes />);
    await user.keyboard('{Tab}');
    act(() => screen.getByTestId('chip Grade').focus());
    await user.keyboard('{ArrowRight}');
    expect(focused()).toBe('Blur');
    await user.keyboard('{Enter}');
    expect(view.get().selection).toEqual({ kind: 'step', id: stepOf(session, 'blur').id });
    await user.keyboard('{Alt>}{ArrowRight}{/Alt}');
    expect(chips('keeper')).toEqual(['Grade', 'Invert', 'Blur']);
    // What was moved has the focus again with the next frame.
    await act(() => new Promise<void>((next) => requestAnimationFrame(() => next())));
    expect(focused()).toBe('Blur');
    act(() => screen.getByTestId('chip Invert').focus());
    await user.keyboard('{ArrowDown}');
    expect(row('harbour').contains(document.activeElement)).toBe(true);
    await user.keyboard('{ArrowUp}');
    expect(row('keeper').contains(document.activeElement)).toBe(true);
  });

  test('a lane is selected from its head, and moved in the stack from its menu', async () => {
    const session = shotWith();
    const shown = showBench(session, <Lanes />);
    act(() => screen.getByRole('group', { name: 'Lane keeper' }).focus());
    await shown.user.keyboard('{Enter}');
    expect(view.get().selection).toMatchObject({ kind: 'lane' });
    await fromMenu(shown, 'keeper', /^Move to the back/);
    expect(rows()).toEqual(['harbour', 'keeper']);
    expect(row('keeper').textContent).toContain('under ▸ harbour');
  });
});

describe('deleting', () => {
  test('of a lane that others use asks first, and says what goes', async () => {
    const session = shotWith('blur');
    const shown = showBench(
      session,
      <>
        <Lanes />
        <Asked />
      </>,
    );
    await fromMenu(shown, 'keeper', 'Delete lane');
    const dialog = await screen.findByRole('dialog');
    expect(dialog.textContent).toContain('harbour ▸ Join goes with it');
    await shown.user.click(within(dialog).getByRole('button', { name: 'Delete' }));
    expect(rows()).toEqual(['harbour']);
    expect(within(row('harbour')).queryAllByTestId(/^chip /)).toEqual([]);
  });

  test('of the result asks which lane is the result then', async () => {
    const session = shotWith();
    act(() => session.run('lane', addLane('src-keeper')));
    const shown = showBench(
      session,
      <>
        <Lanes />
        <Asked />
      </>,
    );
    await fromMenu(shown, 'harbour', 'Delete lane');
    const dialog = await screen.findByRole('dialog');
    await shown.user.click(within(dialog).getByRole('combobox', { name: 'The result is then' }));
    await shown.user.click(screen.getByRole('option', { name: 'keeper 2' }));
    await shown.user.click(within(dialog).getByRole('button', { name: 'Delete' }));
    const { lanes, result } = shotOf(session);
    expect(lanes.find((l) => l.id === result)!.name).toBe('keeper 2');
  });

  test('of a step says whose place in the lane changes with it', async () => {
    const session = shotWith('grade', 'blur');
    const keeper = laneOf(session, 'keeper');
    act(() => session.run('tap', tapLane({ lane: keeper.id, after: keeper.steps[1]!.id })));
    showBench(session, <Lanes />);
    act(() => deleteThing(session, { kind: 'step', id: keeper.steps[1]!.id }));
    expect(await screen.findByText(/Taken after Grade of keeper now: the start of keeper tap/)).toBeTruthy();
  });
});

test('a part of the page that cannot be drawn says so, and is drawn again when it can', async () => {
  let broken = true;
  const Part = () => {
    if (broken) throw new Error('out of order');
    return <p>whole</p>;
  };
  const silent = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  const { user } = showBench(
    shotWith(),
    <Guarded what="This dock">
      <Part />
    </Guarded>,
  );
  expect(screen.getByText(/This dock could not be drawn \(out of order\)\. The shot is as it was\./)).toBeTruthy();
  broken = false;
  await user.click(screen.getByRole('button', { name: 'Draw it again' }));
  expect(screen.getByText('whole')).toBeTruthy();
  silent.mockRestore();
});

test('ticks of the ruler lie in what is seen, however far from 0 that is', () => {
  expect(ticksOf(999_950, 1_000_000, 12)).toEqual([999_960, 999_972, 999_984, 999_996]);
  expect(ticksOf(-20, 13, 10)).toEqual([-10, 0, 10]);
  expect(ticksOf(5, 3, 10)).toEqual([]);
});

describe('a chip', () => {
  test('is selected by a click; with Shift all from the selected one to it are', async () => {
    const session = shotWith('grade', 'blur', 'invert');
    const { user } = showBench(session, <Lanes />);
    await user.click(screen.getByTestId('chip Grade'));
    expect(view.get().selection).toEqual({ kind: 'step', id: stepOf(session, 'grade').id });
    await user.keyboard('{Shift>}');
    await user.click(screen.getByTestId('chip Invert'));
    await user.keyboard('{/Shift}');
    expect(view.get().run).toEqual({ lane: laneOf(session, 'keeper').id, from: 0, to: 2 });
  });

  test('shows that it is off, masked, keyed, and seen', () => {
    const session = shotWith('grade', 'blur');
    showBench(session, <Lanes />);
    const [grade, blur] = [stepOf(session, 'grade'), stepOf(session, 'blur')];
    const lane = laneOf(session, 'keeper').id;
    act(() => {
      session.run('off', changeStep(grade.id, { on: false }));
      session.run('mask', setMask(blur.id, { lane, after: '', channel: 'A', invert: false }));
      session.run('key', toggleKey(blur.id, 'size', 4, 1));
      view.set({ seen: { lane, after: blur.id } });
    });
    expect(screen.getByTestId('chip Grade').className).toContain('off');
    const chip = within(screen.getByTestId('chip Blur'));
    for (const label of ['masked', 'keyed', 'seen here']) expect(chip.getByLabelText(label)).toBeTruthy();
  });

  test('warns of what it lacks, with the reason', () => {
    const session = shotWith('differenceKey');
    showBench(session, <Lanes />);
    expect(within(screen.getByTestId('chip Difference key')).getByLabelText(/^Warning: needs its clean plate connected/)).toBeTruthy();
  });

  test('its menu switches, copies after itself, and deletes', async () => {
    const session = shotWith('blur');
    const { user } = showBench(session, <Lanes />);
    const menu = async (chip: string, entry: string): Promise<void> => {
      fireEvent.contextMenu(screen.getByTestId(`chip ${chip}`));
      await user.click(screen.getByRole('menuitem', { name: entry }));
      await act(() => new Promise((done) => setTimeout(done)));
    };
    await menu('Blur', 'Switch off (Q)');
    expect(stepOf(session, 'blur').on).toBe(false);
    await menu('Blur', 'Duplicate');
    expect(chips('keeper')).toEqual(['Blur', 'Blur 2']);
    await menu('Blur', 'Delete');
    expect(chips('keeper')).toEqual(['Blur 2']);
    act(() => session.run('collapse', changeLane(laneOf(session, 'keeper').id, { collapsed: true })));
    expect(row('keeper').className).toContain('collapsed');
  });
});
