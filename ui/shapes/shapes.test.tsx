import { act, screen, within } from '@testing-library/react';
import { addShapes, changeSome, shapesIn } from '@/core/commands/shapes';
import { newPlane, newPoint } from '@/core/readings/make';
import type { Shape } from '@/core/shape/shapes';
import { boxPoints } from '@/core/shape/edit';
import type { ShotSession } from '@/store/shot-store';
import { Controls } from '../controls/Controls';
import { laneOf, retype, showBench, shotWith, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { shaping } from './shaping';

const box = (x: number): readonly number[] => boxPoints(x, 10, x + 40, 60);

/** A keeper with three shapes, the first of them in hand. */
function withShapes(): { session: ShotSession; step: string; ids: string[] } {
  const session = shotWith('roto');
  const step = stepOf(session, 'roto').id;
  const ids: string[] = [];
  session.run(
    'draw',
    addShapes(
      step,
      [
        { points: box(10), name: 'Coat' },
        { points: box(60), name: 'Hand' },
        { points: box(110), name: 'Hat' },
      ],
      4,
      ids,
    ),
  );
  return { session, step, ids };
}
const shapes = (session: ShotSession): readonly Shape[] => shapesIn(stepOf(session, 'roto'));
const shape = (session: ShotSession, name: string): Shape => shapes(session).find((s) => s.name === name)!;
const row = (name: string): HTMLElement => screen.getByRole('listitem', { name });
const button = (name: string | RegExp): HTMLButtonElement => screen.getByRole('button', { name });

function show(session: ShotSession, step: string, inHand: string) {
  const shown = showBench(session, <Controls />, { selection: { kind: 'step', id: step } });
  act(() => {
    view.set({ frame: 4 });
    shaping.set({ shape: inHand, points: [] });
  });
  return shown;
}
const pick = async (user: ReturnType<typeof show>['user'], label: string, option: string | RegExp): Promise<void> => {
  await user.click(screen.getByRole('combobox', { name: label }));
  await user.click(screen.getByRole('option', { name: option }));
};

describe('the list of shapes', () => {
  test('says what to do where nothing is drawn; a tool is taken by a click', async () => {
    const session = shotWith('roto');
    const { user } = show(session, stepOf(session, 'roto').id, '');
    expect(screen.getByText(/take the pen, and click around what you want/)).toBeTruthy();
    await user.click(button('Pen'));
    expect(button('Pen').getAttribute('aria-pressed')).toBe('true');
  });

  test('has a row a shape; another one is taken in hand by a click', async () => {
    const { session, step, ids } = withShapes();
    const { user } = show(session, step, ids[0]!);
    expect(
      within(screen.getByRole('list', { name: 'Shapes' }))
        .getAllByRole('listitem')
        .map((r) => r.getAttribute('aria-label')),
    ).toEqual(['Coat', 'Hand', 'Hat']);
    expect(row('Coat').className).toContain('chosen');
    await user.click(row('Hat'));
    expect(row('Hat').className).toContain('chosen');
    expect(row('Coat').className).not.toContain('chosen');
  });

  test('hides, locks, recolours, orders and deletes, each one undo', async () => {
    const { session, step, ids } = withShapes();
    const { user } = show(session, step, ids[0]!);
    await user.click(button('Hide Hand'));
    expect(shape(session, 'Hand').on).toBe(false);
    expect(row('Hand').className).toContain('off');
    await user.click(button('Outline colour of Hand'));
    expect(shape(session, 'Hand').mark).toBe(2);
    act(() => shaping.set({ shape: ids[0]! }));
    expect(button('Move Coat up').disabled).toBe(true);
    await user.click(button('Move Coat down'));
    expect(shapes(session).map((s) => s.name)).toEqual(['Hand', 'Coat', 'Hat']);
    await user.click(button('Delete Hat'));
    expect(shapes(session).map((s) => s.name)).toEqual(['Hand', 'Coat']);
    act(() => session.undo());
    act(() => session.undo());
    expect(shapes(session).map((s) => s.name)).toEqual(['Coat', 'Hand', 'Hat']);
    await user.click(button('Lock Coat'));
    expect(shape(session, 'Coat').locked).toBe(true);
    expect(button('Unlock Coat')).toBeTruthy();
  });
});

describe('the shape in hand', () => {
  test('is added, taken away, feathered, made fainter, bent otherwise, and opened', async () => {
    const { session, step, ids } = withShapes();
    const { user } = show(session, step, ids[1]!);
    await pick(user, 'Operation', 'Subtract');
    await pick(user, 'Falloff', 'Smooth');
    await pick(user, 'Curve', 'B-spline');
    await retype(user, screen.getByRole('textbox', { name: /^Feather/ }), '-6.5');
    await retype(user, screen.getByRole('textbox', { name: /^Opacity/ }), '0.4');
    expect(screen.queryByRole('textbox', { name: /^Width/ })).toBeNull();
    await user.click(screen.getByRole('switch', { name: 'Closed' }));
    await retype(user, screen.getByRole('textbox', { name: /^Width/ }), '12');
    expect(shape(session, 'Hand')).toMatchObject({
      operation: 'subtract',
      falloff: 'smooth',
      spline: 'smooth',
      feather: -6.5,
      opacity: 0.4,
      closed: false,
      width: 12,
    });
    // The others are as they were.
    expect(shape(session, 'Coat')).toMatchObject({ operation: 'add', feather: 0, opacity: 1 });
  });

  test('a number out of range is refused beside its field, and nothing changes', async () => {
    const { session, step, ids } = withShapes();
    const { user } = show(session, step, ids[0]!);
    await retype(user, screen.getByRole('textbox', { name: /^Opacity/ }), 'much');
    expect(shape(session, 'Coat').opacity).toBe(1);
    expect(screen.getAllByRole('alert').length).toBeGreaterThan(0);
  });

  test('its keys are set and taken away at the frame, and gone to', async () => {
    const { session, step, ids } = withShapes();
    const { user } = show(session, step, ids[0]!);
    expect(screen.getByText('one key: 4')).toBeTruthy();
    act(() => view.set({ frame: 9 }));
    const key = button("Shape's key");
    expect(key.getAttribute('aria-pressed')).toBe('false');
    await user.click(key);
    expect(shape(session, 'Coat').keys.map((k) => k.frame)).toEqual([4, 9]);
    expect(screen.getByText('2 keys: 4, 9')).toBeTruthy();
    await user.click(button("Shape's previous key"));
    expect(view.get().frame).toBe(4);
    expect(button("Shape's previous key").disabled).toBe(true);
    await user.click(button("Shape's key"));
    expect(shape(session, 'Coat').keys.map((k) => k.frame)).toEqual([9]);
    await pick(user, 'Between keys', 'Hold');
    expect(shape(session, 'Coat').keys.map((k) => k.ease)).toEqual(['hold']);
  });

  test('keys that the others make are thinned out, and it is said how many', async () => {
    const { session, step, ids } = withShapes();
    session.run(
      'keys',
      changeSome(step, [ids[0]!], (s) => ({
        ...s,
        keys: [1, 3, 5, 7, 9].map((frame) => ({ ...s.keys[0]!, frame, ease: 'linear' as const })),
      })),
    );
    const { user } = show(session, step, ids[0]!);
    await user.click(button('Thin out'));
    expect(shape(session, 'Coat').keys.length).toBeLessThan(5);
    expect(screen.getByText(/of 5 keys went; no point is off by more than 0\.5 px/)).toBeTruthy();
  });

  test('keys that were found in the picture say how sure they are; the doubtful one is gone to, and all of them go together', async () => {
    const { session, step, ids } = withShapes();
    session.run(
      'snapped',
      changeSome(step, [ids[0]!], (s) => ({
        ...s,
        keys: [
          { ...s.keys[0]!, frame: 4 },
          { ...s.keys[0]!, frame: 6, sure: 0.9 },
          { ...s.keys[0]!, frame: 8, sure: 0.3 },
        ],
      })),
    );
    const { user } = show(session, step, ids[0]!);
    await user.click(button(/^Next doubtful/));
    expect(view.get().frame).toBe(8);
    expect(screen.getByText(/Found in the picture, confidence 30 %/).className).toContain('doubt');
    await user.click(button('Remove 2 snapped'));
    expect(shape(session, 'Coat').keys.map((k) => k.frame)).toEqual([4]);
  });

  test('a plane carries it alone, points up to four together; frozen it has keys of its own, and can be carried again', async () => {
    const { session, step, ids } = withShapes();
    const about = (id: string) => ({
      id,
      name: id,
      from: { lane: laneOf(session, 'keeper').id },
      reference: 4,
      range: { first: 1, last: 6 },
    });
    const frames = (x: number) => [1, 2, 3, 4, 5, 6].map((frame) => ({ frame, x: x + frame, y: 20, error: 0, confidence: 1 }));
    session.run('readings', (s) => {
      s.readings.push({ ...newPoint([14, 20], about('Button')), frames: frames(10) } as never);
      s.readings.push(newPlane([[10, 10, 50, 10, 50, 60, 10, 60]], about('Wall') as never) as never);
    });
    const { user } = show(session, step, ids[0]!);
    await pick(user, 'Follows', /^Button/);
    await user.keyboard('{Escape}');
    expect(shape(session, 'Coat').follows).toEqual(['Button']);
    await user.click(button('Freeze to keys'));
    expect(shape(session, 'Coat').follows).toEqual([]);
    expect(shape(session, 'Coat').keys.length).toBeGreaterThan(1);
    await user.click(button('Unfreeze'));
    expect(shape(session, 'Coat')).toMatchObject({ follows: ['Button'] });
    expect(shape(session, 'Coat').keys).toHaveLength(1);
    await pick(user, 'Follows', /^Wall/);
    await user.keyboard('{Escape}');
    expect(shape(session, 'Coat').follows).toEqual(['Wall']);
  });
});
