import { act, fireEvent, screen } from '@testing-library/react';
import { addNote, setKeys } from '@/core/commands/commands';
import { Ruler, TimeStrip } from '../lanes/TimeStrip';
import { laneOf, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import { useShotPart } from '../workbench/context';
import { view } from '../workbench/state';
import { useReady } from './ready';
import { Transport } from './Transport';

beforeEach(() => useReady.setState({ ready: [], fps: null, dropped: 0 }));

describe('the transport', () => {
  test('goes by one frame and to the ends, and no farther', async () => {
    const { user } = showBench(shotWith(), <Transport />);
    const press = (name: string): Promise<void> => user.click(screen.getByRole('button', { name }));
    await press('Frame back (←)');
    expect(view.get().frame).toBe(1);
    await press('Frame on (→)');
    expect(view.get().frame).toBe(2);
    await press('Last frame (End)');
    await press('Frame on (→)');
    expect(view.get().frame).toBe(48);
    act(() => view.set({ inOut: { first: 10, last: 20 } }));
    await press('First frame (Home)');
    expect(view.get().frame).toBe(10);
    expect(screen.getByText('in 10 · out 20')).toBeTruthy();
  });

  test('plays and pauses; going to a frame ends playing', async () => {
    const { user } = showBench(shotWith(), <Transport />);
    await user.click(screen.getByRole('button', { name: 'Play (Space)' }));
    expect(view.get().playing).toBe(true);
    await user.click(screen.getByRole('button', { name: 'Frame on (→)' }));
    expect(view.get().playing).toBe(false);
  });

  test('a frame is typed; one outside of the range becomes its end, what is no frame is left alone', async () => {
    const { user } = showBench(shotWith(), <Transport />);
    const type = async (text: string): Promise<void> => {
      const field = screen.getByRole('textbox', { name: 'Frame' });
      await user.clear(field);
      await user.type(field, `${text}{Enter}`);
    };
    await type('12');
    expect(view.get().frame).toBe(12);
    expect((screen.getByRole('textbox', { name: 'Frame' }) as HTMLInputElement).value).toBe('0012');
    await type('900');
    expect(view.get().frame).toBe(48);
    await type('2.5');
    expect(view.get().frame).toBe(48);
  });

  test('says what happens at the end and how time is kept, each changed by a press', async () => {
    const { user } = showBench(shotWith(), <Transport />);
    for (const next of ['bounce', 'once', 'loop'] as const) {
      await user.click(screen.getByText(view.get().loop));
      expect(view.get().loop).toBe(next);
    }
    await user.click(screen.getByText('real time'));
    expect(view.get().pace).toBe('every');
    expect(screen.getByText('every frame')).toBeTruthy();
  });

  test('counts frames that are ready, the rate while it plays, and what was left out', () => {
    showBench(shotWith(), <Transport />);
    expect(screen.getByTestId('ready').textContent).toBe('24 fps · 0/48 ready');
    act(() => {
      useReady.setState({ ready: [1, 2, 3], fps: 23.4, dropped: 2 });
      view.set({ playing: true });
    });
    expect(screen.getByTestId('ready').textContent).toBe('23.4 of 24 fps · 3/48 ready');
    expect(screen.getByText('2 left out')).toBeTruthy();
  });

  test('tabs count what is to be looked at', async () => {
    const session = shotWith('differenceKey');
    const { user } = showBench(session, <Transport />);
    act(() => session.run('note', addNote(3)));
    expect(screen.getByRole('tab', { name: 'Checks 1' })).toBeTruthy();
    await user.click(screen.getByRole('tab', { name: 'Notes 1' }));
    expect(view.get().tab).toBe('notes');
    expect(screen.queryByRole('tab', { name: 'Readings' })).toBeNull();
  });
});

/** The page under test has no layout: the time column is given one. */
function layOut(element: HTMLElement, left = 100, width = 480): void {
  element.getBoundingClientRect = () => ({ left, width, top: 0, height: 24, right: left + width, bottom: 24, x: left, y: 0 }) as DOMRect;
}

describe('the time strip', () => {
  test('a press on the ruler goes to the frame under it, a drag scrubs, and neither leaves the range', () => {
    showBench(shotWith(), <Ruler head={null} />);
    const ruler = screen.getByTestId('ruler');
    layOut(ruler);
    fireEvent.pointerDown(ruler, { button: 0, clientX: 100 + 10 * 11 + 5, pointerId: 1 });
    expect(view.get().frame).toBe(12);
    fireEvent.pointerMove(ruler, { clientX: 100 + 10 * 30 + 5, pointerId: 1 });
    expect(view.get().frame).toBe(31);
    fireEvent.pointerMove(ruler, { clientX: 2000, pointerId: 1 });
    expect(view.get().frame).toBe(48);
    fireEvent.pointerUp(ruler, { pointerId: 1 });
    fireEvent.pointerMove(ruler, { clientX: 150, pointerId: 1 });
    expect(view.get().frame).toBe(48);
  });

  test('has no more than ten numbers, the first frame always among them', () => {
    for (const last of [7, 48, 240, 1001, 90_000]) {
      const session = shotWith();
      session.run('range', (s) => void (s.range = { first: 1, last }));
      const { container } = showBench(session, <Ruler head={null} />);
      const ticks = [...container.querySelectorAll('.tick')].map((t) => Number(t.textContent));
      expect(ticks[0]).toBe(1);
      expect(ticks.length).toBeLessThanOrEqual(10);
      expect(Math.max(...ticks)).toBeLessThanOrEqual(last);
    }
  });

  test('frames that are ready are drawn as runs', () => {
    const { container } = showBench(shotWith(), <Ruler head={null} />);
    act(() => useReady.setState({ ready: [1, 2, 3, 7, 8, 20] }));
    const runs = [...container.querySelectorAll<HTMLElement>('.cached')].map((r) => Math.round((48 * parseFloat(r.style.width)) / 100));
    expect(runs).toEqual([3, 2, 1]);
  });

  test('a note is dragged to other frames and stretched by its end; each drag is one undo', () => {
    const session = shotWith();
    session.run('note', addNote(10));
    session.run('long', (s) => void (s.notes[0]!.last = 14));
    showBench(session, <Ruler head={null} />);
    const mark = screen.getByTestId('note mark 10');
    const drag = (target: Element, ...dx: number[]): void => {
      fireEvent.pointerDown(target, { button: 0, clientX: 0, pointerId: 1 });
      for (const clientX of dx) fireEvent.pointerMove(window, { clientX, pointerId: 1 });
      fireEvent.pointerUp(window, { pointerId: 1 });
    };
    // 352 pixels for 48 frames.
    drag(mark, 10, 22);
    expect(shotOf(session).notes[0]).toMatchObject({ frame: 13, last: 17 });
    drag(screen.getByTestId('note mark 13').querySelector('.end')!, 5, 37);
    expect(shotOf(session).notes[0]).toMatchObject({ frame: 13, last: 22 });
    act(() => void session.undo());
    act(() => void session.undo());
    expect(shotOf(session).notes[0]).toMatchObject({ frame: 10, last: 14 });
  });

  test('a lane’s strip shows the keys of the step that is selected', () => {
    const session = shotWith('blur', 'grade');
    const { id } = stepOf(session, 'blur');
    const keys = [3, 20].map((frame) => ({ frame, value: frame, ease: 'linear' as const }));
    session.run('keys', setKeys(id, 'size', keys, 1));
    function Strip() {
      const lane = useShotPart('lanes').find((l) => l.name === 'keeper')!;
      return <TimeStrip lane={lane} />;
    }
    showBench(session, <Strip />);
    expect(screen.queryByTitle('Key at 3')).toBeNull();
    act(() => view.set({ selection: { kind: 'step', id } }));
    expect([3, 20].map((f) => screen.getByTitle(`Key at ${f}`)).length).toBe(2);
    act(() => view.set({ selection: { kind: 'step', id: stepOf(session, 'grade').id } }));
    expect(screen.queryByTitle('Key at 3')).toBeNull();
    expect(laneOf(session, 'keeper').steps).toHaveLength(2);
  });
});
