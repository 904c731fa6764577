import '../testing/browser';
import { act, screen } from '@testing-library/react';
import type { Shot, Value } from '@/core/document/types';
import { poseStrokes } from '@/core/paint/pose';
import type { Stroke } from '@/core/paint/strokes';
import { testStroke } from '@/core/testing/strokes';
import { newPoint } from '@/core/readings/make';
import { addReadings } from '@/core/commands/readings';
import { setParams } from '@/core/commands/commands';
import { Controls } from '../controls/Controls';
import { retype, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import type { BrushTip } from '../workbench/state';
import { view } from '../workbench/state';
import { shiftOf, sourceProblem, strokeOf } from './new-stroke';

const stroke = (change: Partial<Stroke> = {}): Stroke =>
  testStroke({ tool: 'clone', last: 1, size: 40, points: [1, 2, 3, 4], shift: [12, -4], ...change });

function open(...list: Stroke[]) {
  const session = shotWith('paint');
  const { id } = stepOf(session, 'paint');
  if (list.length > 0) session.run('strokes', setParams(id, { strokes: list as unknown as Value }, 1));
  const shown = showBench(session, <Controls />, { selection: { kind: 'step', id } });
  const strokes = (): Stroke[] => stepOf(session, 'paint').params.strokes as unknown as Stroke[];
  return { session, id, strokes, ...shown };
}

describe('the brush of a paint step', () => {
  test('is one of eleven; those that copy say from where, those with an amount have one', async () => {
    const { user } = open();
    await user.click(screen.getByRole('button', { name: /Brush on the stage/ }));
    for (const name of ['Colour', 'Tint', 'Clone', 'Heal', 'Reveal', 'Erase', 'Smear', 'Blur', 'Sharpen', 'Dodge', 'Burn'])
      expect(screen.getByRole('button', { name })).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Heal' }));
    expect(screen.getByText('Alt-click the place on the stage')).toBeTruthy();
    expect(screen.queryByLabelText('Brush colour')).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Dodge' }));
    expect(screen.getByRole('slider', { name: 'Brush stops' })).toBeTruthy();
    expect(view.get().brush.amount).toBe(0.5);
    await user.click(screen.getByRole('button', { name: 'Blur' }));
    expect(view.get().brush.amount).toBe(2);
  });

  test('a stroke is chosen and changed in everything, each an undo; hidden, shown, removed', async () => {
    const { session, user, strokes } = open(stroke(), stroke({ tool: 'paint', last: 48 }), stroke({ first: 9, last: 9 }));
    // The last one first; that of another frame is not listed.
    expect(screen.getAllByTestId('stroke').map((s) => s.textContent)).toEqual(['Colour', 'Clone']);
    await user.click(screen.getByRole('listitem', { name: 'Stroke 1' }));
    await retype(user, screen.getByRole('textbox', { name: 'Stroke size value' }), '12');
    await retype(user, screen.getByRole('textbox', { name: 'Stroke from x' }), '30');
    expect(strokes()[0]).toMatchObject({ size: 12, shift: [30, -4] });
    act(() => void session.undo());
    expect(strokes()[0]).toMatchObject({ size: 12, shift: [12, -4] });
    await user.click(screen.getByRole('button', { name: 'Hide stroke 2' }));
    expect(strokes()[1]!.off).toBe(true);
    await user.click(screen.getByRole('button', { name: 'Show stroke 2' }));
    expect(strokes()[1]).not.toHaveProperty('off');
    await user.click(screen.getByRole('button', { name: 'Remove stroke 1' }));
    expect(strokes().map((s) => s.first)).toEqual([1, 9]);
  });
});

describe('a new stroke', () => {
  const tip: BrushTip = { ...view.get().brush, tool: 'clone', source: { at: [100, 50], frame: 1 }, shift: null };
  const shot: Pick<Shot, 'readings'> = {
    readings: [
      {
        ...newPoint([10, 10], { id: 'p', name: 'p', from: { lane: 'l' }, reference: 1, range: { first: 1, last: 9 } }),
        frames: [1, 5].map((frame) => ({ frame, x: 10 + 5 * (frame - 1), y: 10, turn: 0, scale: 1, confidence: 1, error: 0 })),
      },
    ],
  };
  const drawn = { points: [60, 40, 64, 40], pressure: null, frame: 1, span: { first: 1, last: 9 } };

  test('copies from the chosen place, and the next one from as far beside; without a place there is none', () => {
    expect(strokeOf(shot, tip, drawn)).toMatchObject({ tool: 'clone', shift: [40, 10], points: [60, 40, 64, 40], first: 1, last: 9 });
    expect(shiftOf(shot, { ...tip, shift: [40, 10] }, [0, 0], 1)).toEqual([40, 10]);
    expect(strokeOf(shot, { ...tip, source: null }, drawn)).toBeNull();
    expect(strokeOf(shot, { ...tip, source: { at: [100, 50], frame: 3 } }, drawn)).toMatchObject({ from: 3 });
  });

  test('that follows a reading is kept on its reference frame, and lies where it was drawn', () => {
    const made = strokeOf(shot, { ...tip, follows: 'p' }, { ...drawn, frame: 5 })!;
    expect(made.points).toEqual([40, 40, 44, 40]);
    const [laid] = poseStrokes([made], shot, 5).list;
    expect(laid!.points).toEqual([60, 40, 64, 40]);
    // Its source was chosen on frame 1 and goes along too.
    expect(made).toMatchObject({ shift: [60, 10], from: 1 });
  });

  test('a brush that would copy nothing says what is missing', () => {
    const reveal: BrushTip = { ...tip, tool: 'reveal', from: null, other: false };
    expect(sourceProblem(reveal, true)).toMatch(/which frame/);
    expect(sourceProblem({ ...reveal, from: 5 }, true)).toBeNull();
    expect(sourceProblem({ ...reveal, other: true }, true)).toBeNull();
    expect(sourceProblem({ ...reveal, other: true }, false)).toMatch(/Connect/);
    expect(sourceProblem({ ...tip, source: null }, true)).toMatch(/Alt-click/);
    expect([sourceProblem(tip, false), sourceProblem({ ...reveal, tool: 'paint' }, false)]).toEqual([null, null]);
  });

  test('a pen leaves how hard it was pressed', () => {
    expect(strokeOf(shot, tip, { ...drawn, pressure: [0.25, 0.754] })).toMatchObject({ pressure: [0.25, 0.75] });
  });
});

test('a stroke whose reading is deleted is told of, and stays where it was drawn', async () => {
  const { session, id } = open();
  const made = newPoint([10, 10], {
    id: 'x',
    name: 'Corner',
    from: { lane: shotOf(session).lanes[0]!.id },
    reference: 1,
    range: { first: 1, last: 9 },
  });
  act(() => session.run('reading', addReadings([made])));
  const reading = shotOf(session).readings[0]!.id;
  act(() => session.run('strokes', setParams(id, { strokes: [stroke({ follows: [reading] })] as unknown as Value }, 1)));
  const laid = poseStrokes(stepOf(session, 'paint').params.strokes, { readings: [] }, 1).list[0]!;
  expect(laid.points).toEqual([1, 2, 3, 4]);
});
