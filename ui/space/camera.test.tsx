import { act, screen, within } from '@testing-library/react';
import { newPoint } from '@/core/readings/make';
import type { CameraReading } from '@/core/readings/types';
import * as space from '@/core/commands/space';
import { upright } from '@/core/space/reference';
import { viewOf } from '@/core/space/reading';
import { solvedCamera } from '@/core/space/solve';
import { CLIP_FORMAT, makeClip } from '@/core/space/testing';
import type { ShotSession } from '@/store/shot-store';
import { Controls } from '../controls/Controls';
import { laneOf, lastAlert, retype, shotOf, showBench, shotWith } from '../testing/bench';
import { view } from '../workbench/state';
import { spans } from './SolvedRows';

const clip = makeClip('dolly', { frames: 12, tracks: 30, hand: true, noise: 0.05 });
const solution = solvedCamera({ tracks: clip.tracks, range: clip.frames, format: CLIP_FORMAT, focal: 780, bend: false });

/** A shot with a camera, found tracks and, unless said otherwise, its solution. */
function withCamera(isSolved = true): { session: ShotSession; id: string } {
  const session = shotWith();
  const made: { reading?: string } = {};
  session.run('camera', space.addCamera({ lane: laneOf(session, 'keeper').id }, 1, made));
  const id = made.reading!;
  session.run(
    'tracks',
    space.setTracks(
      id,
      clip.tracks.map((t) => ({ id: t.id, first: 1, at: [...t.at] })),
    ),
  );
  if (isSolved) session.run('solve', space.setCamera(id, solution, CLIP_FORMAT));
  return { session, id };
}
const cameraOf = (session: ShotSession): CameraReading => shotOf(session).readings.find((r) => r.kind === 'camera') as CameraReading;
const show = (session: ShotSession, id: string, change: Parameters<typeof showBench>[2] = {}) =>
  showBench(session, <Controls />, { selection: { kind: 'reading', id }, ...change });
const button = (name: string | RegExp): HTMLButtonElement => screen.getByRole('button', { name });
const place = (session: ShotSession, track: string): readonly [number, number, number] =>
  upright(viewOf(cameraOf(session), shotOf(session).readings)!.point(track)!);

