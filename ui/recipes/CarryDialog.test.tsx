import '../testing/browser';
import { act, screen, waitFor, within } from '@testing-library/react';
import type { Shot } from '@/core/document/types';
import { db } from '@/store/db';
import { newFilm } from '@/store/films';
import { setParams } from '@/core/commands/commands';
import { laneOf, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { CarryDialog } from './CarryDialog';

let closed = 0;

/** A shot of a keeper and a harbour that nobody has open, and that saves itself no more. */
async function closedShot(...types: string[]): Promise<Shot> {
  const session = shotWith(...types);
  await session.close();
  return shotOf(session);
}

/** Keeps a shot beside the one that is open. */
async function beside(name: string, ...types: string[]): Promise<string> {
  const shot = { ...(await closedShot(...types)), name };
  await db.shots.put({ id: shot.id, name, changed: 0, shot });
  return shot.id;
}

/** The shot that is open: a grade of exposure 1 between a blur and an invert, on the keeper's lane. */
async function opened() {
  const session = shotWith('blur', 'grade', 'invert');
  const grade = stepOf(session, 'grade');
  session.run('exposure', setParams(grade.id, { exposure: 1 }, 1));
  // Saved at once, so that it is not later.
  await session.close();
  const shot = shotOf(session);
  const show = () => showBench(session, <CarryDialog onClose={() => closed++} />, { selection: { kind: 'step', id: grade.id } });
  return { session, shot, show };
}

const kept = async (id: string) => (await db.shots.get(id))!.shot;
const stepsIn = async (id: string): Promise<string[]> => laneOfShot(await kept(id), 'keeper').steps.map((s) => s.type);
const laneOfShot = (shot: Awaited<ReturnType<typeof kept>>, name: string) => shot.lanes.find((l) => l.name === name)!;
const box = (name: string): Promise<HTMLElement> => screen.findByRole('checkbox', { name });

beforeEach(async () => {
  closed = 0;
  for (const table of [db.shots, db.films, db.versions, db.histories]) await table.clear();
});

describe('carrying a look on', () => {
  test('shots of the film come first, in its order, and are chosen together; the open shot is not among them', async () => {
    const { shot, show } = await opened();
    const [a, b] = [await beside('SG200'), await beside('SG100')];
    await beside('Another');
    await newFilm('Night', [a, shot.id, b]);
    const { user } = show();
    await box('SG200');
    expect(screen.getAllByRole('checkbox').map((c) => c.closest('label')!.textContent)).toEqual(['SG200', 'SG100', 'Another']);
    expect(screen.getByText('Other shots')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'all of the film' }));
    expect(screen.getAllByRole<HTMLInputElement>('checkbox').map((c) => c.checked)).toEqual([true, true, false]);
    await user.click(await box('SG100'));
    expect(screen.getAllByRole<HTMLInputElement>('checkbox').map((c) => c.checked)).toEqual([true, false, false]);
  });

  test('the step goes behind the step of the same name, with its values; what was stays as a version; one undo puts it back', async () => {
    const { show } = await opened();
    const id = await beside('SG200', 'blur', 'invert');
    const { user } = show();
    await user.click(await box('SG200'));
    await user.click(screen.getByRole('button', { name: 'Carry on' }));
    const told = await screen.findByTestId('carried SG200');
    expect(within(told).getByText('Into keeper.')).toBeTruthy();
    expect(await stepsIn(id)).toEqual(['blur', 'grade', 'invert']);
    expect(laneOfShot(await kept(id), 'keeper').steps[1]!.params.exposure).toBe(1);
    expect(await db.versions.where('of').equals(id).count()).toBe(1);
    expect(screen.queryByRole('button', { name: 'Carry on' })).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(async () => expect(await stepsIn(id)).toEqual(['blur', 'invert']));
  });

  test('without that lane it goes to the end of the result, which is said', async () => {
    const { show } = await opened();
    const shot = await closedShot();
    const lanes = shot.lanes.filter((l) => l.name === 'harbour').map((l) => ({ ...l, steps: [] }));
    await db.shots.put({ id: shot.id, name: 'Bare', changed: 0, shot: { ...shot, name: 'Bare', lanes, result: lanes[0]!.id } });
    const { user } = show();
    await user.click(await box('Bare'));
    await user.click(screen.getByRole('button', { name: 'Carry on' }));
    expect(await screen.findByText('Into harbour.')).toBeTruthy();
    expect(laneOfShot(await kept(shot.id), 'harbour').steps.map((s) => s.type)).toEqual(['grade']);
  });

  test('without a step it says what to choose; without another shot that there is none', async () => {
    const { session, show } = await opened();
    showBench(session, <CarryDialog onClose={() => closed++} />);
    expect(screen.getByText('Select a zone, or choose steps of a lane, first.')).toBeTruthy();
    const { user } = show();
    expect(await screen.findByText('There is no other shot.')).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Carry on' }).disabled).toBe(true);
    await user.click(screen.getByRole('button', { name: 'Close' }));
    expect(closed).toBe(1);
  });

  test('a run of steps is carried as one', async () => {
    const { session } = await opened();
    const id = await beside('SG200');
    const lane = laneOf(session, 'keeper');
    const { user } = showBench(session, <CarryDialog onClose={() => closed++} />, {
      selection: { kind: 'step', id: lane.steps[2]!.id },
    });
    act(() => view.set({ run: { lane: lane.id, from: 1, to: 2 } }));
    await user.click(await box('SG200'));
    await user.click(screen.getByRole('button', { name: 'Carry on' }));
    await screen.findByTestId('carried SG200');
    expect(await stepsIn(id)).toEqual(['grade', 'invert']);
  });
});
