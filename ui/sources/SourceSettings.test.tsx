import { act, screen } from '@testing-library/react';
import type { Source } from '@/core/document/types';
import type { ShotSession } from '@/store/shot-store';
import { retype, shotOf, shotWith, showBench } from '../testing/bench';
import { useShotPart } from '../workbench/context';
import { SourceSettings } from './SourceSettings';

const sourceOf = (session: ShotSession): Source => shotOf(session).sources.find((s) => s.name === 'keeper')!;

/** The settings of a source, changed from a still of 64×36 as is said. */
function open(change: Partial<Source>) {
  const session = shotWith();
  session.run(
    'source',
    (s) =>
      void Object.assign(
        s.sources.find((x) => x.name === 'keeper')!,
        change,
      ),
  );
  function Settings() {
    const source = useShotPart('sources').find((s) => s.name === 'keeper')!;
    return <SourceSettings source={source} onLayers={() => undefined} />;
  }
  const { user, container } = showBench(session, <Settings />);
  const choose = async (box: string, option: string): Promise<void> => {
    await user.click(screen.getByRole('combobox', { name: box }));
    await user.click(screen.getByRole('option', { name: option }));
  };
  const type = async (name: string, text: string): Promise<void> => {
    const field = screen.getByRole('textbox', { name });
    await retype(user, field, text);
  };
  return { session, choose, type, user, text: () => container.textContent };
}

const sequence = (numbers: readonly number[]): Partial<Source> => ({
  kind: 'sequence',
  frames: numbers.map((frame) => ({ frame, hash: String(frame % 10).repeat(64), name: `keeper.${frame}.png` })),
  start: 101,
});

describe('how a source is understood', () => {
  test('says its size and kind, and a guess is shown as one until somebody chooses', async () => {
    const { session, choose, text } = open({ colourReason: 'PNG files mostly hold it' });
    expect(text()).toContain('64×36 · PNG');
    expect(text()).toContain('A guess: PNG files mostly hold it.');
    await choose('Colour', 'ACEScg');
    expect(sourceOf(session).colourSpace).toBe('ACEScg');
    expect(text()).not.toContain('A guess');
  });

  test('why its alpha may be wrong is said until somebody chooses', async () => {
    const { session, choose, text } = open({ alpha: 'premultiplied', alphaDoubt: 'some pixels are brighter than their alpha allows' });
    expect(text()).toContain('brighter than their alpha allows');
    await choose('Alpha', 'Straight');
    expect(sourceOf(session).alpha).toBe('straight');
    expect(sourceOf(session).alphaDoubt).toBeUndefined();
  });

  test('layers of a pass set are counted, those of one layer are named', () => {
    expect(open({ channels: ['R', 'G', 'B', 'A', 'diffuse.R', 'diffuse.G', 'diffuse.B', 'Z'] }).text()).toContain('2 layers');
    expect(open({ channels: ['R', 'G', 'B', 'A'] }).text()).toContain('R G B A');
  });

  test('what its header says is there to read, long values cut', () => {
    const { text } = open({
      attributes: [
        ['camera', 'Brass 35'],
        ['comment', 'x'.repeat(300)],
      ],
    });
    expect(text()).toContain('camera Brass 35');
    expect(text()).toContain(`${'x'.repeat(200)}…`);
  });
});

describe('when it is there', () => {
  test('a sequence says its gaps, and what is shown for a frame that is missing is chosen', async () => {
    const { session, choose, text } = open(sequence([1, 2, 3, 6, 7, 9]));
    expect(text()).toContain('4–5');
    expect(text()).toContain('8');
    expect(text()).toContain('ends at 109');
    await choose('Missing', 'Hold the one before');
    expect(sourceOf(session).missing).toBe('hold');
  });

  test('frames are left out at both ends, not beyond those that there are; the first that is used stays at the start', async () => {
    const { session, type, text } = open(sequence([1, 2, 3, 4, 5, 6]));
    await type('First frame used', '3');
    expect(sourceOf(session).trim).toEqual({ first: 3, last: 6 });
    expect(text()).toContain('ends at 104');
    await type('Last frame used', '9');
    expect(sourceOf(session).trim).toEqual({ first: 3, last: 6 });
    expect(screen.getByRole('textbox', { name: 'Last frame used' }).getAttribute('aria-invalid')).toBe('true');
  });

  test('frames of another size are named', () => {
    const odd = sequence([1, 2]);
    const { text } = open({ ...odd, frames: [odd.frames![0]!, { ...odd.frames![1]!, size: [32, 18] }] });
    expect(text()).toContain('keeper.2.png is 32×18');
  });

  test('one that keeps its own time ends later at a slower rate', async () => {
    const { session, choose, type, text } = open(sequence([1, 2, 3, 4, 5, 6]));
    await choose('Rate', 'Its own time');
    expect(sourceOf(session).rate).toBe(24);
    expect(text()).toContain('ends at 106');
    await type('Frames a second', '12');
    expect(text()).toContain('ends at 112');
    await choose('Rate', 'Frame by frame');
    expect(sourceOf(session).rate).toBeUndefined();
  });

  test('a still is there always, or for some frames', async () => {
    const { session, choose, type } = open({});
    await choose('There', 'For some frames');
    expect(sourceOf(session)).toMatchObject({ start: 1, duration: 48 });
    await type('Starts at', '12');
    await type('Duration', '10');
    expect(sourceOf(session)).toMatchObject({ start: 12, duration: 10 });
    act(() => void session.undo());
    expect(sourceOf(session).duration).toBe(48);
    await choose('There', 'Always');
    expect(sourceOf(session).duration).toBeUndefined();
  });

  test('a colour table has neither size nor alpha nor time', () => {
    const { text } = open({ kind: 'lut' });
    expect(text()).toContain('Table');
    for (const label of ['Alpha', 'Starts at', 'Make proxy']) expect(text()).not.toContain(label);
  });
});
