import { act, screen, waitFor, within } from '@testing-library/react';
import { addStep, changeLane, setParams } from '@/core/commands/commands';
import type { Shot } from '@/core/document';
import { Cancelled } from '@/core/errors';
import type { Request } from '@/core/evaluate';
import type { MatteFigures } from '@/core/keying';
import { scopeWorker } from '@/engine/browser';
import { useJobs } from '../jobs/jobs';
import { benchOf, lastAlert, laneOf, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { MatteReport } from './MatteReport';

const GOOD: MatteFigures = { holes: 3, specks: 0, chatter: 0.02, spill: 1, fringe: 4 };
let asked: Request[];
/** Frames from this one on are never there. */
let stuck: number;
/** What a frame's matte is measured as, and against which colour, with a frame before it or not. */
let figures: (frame: number) => MatteFigures;
let against: [boolean, readonly number[]][];

const counting = scopeWorker.call;
beforeEach(() => {
  asked = [];
  against = [];
  stuck = Infinity;
  figures = () => GOOD;
  useJobs.setState({ list: [] });
  const { viewer } = benchOf(shotWith());
  viewer.fetchToKeep = ((_: Shot, request: Request, _use: string, signal: AbortSignal) => {
    asked.push(request);
    if (request.frame >= stuck) return new Promise((_done, fail) => signal.addEventListener('abort', () => fail(new Cancelled())));
    return Promise.resolve({ pixels: new Float32Array([request.frame]), region: { x0: 0, y0: 0, x1: 1, y1: 1 } });
  }) as unknown as typeof viewer.fetchToKeep;
  const worker = {
    matte: (now: { pixels: Float32Array }, before: unknown, colour: readonly number[]) => {
      against.push([before !== null, colour]);
      return figures(now.pixels[0]!);
    },
  };
  scopeWorker.call = (async (run: (w: typeof worker) => unknown) => run(worker)) as unknown as typeof scopeWorker.call;
});
afterAll(() => void (scopeWorker.call = counting));

/** A keyed keeper that is joined over the harbour, over six frames. */
function keyed() {
  const session = shotWith('screenKey', 'despill');
  session.run(
    'range',
    (s) => void Object.assign(s, { range: { first: 11, last: 16 }, format: { width: 960, height: 540, pixelAspect: 1 } }),
  );
  session.run('join', addStep(laneOf(session, 'keeper').id, 'join', undefined));
  return session;
}
const measure = () => screen.getByRole('button', { name: /Measure/ });
const chart = (title: string): HTMLElement => screen.getByText(title).closest('figure')!;

describe('the report on a matte', () => {
  test('is there for lanes that a key cuts out of their plate, and for no other', () => {
    const { container } = showBench(shotWith('blur'), <MatteReport />);
    expect(container.textContent).not.toContain('Matte of');
    const whole = shotWith('screenKey');
    act(() => whole.run('matte', setParams(stepOf(whole, 'screenKey').id, { output: 'matte' }, 1)));
    expect(showBench(whole, <MatteReport />).container.textContent).not.toContain('Matte of');
    showBench(keyed(), <MatteReport />);
    expect(screen.getByRole('combobox', { name: 'Lane of the report' }).textContent).toBe('keeper');
  });

  test('looks at every frame of the range at half its size, before the keeper is joined to anything', async () => {
    const session = keyed();
    act(() => session.run('colour', setParams(stepOf(session, 'screenKey').id, { screenColour: [0.1, 0.6, 0.2] }, 1)));
    const { user } = showBench(session, <MatteReport />);
    await user.click(measure());
    await waitFor(() => expect(screen.getByRole('button', { name: 'Measure again' })).toBeTruthy());
    expect(asked.map((r) => r.frame)).toEqual([11, 12, 13, 14, 15, 16]);
    expect(asked.every((r) => r.scale === 0.5)).toBe(true);
    expect(asked[0]!.tap).toEqual({ lane: laneOf(session, 'keeper').id, after: stepOf(session, 'despill').id });
    // The first frame has none before it to chatter against.
    expect(against.map(([before]) => before)).toEqual([false, true, true, true, true, true]);
    expect(against[0]![1]).toEqual([0.1, 0.6, 0.2]);
    expect(useJobs.getState().list).toEqual([]);
  });

  test('says what is good, how many frames are not, and goes to the worst of them', async () => {
    figures = (f) => ({ ...GOOD, chatter: f === 11 ? null : 0.02, spill: f === 14 ? 9.25 : f === 12 ? 2.9 : 1 });
    const { user } = showBench(keyed(), <MatteReport />);
    await user.click(measure());
    await screen.findByRole('button', { name: 'Measure again' });
    expect(within(chart('Holes, px')).getByTitle('Good')).toBeTruthy();
    expect(chart('Chatter').textContent).toContain('below 0.06');
    const spill = chart('Spill, ΔE');
    expect(within(spill).getByTitle('Look')).toBeTruthy();
    expect(spill.textContent).toContain('2 of 6 over 2.3');
    await user.click(within(spill).getByRole('button', { name: 'worst 9.3 at 14' }));
    expect(view.get()).toMatchObject({ frame: 14, playing: false });
  });

  test('counts pixels by the area of the shot’s format', async () => {
    const session = keyed();
    act(() => session.run('format', (s) => void (s.format = { ...s.format, width: 1920, height: 1080 })));
    const { user } = showBench(session, <MatteReport />);
    await user.click(measure());
    await screen.findByRole('button', { name: 'Measure again' });
    expect(chart('Holes, px').textContent).toContain('below 160');
    expect(chart('Specks, px').textContent).toContain('below 100');
  });

  test('is of the shot as it was measured: a change since is said', async () => {
    const session = keyed();
    const { user } = showBench(session, <MatteReport />);
    await user.click(measure());
    await screen.findByRole('button', { name: 'Measure again' });
    expect(screen.queryByText(/before the last change/)).toBeNull();
    act(() => session.run('mute', changeLane(laneOf(session, 'harbour').id, { muted: true })));
    expect(screen.getByText('measured before the last change')).toBeTruthy();
  });

  test('stopped, it keeps what it has; a frame that fails is told with the lane, and what was measured stays', async () => {
    stuck = 13;
    const { user } = showBench(keyed(), <MatteReport />);
    await user.click(measure());
    await screen.findByText(/2 of 6 frames/);
    await user.click(screen.getByRole('button', { name: /^Stop/ }));
    await screen.findByRole('button', { name: 'Measure again' });
    expect(chart('Holes, px').textContent).toContain('worst 3 at 11');

    stuck = Infinity;
    figures = (f) => {
      if (f === 15) throw new Error('keeper.0015.png is missing');
      return GOOD;
    };
    await user.click(measure());
    await waitFor(() =>
      expect(lastAlert().textContent).toContain('The matte of "keeper" was not measured to the end: keeper.0015.png is missing'),
    );
    expect(within(chart('Holes, px')).getByTitle('Good')).toBeTruthy();
  });
});
