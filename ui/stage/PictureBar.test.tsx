import { act, fireEvent, screen } from '@testing-library/react';
import { RGBA } from '@/core/picture';
import { addSource, changeLane } from '@/core/commands/commands';
import { stillSource } from '@/core/testing/sources';
import { laneOf, shotOf, shotWith, showBench } from '../testing/bench';
import { view } from '../workbench/state';
import { PictureBar } from './PictureBar';

function open(available: readonly string[] = RGBA) {
  const session = shotWith('blur');
  const before = shotOf(session);
  const { user } = showBench(session, <PictureBar available={available} zoom={0.73} />);
  const choose = async (title: string, option: string | RegExp): Promise<void> => {
    await user.click(screen.getByRole('button', { name: new RegExp(`^${title}:`) }));
    await user.click(screen.getByRole('menuitem', { name: option }));
  };
  return { session, user, choose, unchanged: () => expect(shotOf(session)).toBe(before) };
}

describe('what is seen', () => {
  test('is said by name, and another lane is chosen and the result again; the shot does not change', async () => {
    const { session, choose, unchanged } = open();
    expect(screen.getByRole('button', { name: 'What is seen: harbour' })).toBeTruthy();
    await choose('What is seen', 'keeper');
    expect(view.get().seen).toEqual({ lane: laneOf(session, 'keeper').id });
    act(() => view.set({ seen: { lane: laneOf(session, 'keeper').id, after: laneOf(session, 'keeper').steps[0]!.id } }));
    expect(screen.getByRole('button', { name: 'What is seen: keeper ▸ Blur' })).toBeTruthy();
    await choose('What is seen', 'Result');
    expect(view.get().seen).toBeNull();
    unchanged();
  });

  test('a lane that is renamed is called so here, too', () => {
    const { session } = open();
    act(() => session.run('rename', changeLane(laneOf(session, 'harbour').id, { name: 'quay' })));
    expect(screen.getByRole('button', { name: 'What is seen: quay' })).toBeTruthy();
  });

  test('layers are offered where there are several, and the spill where a step gives it', async () => {
    open();
    expect(screen.queryByRole('button', { name: /^Layer/ })).toBeNull();
    expect(screen.queryByRole('button', { name: 'Spill' })).toBeNull();
    const { user, choose } = open([...RGBA, 'diffuse.R', 'diffuse.G', 'diffuse.B', 'spill.A']);
    await choose('Layer', 'diffuse');
    expect(view.get().layer).toBe('diffuse');
    const spill = screen.getByText('Spill');
    await user.click(spill);
    expect(view.get()).toMatchObject({ layer: 'spill', channel: 'A' });
    await user.click(spill);
    expect(view.get()).toMatchObject({ layer: '', channel: 'colour' });
  });

  test.each([
    ['R', 'R'],
    ['A', 'A'],
    ['L', 'luma'],
    ['Audit', 'audit'],
    ['Overlay', 'overlay'],
    ['Colour', 'colour'],
  ])('the button %s shows %s and says that it does', async (label, channel) => {
    const { user } = open();
    await user.click(screen.getByText(label));
    expect(view.get().channel).toBe(channel);
    expect(screen.getByText(label).getAttribute('aria-pressed')).toBe('true');
  });
});

describe('how it is seen', () => {
  test('exposure and gamma are turned by the wheel and reset by a double-click', () => {
    const { unchanged } = open();
    const [ev, gamma] = [screen.getByText('EV').parentElement!, screen.getByText('γ').parentElement!];
    fireEvent.wheel(ev, { deltaY: -100 });
    fireEvent.wheel(ev, { deltaY: -100 });
    fireEvent.wheel(ev, { deltaY: -100 });
    expect(view.get().exposure).toBe(1.5);
    expect(ev.textContent).toBe('EV+1.5');
    fireEvent.doubleClick(ev);
    fireEvent.wheel(ev, { deltaY: 100 });
    expect(ev.textContent).toBe('EV−0.5');
    for (let i = 0; i < 80; i++) fireEvent.wheel(gamma, { deltaY: -100 });
    expect(view.get().gamma).toBe(4);
    fireEvent.doubleClick(gamma);
    expect(view.get().gamma).toBe(1);
    unchanged();
  });

  test('the backing is any of the plain ones, three at once, a colour, or a lane', async () => {
    const { session, choose } = open();
    await choose('What lies behind transparent pixels', 'three at once: black, white, grey');
    expect(view.get().backing).toBe('thirds');
    await choose('What lies behind transparent pixels', 'keeper');
    expect(view.get().backing).toBe(`lane ${laneOf(session, 'keeper').id}`);
    await choose('What lies behind transparent pixels', 'a colour');
    fireEvent.change(screen.getByLabelText('Backing colour'), { target: { value: '#ffffff' } });
    expect(view.get().backingColour).toEqual([1, 1, 1]);
  });

  test('colour tables among the sources can be looked through', async () => {
    const { session, choose } = open();
    act(() => session.run('table', addSource({ ...stillSource('lut1', 'night print'), kind: 'lut' })));
    await choose('How light becomes display values', /^night print: a colour table that takes sRGB/);
    expect(view.get().transform).toBe('lut lut1');
  });

  test('the computed size and the zoom are chosen; a zoom begins in the middle', async () => {
    const { choose } = open();
    await choose('Computed size', /^Half/);
    expect(view.get().scale).toBe(0.5);
    expect(screen.getByRole('button', { name: 'Zoom: 73 %' })).toBeTruthy();
    act(() => view.set({ centre: [40, 30] }));
    await choose('Zoom', '200 %');
    expect(view.get()).toMatchObject({ zoom: 2, centre: [0, 0] });
    await choose('Zoom', 'Fit (F)');
    expect(view.get().zoom).toBe('fit');
  });
});

describe('what is shown with it', () => {
  test('filmstrip, guides and the burnt-in text are switched each by itself', async () => {
    const { choose } = open();
    for (const [option, key] of [
      [/Filmstrip/, 'filmstrip'],
      [/Safe areas/, 'guides'],
      [/written in/, 'burnIn'],
    ] as const) {
      await choose('Shown with the picture', option);
      expect(view.get()[key]).toBe(true);
      await choose('Shown with the picture', option);
      expect(view.get()[key]).toBe(false);
    }
  });

  test('one area alone is asked for by a box, said while it holds, and given up by a press', async () => {
    const { choose, user } = open();
    await choose('Shown with the picture', /One area only: drag a box/);
    expect(view.get().areaing).toBe(true);
    act(() => view.set({ areaing: false, area: [0, 0, 10, 10] }));
    await user.click(screen.getByText('Area ×'));
    expect(view.get().area).toBeNull();
  });

  test('while a colour is picked the sample’s size is chosen, and the picker is laid down', async () => {
    const { choose, user } = open();
    expect(screen.queryByRole('button', { name: /^Pixels that a click/ })).toBeNull();
    act(() => view.set({ picking: { step: 'x', param: 'y' } }));
    await choose('Pixels that a click picks from', 'The mean of 11×11 pixels');
    expect(view.get().sampleSize).toBe(11);
    await user.click(screen.getByText(/Picking · Esc/));
    expect(view.get().picking).toBeNull();
  });

  test('the probe keeps its box until it is laid down', async () => {
    const { user } = open();
    await user.click(screen.getByText('Probe'));
    act(() => view.set({ probe: [1, 2, 3, 4] }));
    await user.click(screen.getByText('Probe'));
    expect(view.get()).toMatchObject({ probing: false, probe: null });
  });
});
