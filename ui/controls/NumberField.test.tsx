import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import '../testing/bench';
import { view } from '../workbench/state';
import { NumberField } from './NumberField';

const changed = jest.fn<void, [value: number, gesture: string]>();
const problem = jest.fn<void, [problem: string | null]>();

/** A field that keeps what it is told, as the shot does. */
function Kept({ start, ...limits }: { start: number; min?: number; max?: number; whole?: boolean }) {
  const [value, setValue] = useState(start);
  return (
    <NumberField
      label="Radius"
      value={value}
      step={0.1}
      {...limits}
      onChange={(v, gesture) => {
        setValue(v);
        changed(v, gesture);
      }}
      onProblem={problem}
    />
  );
}

const field = (): HTMLInputElement => screen.getByRole('textbox', { name: 'Radius' });

beforeEach(() => {
  changed.mockClear();
  problem.mockClear();
});
afterEach(cleanup);

describe('typed', () => {
  test.each([
    ['2.5', 2.5],
    ['2,5', 2.5],
    ['−3', -3],
    [' 7 ', 7],
    ['2*3', 6],
    ['+=1', 2],
    ['/2', 0.5],
  ])('%p is %d', async (text, wanted) => {
    const user = userEvent.setup();
    render(<Kept start={1} />);
    await user.click(field());
    await user.clear(field());
    await user.type(field(), `${text}{Enter}`);
    expect(changed.mock.calls.map(([v]) => v)).toEqual([wanted]);
    expect(field().value).toBe(wanted.toFixed(2));
    // Enter keeps the field in hand.
    expect(document.activeElement).toBe(field());
  });

  test('what is entered is selected, to be typed over, unless the field was left before the next frame', async () => {
    const user = userEvent.setup();
    render(<Kept start={1} />);
    const frame = (): Promise<number> => new Promise(requestAnimationFrame);
    await user.click(field());
    const select = jest.spyOn(field(), 'select');
    await user.keyboard('{Enter}');
    await frame();
    expect(select).toHaveBeenCalledTimes(1);
    // In a browser a field that is selected has the focus again, and takes the keys that were meant for the frames.
    await user.keyboard('{Enter}');
    field().blur();
    await frame();
    expect([select.mock.calls.length, document.activeElement]).toEqual([1, document.body]);
  });

  test.each([
    ['600', 'Radius is at most 500'],
    ['-1', 'Radius is at least 0'],
    ['two', 'Radius takes a number or a sum: 12, 2*3, +=1, /2'],
    ['1.5', 'Radius takes a whole number'],
  ])('%p is refused with the reason, stays to be mended, and Escape brings the old value back', async (text, reason) => {
    const user = userEvent.setup();
    render(<Kept start={4} min={0} max={500} whole />);
    await user.click(field());
    await user.clear(field());
    await user.type(field(), `${text}{Enter}`);
    expect(problem).toHaveBeenLastCalledWith(reason);
    expect(field().value).toBe(text);
    expect(field().getAttribute('aria-invalid')).toBe('true');
    await user.keyboard('{Escape}');
    expect(field().value).toBe('4');
    expect(problem).toHaveBeenLastCalledWith(null);
    expect(changed).not.toHaveBeenCalled();
  });

  test('leaving it without a change changes nothing', async () => {
    const user = userEvent.setup();
    render(<Kept start={4} />);
    await user.click(field());
    await user.tab();
    expect(changed).not.toHaveBeenCalled();
  });
});

describe('stepped by the arrows', () => {
  test('by a step, by ten with Shift, by a tenth with Alt; all of it is one gesture', async () => {
    const user = userEvent.setup();
    render(<Kept start={1} />);
    await user.click(field());
    await user.keyboard('{ArrowUp}{Shift>}{ArrowUp}{/Shift}{Alt>}{ArrowDown}{/Alt}');
    expect(changed.mock.calls.map(([v]) => v)).toEqual([1.1, 2.1, 2.09]);
    expect(new Set(changed.mock.calls.map(([, gesture]) => gesture)).size).toBe(1);
  });

  test('whole numbers go by one and never out of their range', async () => {
    const user = userEvent.setup();
    render(<Kept start={8} whole min={0} max={12} />);
    await user.click(field());
    await user.keyboard('{ArrowUp}{Alt>}{ArrowUp}{/Alt}{Shift>}{ArrowUp}{/Shift}');
    expect(changed.mock.calls.map(([v]) => v)).toEqual([9, 10, 12]);
  });
});

describe('dragged sideways', () => {
  const drag = (...xs: number[]): void => {
    fireEvent.pointerDown(field(), { button: 0, clientX: xs[0], pointerId: 1 });
    for (const clientX of xs.slice(1)) fireEvent.pointerMove(field(), { clientX, pointerId: 1 });
  };

  test('each pixel is a step, the stage is told that it may be coarser, and the drag is one gesture', () => {
    render(<Kept start={1} />);
    drag(100, 105, 120);
    expect(changed.mock.calls.map(([v]) => v)).toEqual([1.5, 3]);
    expect(view.get().dragging).toBe(true);
    fireEvent.pointerUp(field(), { pointerId: 1 });
    expect(view.get().dragging).toBe(false);
    expect(new Set(changed.mock.calls.map(([, gesture]) => gesture)).size).toBe(1);
    changed.mockClear();
    drag(100, 110);
    fireEvent.pointerUp(field(), { pointerId: 1 });
    expect(changed).toHaveBeenCalledTimes(1);
  });

  test('a press that hardly moves is a click: the field is typed in', () => {
    render(<Kept start={1} />);
    drag(100, 102);
    fireEvent.pointerUp(field(), { pointerId: 1 });
    expect(changed).not.toHaveBeenCalled();
    expect(document.activeElement).toBe(field());
  });
});
