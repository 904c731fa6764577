import { act, screen, within } from '@testing-library/react';
import * as lens from '@/core/commands/lens';
import type { ChartFrame } from '@/core/lens/reading';
import { plainLens } from '@/core/lens/lens';
import type { LensReading } from '@/core/readings/types';
import type { ShotSession } from '@/store/shot-store';
import { Controls } from '../controls/Controls';
import { laneOf, shotOf, showBench, shotWith, stepOf } from '../testing/bench';
import { view } from '../workbench/state';

const format = { width: 960, height: 540 };
const chart = (frame: number, far = 0.02): ChartFrame => ({
  frame,
  pattern: 'checker',
  confidence: 1,
  error: 0.031,
  crossings: Array.from({ length: 12 }, (_, i) => ({
    column: i % 4,
    row: Math.floor(i / 4),
    x: 100 + 200 * (i % 4),
    y: 80 + 150 * Math.floor(i / 4),
    used: i !== 11,
    off: [i === 5 ? far : 0.01, 0] as const,
    ...(i === 11 && { why: 'too far off' }),
  })),
});
const bent = { ...plainLens(format), focal: 700, centre: [478.2, 271.9] as const, coefficients: { k1: -0.21345, k2: 0.0312 } };

/** A lens with charts on two frames, two lines, and what was solved of it. */
function withLens(change: Partial<LensReading['solved'][number]> = {}): { session: ShotSession; id: string } {
  const session = shotWith();
  const made: { reading?: string } = {};
  session.run('lens', lens.addLens({ lane: laneOf(session, 'keeper').id }, 1, made));
  const id = made.reading!;
  const lines = [
    { frame: 2, drawn: [0, 0, 100, 0], found: [], bend: 2.314, left: 0.12 },
    { frame: 2, drawn: [0, 9, 100, 9], found: [], bend: 4, left: 3, out: true },
  ];
  session.run(
    'solved',
    lens.setSolved(id, {
      frames: [chart(1), chart(3, 0.4)],
      lines,
      solved: [{ lens: bent, rms: 0.0321, max: 0.4, rings: Array.from({ length: 10 }, () => 0.03), ...change }],
    }),
  );
  return { session, id };
}
const lensOf = (session: ShotSession): LensReading => shotOf(session).readings.find((r) => r.kind === 'lens') as LensReading;
const show = (session: ShotSession, id: string, change: Parameters<typeof showBench>[2] = {}) =>
  showBench(session, <Controls />, { selection: { kind: 'reading', id }, ...change });
const button = (name: string | RegExp): HTMLButtonElement => screen.getByRole('button', { name });

describe('the controls of a lens', () => {
  test('what was solved stands in figures, with what is left at the worst crossing first', async () => {
    const { session, id } = withLens();
    const { user } = show(session, id);
    const figures = screen.getByTestId('lens-figures').textContent;
    for (const part of ['k1-0.21345', 'k20.031200', 'Centre, px478.2, 271.9', 'Focal length, px700.0', '0.032 mean · 0.400 at most'])
      expect(figures).toContain(part);
    const rows = screen.getAllByTestId('crossing');
    // What is not used is told before what is far off.
    expect(rows[0]!.textContent).toContain('column 4, row 3');
    const far = rows.find((r) => r.textContent.includes('0.400 px'))!;
    expect(far.textContent).toContain('column 2, row 2');
    await user.click(within(far).getByRole('button', { name: '3' }));
    expect(view.get()).toMatchObject({ frame: 3, crossing: { frame: 3, column: 1, row: 1 }, seen: lensOf(session).from });
  });

  test('a focal length that flat views do not tell is said to be assumed, with what to do', () => {
    const { session, id } = withLens({ assumed: true });
    show(session, id);
    expect(screen.getByTestId('lens-figures').textContent).toContain('700.0 (assumed)');
    expect(screen.getByText(/film the chart tilted, or give\s+focal length and sensor/)).toBeTruthy();
  });

  test('charts say how many of their crossings are used; each can be gone to and deleted', async () => {
    const { session, id } = withLens();
    const { user } = show(session, id);
    expect(screen.getByTestId('chart 1').textContent).toContain('11 of 12 crossings · 0.031 px');
    await user.click(within(screen.getByTestId('chart 3')).getByRole('button', { name: '3' }));
    expect(view.get().frame).toBe(3);
    await user.click(button('Delete chart 1'));
    expect(lensOf(session).frames.map((f) => f.frame)).toEqual([3]);
  });

  test('crossings are drawn around on the frame of a chart only', async () => {
    const { session, id } = withLens();
    const { user } = show(session, id);
    await user.click(button('Throw out around'));
    expect(view.get().drawing).toEqual({ kind: 'lasso', reading: id });
    act(() => view.set({ frame: 2 }));
    expect(screen.queryByRole('group', { name: 'Crossings' })).toBeNull();
    await user.click(button('Lay a ruler'));
    expect(view.get().drawing).toEqual({ kind: 'ruler', reading: id });
  });

  test('lines tell how far they bend before and after; one that does not go with the others is marked', async () => {
    const { session, id } = withLens();
    const { user } = show(session, id);
    expect(screen.getByTestId('straight 1').textContent).toContain('line: 2.31 px → 0.12 px');
    expect(screen.getByTestId('straight 2').textContent).toContain('not used');
    await user.click(button('Delete line 2'));
    expect(lensOf(session).lines).toHaveLength(1);
  });

  test('a lane is straightened, or worked on without its lens, by a command and one undo', async () => {
    const { session, id } = withLens();
    const { user } = show(session, id);
    const steps = (lane: string): string[] => laneOf(session, lane).steps.map((s) => `${s.type} ${String(s.params.reading)}`);
    await user.click(button('Straighten a lane'));
    await user.click(screen.getByRole('menuitem', { name: 'harbour' }));
    expect(steps('harbour')).toEqual([`lens ${id}`, 'join undefined']);
    expect(view.get().selection).toEqual({ kind: 'step', id: stepOf(session, 'lens').id });
    act(() => session.undo());
    expect(steps('harbour')).toEqual(['join undefined']);

    act(() => view.set({ selection: { kind: 'reading', id } }));
    await user.click(button('Work without the lens'));
    await user.click(screen.getByRole('menuitem', { name: 'keeper' }));
    expect(laneOf(session, 'keeper').steps.map((s) => s.params.direction ?? 'straighten')).toEqual(['straighten', 'bend']);
    act(() => session.undo());
    expect(laneOf(session, 'keeper').steps).toEqual([]);
  });

  test('where the lane is straightened, the straight picture can be looked at', async () => {
    const { session, id } = withLens();
    const { user } = show(session, id);
    expect(button('Straightened').disabled).toBe(true);
    act(() => session.run('straighten', lens.straightenLane(id, laneOf(session, 'keeper').id, {})));
    await user.click(button('Straightened'));
    expect(view.get().seen).toEqual({ lane: laneOf(session, 'keeper').id, after: stepOf(session, 'lens').id });
    expect(button('Straightened').getAttribute('aria-pressed')).toBe('true');
    await user.click(button('As filmed'));
    expect(view.get().seen).toEqual(lensOf(session).from);
  });
});
