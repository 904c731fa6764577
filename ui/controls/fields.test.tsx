import { chosen, saved, savedText } from '../testing/browser';
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { parseCdl } from '@/core/colour/cdl';
import { isLink } from '@/core/document/params';
import type { Stroke } from '@/core/paint/strokes';
import { setParams } from '@/core/commands/commands';
import { JobRow, Jobs } from '../jobs/Jobs';
import { startJob, useJobs } from '../jobs/jobs';
import { laneOf, lastAlert, retype, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { Controls } from './Controls';

beforeEach(() => saved.clear());

function open(...types: string[]) {
  const session = shotWith(...types);
  const { id } = stepOf(session, types[0]!);
  const shown = showBench(session, <Controls />, { selection: { kind: 'step', id } });
  return { session, id, ...shown };
}

describe('a grade and its file', () => {
  test('what is written holds its numbers, and warns of what a CDL cannot hold', async () => {
    const { session, id, user } = open('grade');
    act(() => session.run('set', setParams(id, { slope: [1.2, 1, 0.8], contrast: 1.4 }, 1)));
    await user.click(screen.getByRole('button', { name: 'Write CDL' }));
    await user.click(screen.getByRole('menuitem', { name: '.cc' }));
    expect(screen.getByText(/A CDL has no contrast/)).toBeTruthy();
    const [read] = parseCdl(await savedText('Grade.cc'), 'Grade.cc');
    expect(read!.slope).toEqual([1.2, 1, 0.8]);
  });

  test('read, it sets slope, offset, power and saturation in one undo; a damaged one changes nothing', async () => {
    const { session } = open('grade');
    const bring = (content: string): void =>
      void fireEvent.change(screen.getByLabelText('CDL file'), { target: { files: [chosen(content, 'night.cc')] } });
    bring(
      '<ColorCorrection id="night"><SOPNode><Slope>1.1 1 0.9</Slope><Offset>0.01 0 0</Offset><Power>1 1 1.2</Power></SOPNode><SatNode><Saturation>0.8</Saturation></SatNode></ColorCorrection>',
    );
    await waitFor(() => expect(stepOf(session, 'grade').params.slope).toEqual([1.1, 1, 0.9]));
    expect(stepOf(session, 'grade').params).toMatchObject({ offset: [0.01, 0, 0], power: [1, 1, 1.2], saturation: 0.8 });
    act(() => void session.undo());
    expect(stepOf(session, 'grade').params).toEqual({});
    bring('<ColorCorrection><SOPNode><Slope>one</Slope>');
    await waitFor(() => expect(lastAlert().textContent).toContain('night.cc'));
    expect(stepOf(session, 'grade').params).toEqual({});
  });
});

describe('a colour', () => {
  test('is typed, or picked from the stage while its picker is on', async () => {
    const { session, user, id } = open('screenKey');
    const field = screen.getByRole('textbox', { name: 'Screen colour green' });
    await retype(user, field, '0.4');
    expect(stepOf(session, 'screenKey').params.screenColour).toEqual([0.045, 0.4, 0.073]);
    const pick = screen.getByRole('button', { name: 'Pick Screen colour' });
    await user.click(pick);
    expect(view.get().picking).toEqual({ step: id, param: 'screenColour' });
    await user.click(pick);
    expect(view.get().picking).toBeNull();
  });

  test('of the swatch is light: a code of half is 0.214', () => {
    const { session } = open('screenKey');
    fireEvent.change(screen.getByLabelText('Screen colour swatch'), { target: { value: '#000080' } });
    const [r, g, b] = stepOf(session, 'screenKey').params.screenColour as number[];
    expect([r, g]).toEqual([0, 0]);
    expect(b).toBeCloseTo(0.2159, 3);
  });
});

describe('a parameter that follows another', () => {
  test('is found by name among those of its kind only, and follows at once', async () => {
    const { session, user } = open('blur', 'screenKey');
    act(() => session.run('set', setParams(stepOf(session, 'screenKey').id, { gamma: 2.5 }, 1)));
    fireEvent.contextMenu(screen.getByText('Size'));
    await user.click(screen.getByRole('menuitem', { name: 'Follow another parameter…' }));
    const dialog = screen.getByRole('dialog', { name: 'Size follows' });
    const names = screen.getAllByRole('option', { hidden: true }).map((o) => o.textContent);
    expect(names).toContain('keeper ▸ Screen key ▸ Edge gamma');
    expect(names.some((n) => n.includes('Screen colour'))).toBe(false);
    await user.type(within(dialog).getByRole('combobox'), 'edge gamma{Enter}');
    expect(isLink(stepOf(session, 'blur').params.size)).toBe(true);
    expect((screen.getByRole('textbox', { name: 'Size (px)', hidden: true }) as HTMLInputElement).value).toBe('2.50');
  });
});

describe('a brush', () => {
  const stroke = (first: number, last: number, tool: Stroke['tool'] = 'paint'): Stroke => ({
    tool,
    first,
    last,
    size: 40,
    hardness: 0.5,
    flow: 1,
    colour: [0.2, 0.2, 0.2],
    points: [1, 2, 3, 4],
  });

  test('shows its tip while it is on, and lists the strokes of the frame, which are removed one by one', async () => {
    const { session, id, user } = open('edgeDetail');
    act(() => session.run('brushed', setParams(id, { brush: [stroke(1, 1), stroke(1, 48, 'erase'), stroke(9, 9)] }, 1)));
    expect(screen.queryByRole('slider', { name: 'Brush size' })).toBeNull();
    await user.click(screen.getByRole('button', { name: /Brush on the stage/ }));
    expect(view.get().brushing).toMatchObject({ step: id, param: 'brush' });
    expect(screen.getByRole('slider', { name: 'Brush size' })).toBeTruthy();
    expect(screen.getAllByTestId('stroke').map((s) => s.textContent)).toEqual(['Erased', 'Region']);
    expect(screen.getByTitle('Frames 1–48')).toBeTruthy();
    expect(screen.getByText('2 here, 3 in all')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Remove stroke 1' }));
    expect((stepOf(session, 'edgeDetail').params.brush as unknown as Stroke[]).map((s) => s.first)).toEqual([1, 9]);
    act(() => view.set({ frame: 9 }));
    expect(screen.getAllByTestId('stroke')).toHaveLength(2);
    expect(laneOf(session, 'keeper').steps).toHaveLength(1);
  });

  test('erases, and draws for a frame, from in to out, or for all, as is chosen', async () => {
    const { user } = open('edgeDetail');
    await user.click(screen.getByRole('button', { name: /Brush on the stage/ }));
    await user.click(screen.getByRole('button', { name: 'Erase' }));
    expect(view.get().brush.tool).toBe('erase');
    await user.click(screen.getByRole('combobox', { name: 'Frames of new strokes' }));
    await user.click(screen.getByRole('option', { name: 'In to out' }));
    expect(view.get().brush.frames).toBe('inOut');
  });
});

describe('work under way', () => {
  test('is told in one line, listed on a click, and stopped one by one', async () => {
    useJobs.setState({ list: [] });
    const { user } = showBench(shotWith(), <Jobs />);
    expect(screen.queryByRole('button', { name: 'Work under way' })).toBeNull();
    const jobs: ReturnType<typeof startJob>[] = [];
    act(() => void jobs.push(startJob('export', 'Exporting keeper', 'frames', 48), startJob('report', 'Measuring keeper', 'frames', 10)));
    act(() => jobs[0]!.tell(24, 48));
    expect(screen.getByRole('button', { name: 'Work under way' }).textContent).toBe('2 jobs 25 %');
    await user.click(screen.getByRole('button', { name: 'Work under way' }));
    const list = screen.getByRole('dialog', { name: 'Work under way' });
    expect(list.textContent).toContain('24 of 48 frames');
    await user.click(within(list).getAllByRole('button', { name: /^Stop/ })[0]!);
    expect([jobs[0]!.signal.aborted, jobs[1]!.signal.aborted]).toEqual([true, false]);
    act(() => jobs.forEach((j) => j.end()));
    expect(screen.queryByRole('button', { name: 'Work under way', hidden: true })).toBeNull();
  });

  test('a row says how much is done', () => {
    act(() => void startJob('proxy', 'Proxies of keeper', 'frames', 5));
    const [job] = useJobs.getState().list;
    showBench(shotWith(), <JobRow job={{ ...job!, done: 2 }} />);
    expect(screen.getByText('2 of 5 frames')).toBeTruthy();
    useJobs.setState({ list: [] });
  });
});
