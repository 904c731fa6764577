import { act, screen, within } from '@testing-library/react';
import * as space from '@/core/commands/space';
import { THING_KINDS, addThing } from '@/core/commands/things';
import { setParams } from '@/core/commands/commands';
import type { Part } from '@/core/params/part';
import { solvedCamera } from '@/core/space/solve';
import { CLIP_FORMAT, makeClip } from '@/core/space/testing';
import type { ShotSession } from '@/store/shot-store';
import { Controls } from '../../controls/Controls';
import { laneOf, retype, shotOf, showBench, shotWith, stepOf } from '../../testing/bench';
import { view } from '../../workbench/state';

const things = (session: ShotSession): readonly Part[] => (stepOf(session, 'scene').params.things ?? []) as unknown as readonly Part[];
const button = (name: string | RegExp): HTMLButtonElement => screen.getByRole('button', { name });

function show(session: ShotSession, thing: string | null = null) {
  return showBench(session, <Controls />, { selection: { kind: 'step', id: stepOf(session, 'scene').id }, thing });
}
/** A scene with these things in it; their ids. */
function withThings(...kinds: (keyof typeof THING_KINDS)[]): { session: ShotSession; ids: string[] } {
  const session = shotWith('scene');
  const ids = kinds.map((kind) => {
    const made: { thing?: string } = {};
    session.run('add', addThing(stepOf(session, 'scene').id, kind, {}, made));
    return made.thing!;
  });
  return { session, ids };
}