describe('the controls of a camera', () => {
  test('before it is solved: how many tracks there are, and where they are fewest', async () => {
    const { session, id } = withCamera(false);
    session.run('range', space.changeCamera(id, { settings: { least: 6 } }));
    session.run('point', (s) => {
      const about = {
        id: 'bollard',
        name: 'Bollard',
        from: { lane: laneOf(session, 'keeper').id },
        reference: 1,
        range: { first: 1, last: 12 },
      };
      const frames = [1, 2, 3].map((frame) => ({ frame, x: 100 + frame, y: 50, error: 0, confidence: 1 }));
      s.readings.push({ ...newPoint([100, 50], about), frames } as never);
    });
    const { user } = show(session, id);
    expect(screen.getByTestId('track-count').textContent).toMatch(/30 found\. Fewest on frame 13: 0 — eight on every frame are enough/);
    await user.click(within(screen.getByTestId('track-count')).getByRole('button'));
    expect(view.get().frame).toBe(13);
    expect(screen.queryByTestId('solved')).toBeNull();
    expect(button('Solve').disabled).toBe(false);

    await user.click(within(screen.getByRole('group', { name: 'Points by hand' })).getByRole('checkbox', { name: /Bollard/ }));
    expect(cameraOf(session).hand).toEqual(['bollard']);
    expect(screen.getByTestId('track-count').textContent).toContain('30 found, 1 by hand');
    await retype(user, screen.getByRole('textbox', { name: 'A point by hand counts' }), '7.5');
    expect(cameraOf(session).settings.handWeight).toBe(7.5);
  });

  test('a known focal length is asked for in mm; a lens that bends is found with it', async () => {
    const { session, id } = withCamera(false);
    const { user } = show(session, id);
    expect(screen.queryByRole('textbox', { name: 'Sensor width, mm' })).toBeNull();
    await user.click(screen.getByRole('combobox', { name: 'Focal length' }));
    await user.click(screen.getByRole('option', { name: 'Known, mm' }));
    await retype(user, screen.getByRole('textbox', { name: 'Focal length, mm' }), '32');
    await retype(user, screen.getByRole('textbox', { name: 'Sensor width, mm' }), '24.9');
    expect(cameraOf(session).settings).toMatchObject({ focal: 'known', mm: 32, sensor: 24.9 });
    await user.click(screen.getByRole('combobox', { name: 'Pixels' }));
    await user.click(screen.getByRole('option', { name: /^Bent/ }));
    expect(cameraOf(session).settings.bend).toBe(true);
  });

  test('solved: its error, what is used, how far a card would slide, and the tracks that miss most', async () => {
    const { session, id } = withCamera();
    const { user } = show(session, id);
    expect(screen.getByTestId('camera-rms').textContent).toBe(`${solution.rms.toFixed(3)} px`);
    expect(screen.getByTestId('solved').textContent).toMatch(/A moving camera\..* of 30 tracks used, focal length 780\.0 px/);
    expect(screen.getByTestId('camera-slide').textContent).toMatch(/slide by [\d.]+ px near, [\d.]+ px in the middle, [\d.]+ px far/);
    const rows = screen.getAllByTestId(/^track /).filter((r) => r.dataset.testid !== 'track-count');
    const errors = rows.map((r) => Number(/(\d\.\d+) px/.exec(r.textContent)![1]));
    expect([...errors].sort((a, b) => b - a)).toEqual(errors);
    const worst = rows[0]!.dataset.testid!.slice(6);
    await user.click(within(rows[0]!).getAllByRole('button')[0]!);
    expect(view.get().tracks).toEqual([worst]);
    expect(view.get().seen).toEqual(cameraOf(session).from);
    await user.click(button('Choose none'));
    expect(view.get().tracks).toEqual([]);
  });

  test('what it was solved from has changed: that is said, and solving again is what stands out', () => {
    const { session, id } = withCamera();
    show(session, id);
    expect(screen.queryByText(/has changed: solve again/)).toBeNull();
    act(() => session.run('tracks', space.removeTracks(id, [clip.tracks[0]!.id])));
    expect(screen.getByText(/has changed: solve again/)).toBeTruthy();
    expect(button('Solve again').className).toContain('contained');
    act(() => session.undo());
    expect(screen.queryByText(/has changed: solve again/)).toBeNull();
  });

  test('chosen tracks are deleted together, and come back together', async () => {
    const { session, id } = withCamera();
    const gone = clip.tracks.slice(0, 3).map((t) => t.id);
    const { user } = show(session, id, { tracks: gone });
    await user.click(button('Delete'));
    expect(cameraOf(session).tracks).toHaveLength(27);
    act(() => session.undo());
    expect(cameraOf(session).tracks).toHaveLength(30);
  });
});

