import '@/store/testing/indexed-db';
import { act, screen, within } from '@testing-library/react';
import * as lessons from '@/core/commands/lessons';
import type { LessonReading } from '@/core/readings/types';
import type { ShotSession } from '@/store/shot-store';
import { Controls } from '../controls/Controls';
import { laneOf, retype, shotOf, showBench, shotWith, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { useTraining } from './live';

function withLesson(teaches: 'matte' | 'change' | 'carry' = 'matte'): {
  session: ShotSession;
  id: string;
  keeper: string;
  harbour: string;
} {
  const session = shotWith();
  const made: { reading?: string } = {};
  const [keeper, harbour] = ['keeper', 'harbour'].map((n) => laneOf(session, n).id) as [string, string];
  session.run('lesson', lessons.addLesson({ lane: keeper }, 5, teaches, made));
  return { session, id: made.reading!, keeper, harbour };
}
const lessonOf = (session: ShotSession): LessonReading => shotOf(session).readings.find((r) => r.kind === 'lesson') as LessonReading;
const learnt = (steps: number, letter = 'a') => ({
  weights: { hash: letter.repeat(64), name: `${letter}.lesson` },
  steps,
  seconds: 90,
  losses: [
    [40, 0.5, -1],
    [steps, 0.125, 0.25],
  ] as [number, number, number][],
});
const show = (session: ShotSession, id: string, change: Parameters<typeof showBench>[2] = {}) =>
  showBench(session, <Controls />, { selection: { kind: 'reading', id }, ...change });
const button = (name: string | RegExp): HTMLButtonElement => screen.getByRole('button', { name });

afterEach(() => act(() => useTraining.setState(useTraining.getInitialState(), true)));

describe('the frames that a lesson is shown', () => {
  test('the first asks for a target; the next takes the same, and each frame is shown once', async () => {
    const { session, id, harbour } = withLesson();
    const { user } = show(session, id);
    act(() => view.set({ frame: 3 }));
    expect(button('Show frame 3').disabled).toBe(true);
    expect(button('Train').disabled).toBe(true);
    await user.click(button(/^Target of the next: /));
    await user.click(screen.getByRole('menuitem', { name: 'harbour' }));
    await user.click(button('Show frame 3'));
    expect(lessonOf(session).examples).toMatchObject([{ frame: 3, target: { lane: harbour }, held: false }]);
    expect(button('Show frame 3').disabled).toBe(true);
    expect(button('Train').disabled).toBe(false);
    act(() => view.set({ frame: 9 }));
    await user.click(button('Show frame 9'));
    expect(lessonOf(session).examples.map((e) => [e.frame, e.target.lane])).toEqual([
      [3, harbour],
      [9, harbour],
    ]);
  });

  test('one is held back to be measured on, gone to, and taken out', async () => {
    const { session, id, harbour } = withLesson();
    for (const frame of [2, 7]) session.run('show', lessons.addExample(id, frame, { lane: harbour }));
    const { user } = show(session, id);
    await user.click(screen.getByRole('checkbox', { name: 'Hold back frame 7' }));
    expect(lessonOf(session).examples.map((e) => e.held)).toEqual([false, true]);
    await user.click(within(screen.getByTestId('example 7')).getByRole('button', { name: '7' }));
    expect(view.get().frame).toBe(7);
    expect(screen.getByTestId('example 7').className).toContain('here');
    await user.click(button('Take frame 2 out'));
    expect(lessonOf(session).examples.map((e) => e.frame)).toEqual([7]);
  });

  test('one whose loss stays several times that of the others is pointed out', () => {
    const { session, id, harbour } = withLesson();
    for (const frame of [2, 7, 12]) session.run('show', lessons.addExample(id, frame, { lane: harbour }));
    show(session, id);
    const report = (step: number) => ({
      reading: id,
      stage: 'training' as const,
      report: {
        step,
        seconds: 60,
        perSecond: 20,
        losses: [],
        hard: [
          [2, 0.1],
          [7, 0.9],
          [12, 0.12],
        ],
      },
    });
    act(() => useTraining.setState(report(500) as never));
    expect(screen.queryByText(/stays hard/)).toBeNull();
    act(() => useTraining.setState(report(900) as never));
    expect(within(screen.getByTestId('example 7')).getByText(/stays hard: does its target agree/)).toBeTruthy();
    expect(screen.getAllByText(/stays hard/)).toHaveLength(1);
  });
});

describe('what a lesson has learnt', () => {
  const trained = () => {
    const made = withLesson();
    made.session.run('show', lessons.addExample(made.id, 3, { lane: made.harbour }));
    made.session.run('learnt', lessons.setLearnt(made.id, learnt(800)));
    return made;
  };

  test('is told in steps, minutes and loss; a change of what it is shown makes it old', () => {
    const { session, id, harbour } = trained();
    show(session, id);
    expect(screen.getByTestId('training-state').textContent).toBe('800 steps in 1.5 minutes · loss 0.125, held back 0.250');
    expect(button('Go on training').className).toContain('outlined');
    act(() => session.run('show', lessons.addExample(id, 8, { lane: harbour })));
    expect(screen.getByText(/What it is shown has changed: go on training/)).toBeTruthy();
    expect(button('Go on training').className).toContain('contained');
  });

  test('is kept as a state, gone back to, and forgotten, each one undo', async () => {
    const { session, id } = trained();
    const { user } = show(session, id);
    await user.click(button('Keep this state'));
    act(() => session.run('more', lessons.setLearnt(id, learnt(1600, 'b'))));
    expect(lessonOf(session).steps).toBe(1600);
    await user.click(button('back to it'));
    expect(lessonOf(session)).toMatchObject({ steps: 800, weights: { hash: 'a'.repeat(64) } });
    act(() => session.undo());
    expect(lessonOf(session).steps).toBe(1600);
    await user.click(screen.getAllByRole('button', { name: 'forget' })[0]!);
    expect([lessonOf(session).weights, button('Train').disabled]).toEqual([null, false]);
  });

  test('goes into its lane as a step whose way back leads to the lesson', async () => {
    const { session, id, keeper } = trained();
    const { user } = show(session, id);
    await user.click(button('Put it in the lane'));
    const step = stepOf(session, 'learn');
    expect(laneOf(session, 'keeper').steps.at(-1)!.id).toBe(step.id);
    expect(view.get()).toMatchObject({ selection: { kind: 'step', id: step.id }, seen: { lane: keeper, after: step.id }, tab: 'lanes' });
    await user.click(button('to its lesson'));
    expect(view.get().selection).toEqual({ kind: 'reading', id });
  });

  test('frames of doubt are gone to', async () => {
    const { session, id } = trained();
    act(() =>
      session.run(
        'sureness',
        lessons.setSureness(id, [
          { frame: 1, confidence: 0.9, error: 0.01 },
          { frame: 11, confidence: 0.3, error: 0.4, flag: 'doubtful' },
        ]),
      ),
    );
    const { user } = show(session, id);
    await user.click(within(screen.getByTestId('doubtful-frames')).getByRole('button', { name: '11' }));
    expect(view.get().frame).toBe(11);
  });
});

describe('how a lesson is varied', () => {
  test('a matte’s light of other frames is asked for only where it is used; a change has it', async () => {
    const { session, id } = withLesson('matte');
    const { user } = show(session, id);
    expect(screen.queryByRole('textbox', { name: 'Light of other frames' })).toBeNull();
    await retype(user, screen.getByRole('textbox', { name: 'Brighter and darker' }), '0.35');
    expect(lessonOf(session).settings.variation.exposure).toBe(0.35);
    await user.click(screen.getByRole('combobox', { name: 'It learns' }));
    await user.click(screen.getByRole('option', { name: 'A change' }));
    expect(lessonOf(session).teaches).toBe('change');
    expect(screen.getByRole('textbox', { name: 'Light of other frames' })).toBeTruthy();
  });

  test('seed and minutes are numbers; passers are lanes, one after the other', async () => {
    const { session, id, harbour } = withLesson();
    const { user } = show(session, id);
    await retype(user, screen.getByRole('textbox', { name: 'Seed' }), '42');
    await retype(user, screen.getByRole('textbox', { name: 'Minutes' }), '2.5');
    expect(lessonOf(session).settings).toMatchObject({ seed: 42, minutes: 2.5 });
    await user.click(button(/^Passers: /));
    await user.click(screen.getByRole('menuitem', { name: 'harbour' }));
    expect(lessonOf(session).passers).toEqual([{ lane: harbour }]);
    expect(button(/^and: /)).toBeTruthy();
    expect(screen.getByRole('textbox', { name: 'Things in front' })).toBeTruthy();
  });

  test('the stage shows its picture, its target, or what it makes of it', async () => {
    const { session, id, keeper, harbour } = withLesson();
    session.run('show', lessons.addExample(id, 1, { lane: harbour }));
    const { user } = show(session, id);
    const look = async (what: RegExp): Promise<void> => {
      await user.click(screen.getByRole('combobox', { name: 'On the stage' }));
      await user.click(screen.getByRole('option', { name: what }));
    };
    await look(/^The target/);
    expect(view.get().seen).toEqual({ lane: harbour });
    await look(/^What it makes/);
    expect(view.get()).toMatchObject({ lessonNow: true, seen: { lane: keeper } });
    await look(/^The picture/);
    expect(view.get()).toMatchObject({ lessonNow: false, seen: { lane: keeper } });
  });
});