describe('the things of a scene', () => {
  test('of none it says what to add; every kind can be added, and what was added is open', async () => {
    const session = shotWith('scene');
    const { user } = show(session);
    expect(screen.getByText(/Nothing is in it yet: add a card with a lane/)).toBeTruthy();
    for (const kind of ['ball', 'light', 'catcher', 'holder'] as const) {
      await user.click(button('Add a thing'));
      await user.click(screen.getByRole('menuitem', { name: THING_KINDS[kind].title }));
    }
    expect(things(session)).toHaveLength(4);
    const step = stepOf(session, 'scene');
    expect(things(session).map((t) => step.params[`${t.id}.what`])).toEqual(['ball', 'light', 'catcher', 'holder']);
    expect(view.get().thing).toBe(things(session)[3]!.id);
    expect(screen.queryByText(/Nothing is in it yet/)).toBeNull();
  });

  test('a card with a lane shows that lane, under its name; it is one undo', async () => {
    const session = shotWith('scene');
    const gulls = { id: 'gulls', name: 'gulls', start: { source: 'src-harbour' }, steps: [], muted: false, collapsed: false };
    session.run('lane', (s) => void s.lanes.push(gulls as never));
    const { user } = show(session);
    await user.click(button('Add a thing'));
    // The harbour takes this lane in: it would show itself.
    expect(screen.queryByRole('menuitem', { name: 'harbour' })).toBeNull();
    await user.click(screen.getByRole('menuitem', { name: gulls.name }));
    const [card] = things(session);
    expect(card!.name).toBe(gulls.name);
    expect(stepOf(session, 'scene').feeds[`${card!.id}.picture`]).toEqual({ lane: gulls.id });
    act(() => session.undo());
    expect([things(session), stepOf(session, 'scene').feeds]).toEqual([[], {}]);
  });

  test('one is renamed, hidden, and taken away with all that is its own', async () => {
    const { session, ids } = withThings('ball', 'box');
    const { user } = show(session, ids[0]!);
    const [ball, crate] = things(session);
    const part = screen.getByTestId(`part ${ball!.name}`);
    await retype(user, within(part).getByRole('textbox', { name: 'Name' }), 'Buoy');
    expect(things(session).map((t) => t.name)).toEqual(['Buoy', crate!.name]);
    await user.click(screen.getByRole('switch', { name: 'Buoy on' }));
    expect(stepOf(session, 'scene').params[`${ids[0]}.on`]).toBe(false);
    await user.click(button('Take Buoy away'));
    expect(things(session)).toEqual([crate]);
    expect(Object.keys(stepOf(session, 'scene').params).filter((k) => k.startsWith(`${ids[0]}.`))).toEqual([]);
  });

  test('what does not count for a kind is not shown: a light has no roughness, a ball no falloff', () => {
    const { session, ids } = withThings('ball', 'light');
    session.run('lit', setParams(stepOf(session, 'scene').id, { [`${ids[0]}.lit`]: true }, 1));
    show(session, ids[0]!);
    const labels = (name: string): string[] =>
      within(screen.getByTestId(`part ${name}`))
        .queryAllByRole('textbox')
        .map((t) => t.getAttribute('aria-label') ?? '');
    const [ball, light] = things(session);
    const own = labels(ball!.name);
    act(() => view.set({ thing: ids[1]! }));
    const lit = labels(light!.name);
    expect(own.some((l) => l.startsWith('Roughness'))).toBe(true);
    expect(lit.some((l) => l.startsWith('Roughness'))).toBe(false);
    expect([own, lit].map((list) => list.some((l) => l.startsWith('Strength')))).toEqual([false, true]);
  });

  test('Place waits for a click on the picture, and the room for one on it', async () => {
    const { session, ids } = withThings('ball');
    const { user } = show(session, null);
    await user.click(button('Place'));
    expect(view.get()).toMatchObject({ thing: ids[0], picking: { data: 'thing', part: ids[0] }, roomView: false });
    expect(button('Place').getAttribute('aria-pressed')).toBe('true');
    await user.click(button('Place'));
    expect(view.get().picking).toBeNull();
    await user.click(button('See the room'));
    expect(view.get().roomView).toBe(true);
    expect(button('See the picture')).toBeTruthy();
  });

  test('one hangs on another, but not on itself', async () => {
    const { session, ids } = withThings('holder', 'ball');
    const { user } = show(session, ids[1]!);
    const part = screen.getByTestId(`part ${things(session)[1]!.name}`);
    await user.click(within(part).getByRole('combobox', { name: /^Hangs on/ }));
    const options = screen.getAllByRole('option').map((o) => o.textContent);
    expect(options).toEqual(['Nothing', things(session)[0]!.name]);
    await user.click(screen.getByRole('option', { name: things(session)[0]!.name }));
    expect(stepOf(session, 'scene').params[`${ids[1]}.hangs`]).toBe(ids[0]);
  });

  test('with a camera, one stands at the middle or on the plane of a group of its points', async () => {
    const { session, ids } = withThings('ball');
    const clip = makeClip('dolly', { frames: 8, tracks: 20, hand: true, noise: 0.05 });
    const made: { reading?: string } = {};
    session.run('camera', space.addCamera({ lane: laneOf(session, 'keeper').id }, 1, made));
    session.run(
      'tracks',
      space.setTracks(
        made.reading!,
        clip.tracks.map((t) => ({ id: t.id, first: 1, at: [...t.at] })),
      ),
    );
    const solution = solvedCamera({ tracks: clip.tracks, range: clip.frames, format: CLIP_FORMAT, focal: 780, bend: false });
    session.run('solve', space.setCamera(made.reading!, solution, CLIP_FORMAT));
    session.run(
      'group',
      space.addGroup(
        made.reading!,
        clip.tracks.slice(0, 5).map((t) => t.id),
      ),
    );
    session.run('use', setParams(stepOf(session, 'scene').id, { camera: made.reading! }, 1));
    const { user } = show(session, ids[0]!);
    const part = screen.getByTestId(`part ${things(session)[0]!.name}`);
    await user.click(within(part).getByRole('combobox', { name: /^Stands/ }));
    const { groups } = shotOf(session).readings.find((r) => r.kind === 'camera') as unknown as { groups: { id: string; name: string }[] };
    expect(screen.getAllByRole('option').map((o) => o.textContent)).toEqual([
      'The origin',
      'Groups',
      `Middle of ${groups[0]!.name}`,
      `On the plane of ${groups[0]!.name}`,
    ]);
    await user.click(screen.getByRole('option', { name: /^On the plane/ }));
    expect(stepOf(session, 'scene').params[`${ids[0]}.stands`]).toBe(`plane:${groups[0]!.id}`);
    // A group that is gone is said to be so, and its name is kept until another is chosen.
    act(() => session.run('delete', space.changeGroup(made.reading!, groups[0]!.id, null)));
    expect(within(part).getByRole('combobox', { name: /^Stands/ }).textContent).toBe('Something that is gone');
  });
});
