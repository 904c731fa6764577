import { act, screen, within } from '@testing-library/react';
import type { Flag, PointFrame } from '@/core/readings/point';
import type { PlaneReading, PointReading } from '@/core/readings/types';
import { newPlane, newPoint } from '@/core/readings/make';
import type { ShotSession } from '@/store/shot-store';
import { steadyPlate } from '@/core/commands/readings';
import { Controls } from '../controls/Controls';
import { laneOf, lastAlert, retype, shotOf, shotWith, showBench } from '../testing/bench';
import { view } from '../workbench/state';
import { Readings } from './Readings';

const about = (session: ShotSession) => ({ from: { lane: laneOf(session, 'keeper').id }, reference: 3, range: { first: 1, last: 6 } });

/** A measured point that drifts to the right, with what is wrong on some frames. */
function withPoint(flags: Partial<Record<number, Flag>> = {}, at: readonly [number, number] = [10, 20]): ShotSession {
  const session = shotWith();
  addMeasured(session, 'Point 1', at, flags);
  return session;
}

function addMeasured(session: ShotSession, name: string, at: readonly [number, number], flags: Partial<Record<number, Flag>> = {}): string {
  const point = { ...newPoint(at, about(session)), id: name, name };
  const frames = [1, 2, 3, 4, 5, 6].map((frame): PointFrame => {
    const flag = flags[frame];
    return { frame, x: at[0] + frame - 3, y: at[1], confidence: flag ? 0.2 : 0.98, error: 0.05, ...(flag && { flag }) };
  });
  act(() =>
    session.run('point', (s) => {
      s.readings.push({ ...point, frames } as never);
    }),
  );
  return name;
}

const point = (session: ShotSession, id = 'Point 1'): PointReading => shotOf(session).readings.find((r) => r.id === id) as PointReading;
const choose = (id: string): void => act(() => view.set({ selection: { kind: 'reading', id } }));

describe('the list', () => {
  test('says of each reading its kind, where it was measured, its frames, how sure it is, and what is flagged', () => {
    const session = withPoint({ 4: 'jump' });
    showBench(session, <Readings />);
    const row = screen.getByTestId('reading Point 1');
    expect(row.textContent).toContain('point · keeper');
    expect(row.textContent).toContain('1–6 of 1–6');
    expect(row.textContent).toMatch(/confidence \d+ % · 1 flagged/);
  });

  test('a reading that is chosen shows the picture that it was measured in', async () => {
    const session = withPoint();
    const { user } = showBench(session, <Readings />);
    await user.click(screen.getByTestId('reading Point 1'));
    expect(view.get().selection).toEqual({ kind: 'reading', id: 'Point 1' });
    expect(view.get().seen).toEqual({ lane: laneOf(session, 'keeper').id });
  });

  test('is renamed and deleted from its menu; one that a step uses is not deleted, and says why', async () => {
    const session = withPoint();
    const { user } = showBench(session, <Readings />);
    const menu = async (entry: string): Promise<void> => {
      await user.click(screen.getByRole('button', { name: /^Menu of reading/ }));
      await user.click(screen.getByRole('menuitem', { name: entry }));
      await act(() => new Promise((done) => setTimeout(done)));
    };
    await menu('Rename');
    await user.clear(screen.getByRole('textbox', { name: 'Name' }));
    await user.type(screen.getByRole('textbox', { name: 'Name' }), 'Bollard{Enter}');
    expect(point(session).name).toBe('Bollard');
    choose('Point 1');
    act(() => session.run('use', steadyPlate('Point 1', {})));
    await menu('Delete');
    expect(lastAlert().textContent).toMatch(/Steady/);
    expect(shotOf(session).readings).toHaveLength(1);
    act(() => void session.undo());
    await menu('Delete');
    expect(shotOf(session).readings).toHaveLength(0);
  });

  test('without readings it says how to begin', () => {
    showBench(shotWith(), <Readings />);
    expect(screen.getByRole('region', { name: 'Readings' }).textContent).toContain('click a contrasty detail on the stage');
  });
});

