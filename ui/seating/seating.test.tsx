import { act, screen, within } from '@testing-library/react';
import type { Figure, Figures, Triple } from '@/core/seating/figures';
import { addStep, setFeed, setParams } from '@/core/commands/commands';
import { Controls } from '../controls/Controls';
import { laneOf, showBench, shotWith, stepOf } from '../testing/bench';
import { Playhead } from '../lanes/TimeStrip';
import { useJobs } from '../jobs/jobs';
import { placesOf } from '../stage/handles/places';
import { view } from '../workbench/state';
import { Meter } from './Meter';
import { askedOf, framesOf, useMeter } from './meter-job';

const about = (value: number, sure = 0.002): Figure => ({ value, sure });
const grey = (v: number): Triple => [about(v), about(v), about(v)];
const figures = (black: number, white: number, softness: number | null): Figures => ({
  black: grey(black),
  white: grey(white),
  contrast: about(3, 0.1),
  saturation: about(0.2),
  softness: softness === null ? null : about(softness, 0.05),
  grain: null,
  pixels: 5000,
});

/** The keeper joined over the harbour. */
function seated() {
  const session = shotWith();
  session.run('join', (s) => {
    const harbour = s.lanes.find((l) => l.name === 'harbour')!;
    const keeper = s.lanes.find((l) => l.name === 'keeper')!;
    harbour.steps.push({ id: 'j', type: 'join', name: 'Keeper', on: true, params: {}, mix: 1, feeds: { front: { lane: keeper.id } } });
  });
  return session;
}
/** As if that had been read of a lane, in a ring, over the shot. */
function wasRead(session: ReturnType<typeof seated>, lane: string, element: Figures, plate: Figures): void {
  const { shot } = session.store.getState();
  useMeter.setState({ last: { shot, lane, asked: askedOf({ ring: 40 }, framesOf(shot.range)), frames: [], element, plate, left: [] } });
}
const cell = (name: string): HTMLElement => screen.getByRole('cell', { name });

// Pictures never come here, so that what reads them would go on from test to test.
afterEach(() => useJobs.setState({ list: [] }));

describe('the meter', () => {
  test('says what an element is measured against, and what to do where no join brings it in', () => {
    const session = seated();
    const harbour = laneOf(session, 'harbour');
    showBench(session, <Meter />, { selection: { kind: 'lane', id: laneOf(session, 'keeper').id } });
    expect(screen.getByText('harbour ▸ start')).toBeTruthy();
    act(() => view.set({ selection: { kind: 'lane', id: harbour.id } }));
    expect(screen.getByText(/No join brings “harbour” in/)).toBeTruthy();
  });

  test('shows element, plate and difference with its error; only what is more than that stands out', () => {
    const session = seated();
    const { id } = laneOf(session, 'keeper');
    wasRead(session, id, figures(0.05, 0.8, 0.6), figures(0.0501, 0.5, null));
    showBench(session, <Meter />, { selection: { kind: 'lane', id } });
    expect(cell('White difference').textContent).toContain('+0.300 ± 0.00');
    expect(cell('White difference').closest('tr')!.className).toBe('apart');
    expect(cell('Black difference').textContent).toContain('✓');
    expect(cell('Softness difference').textContent).toBe('cannot be read');
    expect(screen.getByRole('button', { name: 'Match softness' }).hasAttribute('disabled')).toBe(true);
    expect(screen.getByRole('button', { name: 'Match white' }).hasAttribute('disabled')).toBe(false);
  });

  test('a match sets the grade of the lane', async () => {
    const session = seated();
    const { id } = laneOf(session, 'keeper');
    wasRead(session, id, figures(0, 0.8, 1), figures(0, 0.4, 1));
    const { user } = showBench(session, <Meter />, { selection: { kind: 'lane', id } });
    await user.click(screen.getByRole('button', { name: 'Match white' }));
    expect(stepOf(session, 'grade').params.slope).toEqual([0.5, 0.5, 0.5]);
  });

  test('what was read before a change, or of another shot, is not passed off as what is there', () => {
    const session = seated();
    const { id } = laneOf(session, 'keeper');
    wasRead(session, id, figures(0, 0.8, 1), figures(0, 0.4, 1));
    showBench(session, <Meter />, { selection: { kind: 'lane', id } });
    expect(screen.queryByText('read before the last change')).toBeNull();
    act(() => void session.run('blur', addStep(id, 'blur', undefined)));
    expect(screen.getByText('read before the last change')).toBeTruthy();
    act(() => wasRead(seated(), id, figures(0, 0.8, 1), figures(0, 0.4, 1)));
    expect(screen.queryByTestId('meter')).toBeNull();
  });

  test('frames are spread over the shot', () => {
    expect(framesOf({ first: 1, last: 24 })).toEqual([3, 8, 13, 17, 22]);
    expect(framesOf({ first: 5, last: 5 })).toEqual([5]);
  });
});

describe('controls of seating', () => {
  test('a light wrap names the background that it found, until another is connected', () => {
    const session = seated();
    session.run('wrap', (s) => {
      s.lanes
        .find((l) => l.name === 'keeper')!
        .steps.push({ id: 'w', type: 'lightWrap', name: 'Wrap', on: true, params: {}, mix: 1, feeds: {} });
    });
    showBench(session, <Controls />, { selection: { kind: 'step', id: 'w' } });
    expect(screen.getByRole('button', { name: 'Background: found: harbour ▸ start' })).toBeTruthy();
    act(() => session.run('feed', setFeed('w', 'behind', { lane: laneOf(session, 'harbour').id, after: '' })) as never);
    expect(screen.getByRole('button', { name: 'Background: harbour ▸ start' })).toBeTruthy();
  });

  test('a retime tells the frame that it takes', () => {
    const session = shotWith('retime');
    const { id } = stepOf(session, 'retime');
    session.run('half', setParams(id, { speed: 0.5, reference: 1 }, 1));
    showBench(session, <Controls />, { selection: { kind: 'step', id } });
    act(() => view.set({ frame: 12 }));
    expect(within(screen.getByText(/Frame 12 shows/)).getByText('6.50')).toBeTruthy();
  });

  test('the frame that it takes is a second line on the time strip', () => {
    const session = shotWith('retime');
    const { id } = stepOf(session, 'retime');
    session.run('half', setParams(id, { speed: 0.5, reference: 1 }, 1));
    showBench(session, <Playhead height={100} />, { selection: { kind: 'step', id } });
    act(() => view.set({ frame: 21 }));
    expect(screen.getByTestId('taken').title).toBe('Source frame 11.00');
    act(() => view.set({ selection: null }));
    expect(screen.queryByTestId('taken')).toBeNull();
  });

  test('places of a step are those that have an effect now', () => {
    const step = (params: object) => ({ type: 'defocus', params }) as never;
    expect(placesOf(step({})).map(([n]) => n)).toEqual([]);
    expect(placesOf(step({ by: 'ramp' })).map(([n]) => n)).toEqual(['from', 'to']);
    expect(placesOf({ type: 'rays', params: {} }).map(([n]) => n)).toEqual(['at']);
  });
});
