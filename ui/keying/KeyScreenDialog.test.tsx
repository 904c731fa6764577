import { act, screen, waitFor } from '@testing-library/react';
import type { Lane, Shot } from '@/core/document/types';
import type { FoundScreen } from '@/core/keying';
import type { Request } from '@/core/evaluate';
import { scopeWorker } from '@/engine/browser/scopes';
import { benchOf, laneOf, lastAlert, shotOf, shotWith, showBench } from '../testing/bench';
import { view } from '../workbench/state';
import { KeyScreenDialog } from './KeyScreenDialog';

const GREEN: FoundScreen = { colour: [0.05, 0.3, 0.08], share: 0.617 } as FoundScreen;

let closed = 0;
let asked: Request[];
/** What the search for a screen comes to, by the plate's lane. */
let screens: Record<string, FoundScreen | null>;
/** Frames that cannot be read, with why. */
let missing: (frame: number) => string | null;

beforeEach(() => {
  closed = 0;
  asked = [];
  missing = () => null;
  const { viewer } = benchOf(shotWith());
  let lane = '';
  viewer.fetchToKeep = (async (shot: Shot, request: Request) => {
    asked.push(request);
    const why = missing(request.frame);
    if (why) throw new Error(why);
    lane = shot.lanes.find((l) => l.id === request.tap.lane)!.name;
    return { pixels: new Float32Array(4), region: { x0: 0, y0: 0, x1: 1, y1: 1 } };
  }) as unknown as typeof viewer.fetchToKeep;
  scopeWorker.call = (async () => screens[lane] ?? null) as unknown as typeof scopeWorker.call;
});

const show = (session: ReturnType<typeof shotWith>, lane?: Lane) =>
  showBench(session, <KeyScreenDialog onClose={() => closed++} />, lane ? { selection: { kind: 'lane', id: lane.id } } : {});
const namesOf = (shot: Shot): string[] => shot.lanes.map((l) => l.name);
const chosenIn = (name: string): string | null => screen.getByRole('combobox', { name }).textContent;
const key = (): HTMLButtonElement => screen.getByRole('button', { name: 'Key it' });

describe('keying a screen by one command', () => {
  test('five frames of the plate are looked at, small; the screen is shown, and one press makes lanes that one undo takes back', async () => {
    screens = { keeper: GREEN };
    const session = shotWith();
    const before = namesOf(shotOf(session));
    const { user } = show(session, laneOf(session, 'keeper'));
    expect((await screen.findByTestId('found-screen')).textContent).toBe('0.050 0.300 0.08062 % of the frame');
    expect(asked.map((r) => [r.frame, r.scale])).toEqual([1, 13, 25, 36, 48].map((f) => [f, 0.25]));
    expect([chosenIn('Plate'), chosenIn('Background')]).toEqual(['keeper', 'harbour']);
    await user.click(key());
    expect(closed).toBe(1);
    expect(namesOf(shotOf(session))).toEqual(
      expect.arrayContaining(['harbour', 'keeper', 'keeper core', 'keeper garbage', 'keeper screen']),
    );
    const keeper = laneOf(session, 'keeper');
    expect(laneOf(session, 'harbour').steps.at(-1)).toMatchObject({ type: 'join', feeds: { front: { lane: keeper.id } } });
    expect(view.get().selection).toEqual({ kind: 'lane', id: keeper.id });
    act(() => void session.undo());
    expect(namesOf(shotOf(session))).toEqual(before);
  });

  test('without anything behind it, the keyed lane itself is seen', async () => {
    screens = { keeper: GREEN };
    const session = shotWith();
    const { steps } = laneOf(session, 'harbour');
    const { user } = show(session, laneOf(session, 'keeper'));
    await screen.findByTestId('found-screen');
    await user.click(screen.getByRole('combobox', { name: 'Background' }));
    await user.click(screen.getByRole('option', { name: 'Nothing yet' }));
    await user.click(key());
    expect(laneOf(session, 'harbour').steps).toEqual(steps);
    expect(view.get().seen).toEqual({ lane: laneOf(session, 'keeper').id });
  });

  test('a lane without a screen is passed over for the next one that starts from a source', async () => {
    screens = { keeper: GREEN };
    const session = shotWith();
    show(session, laneOf(session, 'harbour'));
    await screen.findByTestId('found-screen');
    expect(chosenIn('Plate')).toBe('keeper');
  });

  test('where no lane has one, the lane that was selected says what to do instead, and nothing can be pressed', async () => {
    screens = {};
    const session = shotWith();
    show(session, laneOf(session, 'harbour'));
    await waitFor(() => expect(lastAlert().textContent).toContain('Add a Screen key and pick its colour on the stage instead'));
    expect(chosenIn('Plate')).toBe('harbour');
    expect(key().disabled).toBe(true);
  });

  test('a plate that is chosen by hand is not passed over', async () => {
    screens = { keeper: GREEN };
    const session = shotWith();
    const { user } = show(session, laneOf(session, 'keeper'));
    await screen.findByTestId('found-screen');
    await user.click(screen.getByRole('combobox', { name: 'Plate' }));
    await user.click(screen.getByRole('option', { name: 'harbour' }));
    await waitFor(() => expect(lastAlert().textContent).toContain('No screen was found'));
    expect(chosenIn('Plate')).toBe('harbour');
  });

  test('frames that are missing are passed by; where all are, it is said why', async () => {
    screens = { keeper: GREEN };
    missing = (frame) => (frame > 20 ? `frame ${frame} is missing` : null);
    const session = shotWith();
    show(session, laneOf(session, 'keeper'));
    await screen.findByTestId('found-screen');
    missing = (frame) => `frame ${frame} is missing`;
    show(session, laneOf(session, 'keeper'));
    await waitFor(() => expect(lastAlert().textContent).toBe('frame 1 is missing'));
  });

  test('cancelled, nothing has changed', async () => {
    screens = { keeper: GREEN };
    const session = shotWith();
    const before = shotOf(session);
    const { user } = show(session, laneOf(session, 'keeper'));
    await screen.findByTestId('found-screen');
    await user.click(screen.getByRole('button', { name: 'Cancel' }));
    expect([closed, shotOf(session) === before]).toEqual([1, true]);
  });
});
