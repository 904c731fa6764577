import { act, screen, waitFor, within } from '@testing-library/react';
import type { Step } from '@/core/document';
import { newPlane, newPoint } from '@/core/readings/make';
import type { PlaceDoubt, PointFrame, Reading } from '@/core/readings';
import { readingWorker } from '@/engine/browser';
import type { ShotSession } from '@/store';
import { benchOf, laneOf, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import { useShot } from '../workbench/context';
import { view } from '../workbench/state';
import { FreezeLine } from './FreezeLine';
import { PlaceDoubtLine } from './PlaceDoubtLine';
import { ReadingUses } from './ReadingUses';

const FRAMES = [1, 2, 3, 4, 5, 6];
const PANEL = [[10, 10, 50, 10, 50, 30, 10, 30]] as const;
const about = (session: ShotSession) => ({ from: { lane: laneOf(session, 'keeper').id }, reference: 3, range: { first: 1, last: 6 } });

/** A shot with a plane that stands still, and points at places that move to the right by a pixel a frame. */
function withReadings(points: readonly (readonly [number, number])[], measured = true): ShotSession {
  const session = shotWith('blur');
  const of = about(session);
  const frames = measured ? FRAMES : [3];
  act(() =>
    session.run('readings', (s) => {
      const plane = newPlane(PANEL, of);
      const still = frames.map((frame) => ({ frame, homography: [1, 0, 0, 0, 1, 0, 0, 0, 1], confidence: 1, error: 0, features: 40 }));
      s.readings.push({ ...plane, id: 'plane', name: 'Panel', frames: still } as never);
      points.forEach((at, i) => {
        const path = frames.map((frame): PointFrame => ({ frame, x: at[0] + frame - 3, y: at[1], confidence: 1, error: 0 }));
        s.readings.push({ ...newPoint(at, of), id: `p${i + 1}`, name: `Point ${i + 1}`, frames: path } as never);
      });
    }),
  );
  return session;
}
const reading = (session: ShotSession, id: string): Reading => shotOf(session).readings.find((r) => r.id === id)!;
const button = (name: string | RegExp): HTMLButtonElement => screen.getByRole('button', { name });
const newest = (session: ShotSession) => shotOf(session).lanes.find((l) => view.get().selection?.id === l.id)!;

function uses(session: ShotSession, id: string) {
  const Uses = () => <ReadingUses reading={useShot().readings.find((r) => r.id === id)!} />;
  return showBench(session, <Uses />, { seen: { lane: laneOf(session, 'keeper').id } });
}

describe('what a reading is used for', () => {
  test('a picture is pinned on a plane, one of the shot’s own; the lane is in hand and the result is seen', async () => {
    const session = withReadings([]);
    const { user } = uses(session, 'plane');
    await user.click(button('Pin a picture here'));
    await user.click(screen.getByRole('menuitem', { name: 'harbour' }));
    const lane = newest(session);
    expect(lane.start).toEqual({ source: 'src-harbour' });
    expect(lane.steps.find((s) => s.type === 'cornerPin')!.params).toMatchObject({ from: 'plane', plane: 'plane' });
    expect(view.get()).toMatchObject({ tab: 'lanes', seen: null });
    act(() => session.undo());
    expect(shotOf(session).lanes.map((l) => l.name)).toEqual(['keeper', 'harbour']);
  });

  test('four points hold a picture, fewer do not, and say what is missing', async () => {
    uses(withReadings([[10, 10]]), 'p1');
    expect([button('Pin a picture here').disabled, button('Pin a picture here').title]).toEqual([
      true,
      'Takes a plane, or four measured points',
    ]);
    // In no order: which corner is which is found from where they lie.
    const session = withReadings([
      [50, 30],
      [10, 10],
      [10, 30],
      [50, 10],
    ]);
    const { user } = uses(session, 'p1');
    await user.click(button('Pin a picture here'));
    await user.click(screen.getByRole('menuitem', { name: 'harbour' }));
    const pin = newest(session).steps.find((s) => s.type === 'cornerPin')!;
    expect(['first', 'second', 'third', 'fourth'].map((p) => pin.params[p])).toEqual(['p2', 'p4', 'p1', 'p3']);
  });

  test('only a plane is unwrapped, to a lane of its own, where it is worked on and put back', async () => {
    const session = withReadings([[10, 10]]);
    uses(session, 'p1');
    expect(screen.queryByRole('button', { name: 'Unwrap this plane' })).toBeNull();
    const { user } = uses(session, 'plane');
    await user.click(button('Unwrap this plane'));
    expect(newest(session).start).toHaveProperty('tap');
    expect(newest(session).steps.map((s) => s.name)).toEqual(['Lay flat', 'Work here', 'Put back']);
  });

  test('any lane may follow it, by a step that is in hand', async () => {
    const session = withReadings([[10, 10]]);
    const { user } = uses(session, 'p1');
    await user.click(button('Follow it'));
    await user.click(screen.getByRole('menuitem', { name: 'harbour' }));
    const step = laneOf(session, 'harbour').steps.at(-1)!;
    expect([step.type, view.get().selection]).toEqual(['follow', { kind: 'step', id: step.id }]);
    expect(Object.values(step.params)).toContain('p1');
    // Who uses it is named, and led to.
    expect(button('harbour ▸ Follow')).toBeTruthy();
  });

  test('contrast for tracking is a lane of its own: the reading is measured in it, the result stays', async () => {
    const session = withReadings([[10, 10]]);
    const before = shotOf(session).result;
    const { user } = uses(session, 'p1');
    await user.click(button('Boost for tracking'));
    const from = (reading(session, 'p1') as Reading & { from: { lane: string } }).from;
    expect(from.lane).not.toBe(laneOf(session, 'keeper').id);
    expect([view.get().seen, shotOf(session).result]).toEqual([{ lane: from.lane }, before]);
  });

  test('what is not measured yet builds nothing but that lane', () => {
    uses(withReadings([], false), 'plane');
    const disabled = screen.getAllByRole<HTMLButtonElement>('button').filter((b) => b.disabled);
    expect(disabled.map((b) => b.textContent)).toEqual(['Steady this plate', 'Pin a picture here', 'Unwrap this plane', 'Follow it']);
  });
});

test('a step that follows live is put on keys of its own, and back, each by one undo', async () => {
  const session = withReadings([[10, 10]]);
  const { user: first } = uses(session, 'p1');
  await first.click(button('Steady this plate'));
  const id = stepOf(session, 'stabilise').id;
  const step = (): Step => stepOf(session, 'stabilise');
  const Line = () => (useShot(), (<FreezeLine step={step()} />));
  const { user } = showBench(session, <Line />);
  const note = (): string => screen.getByRole('note').textContent;
  expect(note()).toMatch(/^Follows its reading live\. Filled at ×1\.\d{4}\./);
  await user.click(button('Freeze to keys'));
  expect([step().id, note()]).toEqual([id, expect.stringContaining('Stands on keys')]);
  await user.click(button('Unfreeze'));
  expect(note()).toContain('Follows its reading live');
  act(() => void session.undo());
  expect(note()).toContain('Stands on keys');
});

describe('a point in a bad place', () => {
  const judging = readingWorker.call;
  afterAll(() => void (readingWorker.call = judging));
  let doubt: PlaceDoubt | null;
  beforeEach(() => {
    const { viewer } = benchOf(shotWith());
    viewer.fetchToKeep = (async () => ({ pixels: new Float32Array(4), region: {}, format: {} })) as unknown as typeof viewer.fetchToKeep;
    readingWorker.call = (async () => doubt) as unknown as typeof readingWorker.call;
  });
  const show = (session: ShotSession) => {
    const Line = () => <PlaceDoubtLine reading={useShot().readings.find((r) => r.id === 'p1') as never} />;
    return showBench(session, <Line />);
  };
  const hint = (): Promise<HTMLElement> => screen.findByTestId('place-doubt');

  test('is told before it is measured, and goes to a better one nearby in one press', async () => {
    doubt = { edge: true, alike: null, better: [13, 24] };
    const session = withReadings([[10, 20]], false);
    const { user } = show(session);
    await user.click(within(await hint()).getByRole('button', { name: 'Take the corner 5 px away' }));
    expect(reading(session, 'p1')).toMatchObject({ at: [13, 24] });
  });

  test('with nothing better about it says what to do; one that is measured is not judged', async () => {
    doubt = { edge: false, alike: { distance: 8.2, score: 0.9 }, better: null };
    show(withReadings([[10, 20]], false));
    expect((await hint()).textContent).toContain('Something 8 px away looks the same');
    expect((await hint()).textContent).toContain('make the pattern wider, or choose another detail');
    show(withReadings([[10, 20]]));
    await act(() => new Promise<void>((next) => setTimeout(next, 500)));
    await waitFor(() => expect(screen.queryByTestId('place-doubt')).toBeNull());
  });
});