describe('the world', () => {
  const tracks = clip.tracks.map((t) => t.id);

  test('is laid by chosen points: the buttons wait for as many as they need', async () => {
    const { session, id } = withCamera();
    show(session, id, { tracks: tracks.slice(0, 1) });
    expect([button('Ground').disabled, button('Upright').disabled, button('Origin').disabled]).toEqual([true, true, false]);
    act(() => view.set({ tracks: tracks.slice(0, 4) }));
    expect([button('Ground').disabled, button('Level').disabled, button('X axis').disabled]).toEqual([false, false, false]);
  });

  test('origin and distance are what was said, and one undo each', async () => {
    const { session, id } = withCamera();
    const two = tracks.slice(3, 5) as [string, string];
    const { user } = show(session, id, { tracks: two.slice(0, 1) });
    await user.click(button('Origin'));
    place(session, two[0]).forEach((v) => expect(v).toBeCloseTo(0, 9));
    act(() => view.set({ tracks: two }));
    await retype(user, screen.getByRole('textbox', { name: 'Distance of two points' }), '2.5');
    await user.click(button('Set'));
    expect(Math.hypot(...place(session, two[1]))).toBeCloseTo(2.5, 9);
    act(() => session.undo());
    expect(Math.hypot(...place(session, two[1]))).not.toBeCloseTo(2.5, 3);
  });

  test('is moved and turned by numbers that are then nothing again', async () => {
    const { session, id } = withCamera();
    const before = place(session, tracks[0]!);
    const { user } = show(session, id);
    expect(button('Move the world').disabled).toBe(true);
    await retype(user, screen.getByRole('textbox', { name: 'Move the world: y' }), '1.5');
    await user.click(button('Move the world'));
    const after = place(session, tracks[0]!);
    [0, 1.5, 0].forEach((v, i) => expect(after[i]! - before[i]!).toBeCloseTo(v, 9));
    expect(button('Move the world').disabled).toBe(true);
    await retype(user, screen.getByRole('textbox', { name: 'Turn the world: y' }), '90');
    await user.click(button('Turn the world'));
    const turned = place(session, tracks[0]!);
    expect([turned[0], turned[2]].map((v) => v.toFixed(6))).toEqual([after[2].toFixed(6), (-after[0]).toFixed(6)]);
  });

  test('points that tell nothing are refused in words, and nothing has moved', async () => {
    const { session, id } = withCamera();
    const one = tracks[0]!;
    const { user } = show(session, id, { tracks: [one, one] });
    const { placing } = cameraOf(session);
    await user.click(button('Set'));
    expect(lastAlert().textContent).toContain('those two points lie at the same place');
    expect(cameraOf(session).placing).toEqual(placing);
  });
});

describe('points under names, and test cards', () => {
  test('a group is made of the chosen points, named, coloured, chosen again and deleted', async () => {
    const { session, id } = withCamera();
    const chosen = clip.tracks.slice(2, 8).map((t) => t.id);
    const { user } = show(session, id, { tracks: chosen });
    await user.click(button('Group these 6'));
    const [group] = cameraOf(session).groups;
    expect(group!.tracks).toEqual(chosen);
    const line = screen.getByTestId(`group ${group!.name}`);
    expect(line.textContent).toMatch(/6 points, middle at -?[\d.]+, -?[\d.]+, -?[\d.]+, flat to/);
    act(() => view.set({ tracks: [] }));
    await user.click(within(line).getByRole('button', { name: 'choose' }));
    expect(view.get().tracks).toEqual(chosen);
    await user.click(within(line).getByRole('combobox', { name: /^Marks of/ }));
    await user.click(screen.getByRole('option', { name: 'Diamonds' }));
    expect(cameraOf(session).groups[0]!.mark).toBe('diamond');
    await user.click(button(`Delete ${group!.name}`));
    expect(cameraOf(session).groups).toEqual([]);
  });

  test('six cards are spread over the picture by one click and one undo; on the ground they lie at the origin', async () => {
    const { session, id } = withCamera();
    const { user } = show(session, id);
    await user.click(button('Place 6'));
    const { cards } = cameraOf(session);
    expect(cards).toHaveLength(6);
    expect(new Set(cards.map((c) => c.track)).size).toBe(6);
    cards.forEach((c) => expect(c).toMatchObject({ lies: 'facing' }));
    act(() => session.undo());
    expect(cameraOf(session).cards).toEqual([]);
    await user.click(button('On the ground'));
    expect(cameraOf(session).cards).toMatchObject([{ track: '', lies: 'ground' }]);
    await retype(user, screen.getByRole('textbox', { name: 'Size of the card at the origin' }), '0.75');
    expect(cameraOf(session).cards[0]!.size).toBe(0.75);
    await user.click(button('Take away the card at the origin'));
    expect(cameraOf(session).cards).toEqual([]);
  });

  test('frames after each other are said as one', () => {
    expect(spans([4, 5, 6, 7, 12])).toBe('4–7, 12');
    expect(spans([3])).toBe('3');
  });
});
