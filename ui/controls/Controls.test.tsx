import { screen, within } from '@testing-library/react';
import { isKeyed } from '@/core/document/params';
import { applies } from '@/core/document/values';
import { STEPS } from '@/core/steps';
import { changeLane, setFeed, setKeys, setLink, setParams } from '@/core/commands/commands';
import { laneOf, retype, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { Controls } from './Controls';
import { act } from 'react';

const select = (id: string): void => act(() => view.set({ selection: { kind: 'step', id } }));

describe('the controls of a locked lane', () => {
  test('take nothing until it is unlocked', async () => {
    const session = shotWith('blur');
    session.run('lock', changeLane(laneOf(session, 'keeper').id, { locked: true }));
    const { user } = showBench(session, <Controls />, { selection: { kind: 'step', id: stepOf(session, 'blur').id } });
    const inert = (): boolean => screen.getByLabelText('Size (px)').closest('[inert]') !== null;
    expect([inert(), screen.getByLabelText<HTMLInputElement>('Step on').disabled]).toEqual([true, true]);
    await user.click(screen.getByRole('button', { name: 'Unlock' }));
    expect([laneOf(session, 'keeper').locked, inert()]).toEqual([false, false]);
  });
});

describe('every step', () => {
  test.each([...STEPS.keys()])('%s shows each of its parameters and feeds by name, and what it is for', (type) => {
    const session = shotWith(type);
    showBench(session, <Controls />);
    const step = stepOf(session, type);
    select(step.id);
    const definition = STEPS.get(type)!;
    const controls = screen.getByRole('region', { name: 'Controls' });
    const text = controls.textContent;
    expect(text).toContain(definition.summary);
    for (const [name, d] of Object.entries(definition.params)) {
      if (applies(definition.params, name, step)) expect(text).toContain(d.title);
    }
    for (const feed of definition.feeds) {
      // What lies behind the lane is found by itself.
      const gets = feed.behind ? 'found: harbour ▸ start' : 'none';
      expect(within(controls).getByRole('button', { name: `${feed.title}: ${gets}` })).toBeTruthy();
    }
    expect(text).toContain('Mask');
    expect(text).toContain('Mix');
  });
});

describe('a parameter', () => {
  const open = () => {
    const session = shotWith('blur', 'blur');
    const shown = showBench(session, <Controls />);
    const step = stepOf(session, 'blur');
    select(step.id);
    return { session, ...shown, id: step.id, size: (): unknown => stepOf(session, 'blur').params.size };
  };

  test('typed, it is changed by one command that an undo takes back', async () => {
    const { session, user, size } = open();
    const field = screen.getByRole('textbox', { name: 'Size (px)' });
    await retype(user, field, '12');
    expect(size()).toBe(12);
    act(() => void session.undo());
    expect(size()).toBeUndefined();
    expect((field as HTMLInputElement).value).toBe('4.00');
  });

  test('out of range, it is refused beside the field with the limit', async () => {
    const { user, size } = open();
    const field = screen.getByRole('textbox', { name: 'Size (px)' });
    await retype(user, field, '9000');
    expect(screen.getByRole('alert').textContent).toBe('Size (px) is at most 2000');
    expect(size()).toBeUndefined();
  });

  test('its diamond sets a key at the frame, a change there changes that key, and the diamond takes it away', async () => {
    const { user, size } = open();
    act(() => view.set({ frame: 10 }));
    const diamond = screen.getByRole('button', { name: 'Key of Size' });
    await user.click(diamond);
    expect(size()).toMatchObject({ keys: [{ frame: 10, value: 4 }] });
    act(() => view.set({ frame: 20 }));
    const field = screen.getByRole('textbox', { name: 'Size (px)' });
    await retype(user, field, '8');
    expect(size()).toMatchObject({
      keys: [
        { frame: 10, value: 4 },
        { frame: 20, value: 8 },
      ],
    });
    await user.click(diamond);
    expect(size()).toMatchObject({ keys: [{ frame: 10, value: 4 }] });
  });

  test('shows what its curve says at the frame', () => {
    const { session, id } = open();
    const keys = [
      { frame: 1, value: 2, ease: 'linear' as const },
      { frame: 11, value: 12, ease: 'linear' as const },
    ];
    act(() => session.run('keys', setKeys(id, 'size', keys, 1)));
    const value = (): string => (screen.getByRole('textbox', { name: 'Size (px)' }) as HTMLInputElement).value;
    expect(value()).toBe('2.00');
    act(() => view.set({ frame: 6 }));
    expect(value()).toBe('7.00');
  });

  test('a double-click on its name resets it; so does the reset of the whole step', async () => {
    const { session, user, id, size } = open();
    act(() => session.run('set', setParams(id, { size: 30, ratio: 2 }, 1)));
    await user.dblClick(screen.getByText('Size'));
    expect(size()).toBeUndefined();
    expect(stepOf(session, 'blur').params.ratio).toBe(2);
    await user.click(screen.getByRole('button', { name: 'Reset step' }));
    expect(stepOf(session, 'blur').params).toEqual({});
  });

  test('linked, it shows what it follows and that one’s value, and unlinks with the value kept', async () => {
    const { session, user, id, size } = open();
    const other = laneOf(session, 'keeper').steps[1]!;
    act(() => {
      session.run('set', setParams(other.id, { size: 17 }, 1));
      session.run('link', setLink(id, 'size', { step: other.id, param: 'size' }, 4, 1));
    });
    expect(screen.getByText(`keeper ▸ ${other.name} ▸ Size`)).toBeTruthy();
    expect((screen.getByRole('textbox', { name: 'Size (px)' }) as HTMLInputElement).value).toBe('17.00');
    await user.click(screen.getByRole('button', { name: 'Unlink' }));
    expect(size()).toBe(17);
  });
});

describe('a step', () => {
  test('is switched, renamed, and mixed with a key of its own', async () => {
    const session = shotWith('grade');
    const { user } = showBench(session, <Controls />);
    select(stepOf(session, 'grade').id);
    await user.click(screen.getByRole('switch', { name: 'Step on' }));
    expect(stepOf(session, 'grade').on).toBe(false);
    await user.dblClick(screen.getByText(stepOf(session, 'grade').name));
    await user.clear(screen.getByRole('textbox', { name: 'Name' }));
    await user.type(screen.getByRole('textbox', { name: 'Name' }), 'Night{Enter}');
    expect(stepOf(session, 'grade').name).toBe('Night');
    await user.click(screen.getByRole('button', { name: 'Key of Mix' }));
    expect(isKeyed(stepOf(session, 'grade').mix)).toBe(true);
  });

  test('a feed and a mask are chosen from the lanes and their points', async () => {
    const session = shotWith('screenKey', 'blur');
    const { user } = showBench(session, <Controls />);
    const key = stepOf(session, 'screenKey');
    select(key.id);
    await user.click(screen.getByRole('button', { name: 'Inside: none' }));
    await user.click(within(screen.getByRole('menu')).getAllByRole('menuitem', { name: '▸ start' })[0]!);
    expect(stepOf(session, 'screenKey').feeds.inside).toEqual({ lane: laneOf(session, 'keeper').id, after: '' });
    await user.click(screen.getByRole('button', { name: 'Mask: none' }));
    await user.click(within(screen.getByRole('menu')).getAllByRole('menuitem', { name: '▸ start' })[0]!);
    expect(stepOf(session, 'screenKey').mask).toMatchObject({ after: '', channel: 'A', invert: false });
    await user.click(screen.getByRole('switch', { name: 'Invert mask' }));
    expect(stepOf(session, 'screenKey').mask!.invert).toBe(true);
  });

  test('a feed that would make a ring is not offered, and refused with the ring named where it is asked for', async () => {
    const session = shotWith('screenKey');
    const { user } = showBench(session, <Controls />);
    select(stepOf(session, 'screenKey').id);
    await user.click(screen.getByRole('button', { name: 'Inside: none' }));
    const item = (name: string): string | null =>
      within(screen.getByRole('menu')).getByRole('menuitem', { name }).getAttribute('aria-disabled');
    expect(item('harbour')).toBe('true');
    expect(within(screen.getByRole('menu')).getByRole('menuitem', { name: 'none' }).getAttribute('aria-disabled')).not.toBe('true');
    const { lanes } = shotOf(session);
    const ring = setFeed(stepOf(session, 'screenKey').id, 'inside', { lane: lanes.find((l) => l.name === 'harbour')!.id });
    expect(session.refusal(ring)).toMatch(/ring.*(keeper.*harbour|harbour.*keeper)/);
    expect(stepOf(session, 'screenKey').feeds).toEqual({});
  });

  test('of a type that is not known it is kept, and says so', () => {
    const session = shotWith('blur');
    showBench(session, <Controls />);
    const { id } = stepOf(session, 'blur');
    act(() =>
      session.run('type', (s) => {
        for (const l of s.lanes) for (const step of l.steps) if (step.id === id) step.type = 'fromTomorrow';
      }),
    );
    select(id);
    expect(screen.getByRole('region', { name: 'Controls' }).textContent).toContain('“fromTomorrow” is not known');
  });

  test('without a selection the dock says what to do', () => {
    showBench(shotWith(), <Controls />);
    expect(screen.getByRole('region', { name: 'Controls' }).textContent).toContain('Select a chip');
  });
});

describe('samples of a range key', () => {
  test('are listed with their frames, lead there, and are removed one by one; damaged ones are refused', async () => {
    const session = shotWith('rangeKey');
    const { user } = showBench(session, <Controls />);
    const { id } = stepOf(session, 'rangeKey');
    const sample = (of: string, frame: number) => ({ of, frame, box: [0, 0, 4, 4], colours: [0.1, 0.4, 0.1] });
    act(() => session.run('samples', setParams(id, { samples: [sample('screen', 3), sample('subject', 9)] }, 1)));
    select(id);
    await user.click(screen.getByRole('button', { name: 'subject · 9' }));
    expect(view.get().frame).toBe(9);
    await user.click(screen.getByRole('button', { name: 'Remove the screen sample of frame 3' }));
    expect(screen.queryByTestId('sample screen 3')).toBeNull();
    expect(screen.getByTestId('sample subject 9')).toBeTruthy();
    expect(session.refusal(setParams(id, { samples: [{ frame: 1 }] }, 1))).toMatch(/samples are damaged/);
    expect(shotOf(session).lanes).toHaveLength(2);
  });
});
