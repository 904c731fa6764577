import { act, fireEvent, screen } from '@testing-library/react';
import { changeLane } from '@/core/commands/commands';
import { laneOf, shotOf, shotWith, showBench } from '../testing/bench';
import { useKeymap } from '../search/keymap';
import { view } from './state';
import { useKeys } from './use-keys';

/** A page with one thing of each kind that may have the focus. */
function Page() {
  useKeys();
  return (
    <>
      <section aria-label="Sources">
        <button>Bring in</button>
      </section>
      <section data-testid="stage" tabIndex={-1} />
      <section aria-label="Controls">
        <input aria-label="Name" />
        <input aria-label="Gain" type="range" />
        <input aria-label="Step on" type="checkbox" />
        <div aria-label="Filter" role="combobox" aria-expanded={false} aria-controls="none" tabIndex={0} />
        <input aria-label="Find" role="combobox" aria-expanded={false} aria-controls="none" />
      </section>
      <section className="board">
        <button disabled>Nothing here</button>
        <button className="chip">Blur</button>
      </section>
    </>
  );
}

function open() {
  const session = shotWith('blur');
  const shown = showBench(session, <Page />, { frame: 24 });
  const on = (name: string): HTMLElement => screen.getByLabelText(name);
  const focus = (what: HTMLElement): void => act(() => what.focus());
  const press = (keys: string): Promise<void> => shown.user.keyboard(keys);
  return { session, on, focus, press, frame: () => view.get().frame, ...shown };
}

beforeEach(() => {
  useKeymap.setState({ chosen: {} });
  act(() => (document.activeElement as HTMLElement).blur());
});

describe('keys of the workbench', () => {
  test('go through frames, and not out of the range', async () => {
    const { press, frame } = open();
    await press('{ArrowRight}{ArrowRight}{ArrowLeft}');
    expect(frame()).toBe(25);
    await press('{Shift>}{ArrowRight}{/Shift}');
    expect(frame()).toBe(35);
    await press('{End}{ArrowRight}');
    expect(frame()).toBe(48);
    await press('{Home}{ArrowLeft}');
    expect(frame()).toBe(1);
  });

  test('undo and redo, and do what somebody chose them for', async () => {
    const { session, press } = open();
    act(() => session.run('mute', changeLane(laneOf(session, 'keeper').id, { muted: true })));
    await press('{Control>}z{/Control}');
    expect(laneOf(session, 'keeper').muted).toBe(false);
    await press('{Control>}{Shift>}z{/Shift}{/Control}');
    expect(laneOf(session, 'keeper').muted).toBe(true);
    useKeymap.setState({ chosen: { 'First frame': 'F9' } });
    await press('{Home}');
    expect(view.get().frame).toBe(24);
    await press('{F9}');
    expect(view.get().frame).toBe(1);
  });

  test('a field keeps what is typed into it, a slider its arrows alone, a switch Space alone', async () => {
    const { on, focus, press, frame, session } = open();
    const before = shotOf(session);
    focus(on('Name'));
    await press('{Home}kz ');
    expect([(on('Name') as HTMLInputElement).value, frame(), view.get().playing]).toEqual(['kz ', 24, false]);
    focus(on('Gain'));
    fireEvent.keyDown(on('Gain'), { key: 'Home' });
    fireEvent.keyDown(on('Gain'), { key: 'ArrowRight' });
    expect(frame()).toBe(24);
    await press('g');
    expect(view.get().channel).toBe('G');
    focus(on('Step on'));
    await press(' ');
    expect(view.get().playing).toBe(false);
    await press('{ArrowRight}');
    expect(frame()).toBe(25);
    expect(shotOf(session)).toBe(before);
  });

  test('a list that was chosen from keeps what opens it; all else goes on to the workbench', async () => {
    const { on, focus, press, frame } = open();
    focus(on('Filter'));
    await press('{ArrowDown}{ArrowUp}{Enter} ');
    expect([frame(), view.get().playing]).toEqual([24, false]);
    await press('{ArrowRight}z');
    expect([frame(), view.get().zoom]).toEqual([25, 1]);
    // One that is typed into is a field.
    focus(on('Find'));
    await press('f{Home}');
    expect([frame(), view.get().zoom, (on('Find') as HTMLInputElement).value]).toEqual([25, 1, 'f']);
  });

  test('nothing is done behind a dialog; the search opens from a field too', async () => {
    const { on, focus, press, frame } = open();
    act(() => view.set({ dialog: 'export' }));
    await press('{ArrowRight}');
    expect(frame()).toBe(24);
    act(() => view.set({ dialog: null }));
    focus(on('Name'));
    await press('{Control>}k{/Control}');
    expect(view.get().dialog).toBe('search');
  });
});

describe('Space', () => {
  test('plays when it is let go of, and again stops', async () => {
    const { press } = open();
    await press('{ >}');
    expect([document.body.dataset.space, view.get().playing]).toEqual(['down', false]);
    await press('{/ }');
    expect([document.body.dataset.space, view.get().playing]).toEqual([undefined, true]);
    await press(' ');
    expect(view.get().playing).toBe(false);
  });

  test('does not play where the picture was panned with it', async () => {
    const { press } = open();
    await press('{ >}');
    document.body.dataset.panned = 'yes';
    await press('{/ }');
    expect([view.get().playing, document.body.dataset.panned]).toEqual([false, undefined]);
  });

  test('presses a button that the keyboard has reached, not one that was clicked', async () => {
    const { press, user } = open();
    await user.click(screen.getByRole('button', { name: 'Bring in' }));
    await press(' ');
    expect(view.get().playing).toBe(true);
    act(() => view.set({ playing: false }));
    await press('{Tab}{Shift>}{Tab}{/Shift}');
    expect(document.activeElement).toBe(screen.getByRole('button', { name: 'Bring in' }));
    await press(' ');
    expect(view.get().playing).toBe(false);
  });
});

test('B shows the picture without the selected step for as long as it is held', () => {
  open();
  fireEvent.keyDown(document.body, { key: 'b', code: 'KeyB' });
  fireEvent.keyDown(document.body, { key: 'b', code: 'KeyB', repeat: true });
  expect(view.get().before).toBe(true);
  fireEvent.keyUp(document.body, { key: 'b', code: 'KeyB' });
  expect(view.get().before).toBe(false);
});

test('Escape leaves the innermost of what is under way, one at each press', async () => {
  const { press } = open();
  act(() => view.set({ full: true, areaing: true, drawing: { kind: 'point' } as never }));
  const left = (): unknown[] => [view.get().drawing, view.get().areaing, view.get().full];
  await press('{Escape}');
  expect(left()).toEqual([null, true, true]);
  await press('{Escape}');
  expect(left()).toEqual([null, false, true]);
  await press('{Escape}');
  expect(left()).toEqual([null, false, false]);
});

test('F6 goes round the parts of the page, backwards with Shift, to the first thing that takes the focus', async () => {
  const { press, on } = open();
  const here = (): Element | null => document.activeElement;
  await press('{F6}');
  expect(here()).toBe(screen.getByRole('button', { name: 'Bring in' }));
  await press('{F6}');
  expect(here()).toBe(screen.getByTestId('stage'));
  await press('{F6}');
  expect(here()).toBe(on('Name'));
  await press('{F6}');
  // What cannot be pressed is passed over.
  expect(here()).toBe(screen.getByRole('button', { name: 'Blur' }));
  await press('{F6}');
  expect(here()).toBe(screen.getByRole('button', { name: 'Bring in' }));
  await press('{Shift>}{F6}{/Shift}');
  expect(here()).toBe(screen.getByRole('button', { name: 'Blur' }));
});