describe('frames to look at', () => {
  test('each has its reason, leads there, and is mended in one press', async () => {
    const session = withPoint({ 2: 'low', 4: 'jump', 5: 'predicted' });
    const { user } = showBench(session, <Controls />);
    choose('Point 1');
    expect(screen.getByTestId('flagged 2').textContent).toContain('low confidence');
    expect(screen.getByTestId('flagged 4').textContent).toContain('jumps away');
    expect(screen.getByTestId('flagged 5').textContent).toContain('not seen: laid where it should be');

    await user.click(within(screen.getByTestId('flagged 4')).getByRole('button', { name: '4' }));
    expect(view.get().frame).toBe(4);
    act(() =>
      session.run('jump', (s) => {
        Object.assign(
          s.readings[0]!.frames.find((f) => f.frame === 4)!,
          { x: 90, y: 90 },
        );
      }),
    );
    await user.click(within(screen.getByTestId('flagged 4')).getByRole('button', { name: 'between' }));
    const mended = point(session).frames.find((f) => f.frame === 4)!;
    // Half way, or what its trusted neighbours say: 3 is trusted, 5 is not, 6 is.
    expect(mended.x).toBeCloseTo(11, 6);
    expect(mended.y).toBeCloseTo(20, 6);
    await user.click(within(screen.getByTestId('flagged 5')).getByRole('button', { name: '×' }));
    expect(point(session).frames.map((f) => f.frame)).toEqual([1, 2, 3, 4, 6]);
    expect(screen.queryByTestId('flagged 5')).toBeNull();
  });

  test('frames put right by hand are listed, and freed', async () => {
    const session = withPoint();
    const { user } = showBench(session, <Controls />);
    choose('Point 1');
    act(() =>
      session.run('pin', (s) => {
        Object.assign(
          s.readings[0]!.frames.find((f) => f.frame === 5)!,
          { pinned: true },
        );
      }),
    );
    expect(screen.getByText('Put right by hand')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Free' }));
    expect(point(session).frames.some((f) => f.pinned)).toBe(false);
  });
});

describe('how it is measured', () => {
  test('channel, motion, renewal, what is done where it is lost, and the threshold are its settings', async () => {
    const session = withPoint();
    const { user } = showBench(session, <Controls />);
    choose('Point 1');
    const pick = async (box: string, option: string): Promise<void> => {
      await user.click(screen.getByRole('combobox', { name: box }));
      await user.click(screen.getByRole('option', { name: option }));
    };
    await pick('Channel', 'saturation');
    await pick('Motion model', 'Affine');
    await pick('Renew pattern', 'Guarded: held to the first');
    await pick('When lost', 'Stop there');
    const threshold = screen.getByRole('textbox', { name: 'Confidence under which it is lost' });
    await retype(user, threshold, '0.6');
    expect(point(session)).toMatchObject({
      channel: 'saturation',
      settings: { model: 'affine', renew: 'guarded', lost: 'stop', threshold: 0.6 },
    });
  });

  test('another reference frame takes the place of the point along, and leaves the path as it is', async () => {
    const session = withPoint();
    const { user } = showBench(session, <Controls />);
    choose('Point 1');
    const field = screen.getByRole('textbox', { name: 'Reference frame' });
    await retype(user, field, '5');
    expect(point(session).reference).toBe(5);
    expect(point(session).at).toEqual([12, 20]);
    expect(point(session).frames.map((f) => f.x)).toEqual([8, 9, 10, 11, 12, 13]);
  });

  test('what is not measured whole offers to go on from where it ends', () => {
    const session = withPoint();
    act(() => session.run('part', (s) => void (s.readings[0]!.frames = s.readings[0]!.frames.slice(1, 4) as never)));
    showBench(session, <Controls />);
    choose('Point 1');
    expect(screen.getByRole('button', { name: /^Go on from (4 and 2|2 and 4)$/ })).toBeTruthy();
  });

  test('a plane has its models, its shapes and a matte', async () => {
    const session = shotWith();
    const plane = newPlane([[10, 10, 50, 10, 50, 30, 10, 30]], about(session));
    act(() => session.run('plane', (s) => void s.readings.push(plane as never)));
    const { user } = showBench(session, <Controls />);
    choose('plane');
    await user.click(screen.getByRole('combobox', { name: 'Motion model' }));
    expect(screen.getAllByRole('option').map((o) => o.textContent)).toEqual(['Shift', 'Shift, turn, scale', 'Affine', 'Perspective']);
    await user.click(screen.getByRole('option', { name: 'Affine' }));
    await user.click(screen.getByRole('button', { name: '− shape' }));
    expect(view.get().drawing).toEqual({ kind: 'without', reading: 'plane' });
    await user.click(screen.getByRole('button', { name: 'Matte: none' }));
    await user.click(screen.getByRole('menuitem', { name: 'keeper' }));
    await user.click(screen.getByRole('button', { name: 'Inverted' }));
    const made = shotOf(session).readings[0] as PlaneReading;
    expect(made.settings.model).toBe('affine');
    expect(made.matte).toEqual({ lane: laneOf(session, 'keeper').id, invert: true });
  });
});

describe('what it is good for', () => {
  test('nothing is offered before it is measured', () => {
    const session = shotWith();
    act(() => session.run('point', (s) => void s.readings.push(newPoint([10, 20], about(session)) as never)));
    showBench(session, <Controls />);
    choose('point');
    expect(screen.getByRole('button', { name: 'Steady this plate' })).toHaveProperty('disabled', true);
    expect(screen.getByRole('button', { name: /^Pin a picture here/ })).toHaveProperty('disabled', true);
  });

  test('a plate is steadied by one command that an undo takes back, and the reading names its user', async () => {
    const session = withPoint();
    const { user } = showBench(session, <Controls />);
    choose('Point 1');
    await user.click(screen.getByRole('button', { name: 'Steady this plate' }));
    const steps = (): string[] => laneOf(session, 'keeper').steps.map((s) => s.type);
    expect(steps()).toEqual(['stabilise']);
    choose('Point 1');
    expect(screen.getByRole('button', { name: /^keeper ▸/ })).toBeTruthy();
    act(() => void session.undo());
    expect(steps()).toEqual([]);
  });

  test('of four points that could not hold a perspective it says why', () => {
    const session = withPoint();
    addMeasured(session, 'Point 2', [30, 20]);
    addMeasured(session, 'Point 3', [50, 20.5]);
    addMeasured(session, 'Point 4', [30, 35]);
    showBench(session, <Controls />);
    choose('Point 1');
    expect(screen.getByRole('note').textContent).toMatch(/line/);
  });

  test('its detail, or the middle of a plane, is held still while looking', async () => {
    const session = withPoint();
    const { user } = showBench(session, <Controls />);
    choose('Point 1');
    await user.click(screen.getByRole('button', { name: 'Hold the detail still' }));
    expect(view.get().held).toBe('Point 1');
    await user.click(screen.getByRole('button', { name: 'Hold the detail still' }));
    expect(view.get().held).toBeNull();
  });
});
