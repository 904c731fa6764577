import { act, screen } from '@testing-library/react';
import { useState } from 'react';
import { isKeyed } from '@/core/document/params';
import type { Key } from '@/core/document/types';
import { setKeys } from '@/core/commands/commands';
import { addShapes, shapesIn } from '@/core/commands/shapes';
import type { ShotSession } from '@/store/shot-store';
import { useSelectedStep } from '../workbench/context';
import { retype, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { CurveTools } from './CurveTools';
import { tracksOf } from './track';

const keysOf = (session: ShotSession): readonly Key[] => {
  const p = stepOf(session, 'blur').params.size;
  return isKeyed(p) ? p.keys : [];
};
const frames = (session: ShotSession): number[] => keysOf(session).map((k) => k.frame);

/** The tools on the first curve of the selected step. */
function Tools({ start }: { start: readonly number[] }) {
  const found = useSelectedStep();
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set(start));
  const track = found && tracksOf(found.step)[0];
  if (!track) return null;
  return (
    <>
      <output data-testid="chosen">{[...chosen].join(' ')}</output>
      <CurveTools track={track} chosen={chosen} onChosen={setChosen} onFit={() => undefined} />
    </>
  );
}

function open(values: readonly (readonly [number, number])[], chosen: readonly number[] = []) {
  const session = shotWith('blur');
  const { id } = stepOf(session, 'blur');
  session.run(
    'keys',
    setKeys(
      id,
      'size',
      values.map(([frame, value]) => ({ frame, value, ease: 'linear' as const })),
      1,
    ),
  );
  const shown = showBench(session, <Tools start={chosen} />);
  act(() => view.set({ selection: { kind: 'step', id } }));
  const press = (name: string): Promise<void> => shown.user.click(screen.getByRole('button', { name }));
  const type = async (name: string, text: string): Promise<void> => {
    const field = screen.getByRole('textbox', { name });
    await retype(shown.user, field, text);
  };
  return { session, press, type, chosen: () => screen.getByTestId('chosen').textContent };
}

describe('keys of a curve', () => {
  test('a key is added on the curve, so that nothing changes', async () => {
    const { session, press, chosen } = open([
      [1, 2],
      [11, 12],
    ]);
    act(() => view.set({ frame: 6 }));
    await press('Add');
    expect(keysOf(session)[1]).toMatchObject({ frame: 6, value: 7 });
    expect(chosen()).toBe('6');
  });

  test('the chosen are eased, the others stay', async () => {
    const { session, press } = open(
      [
        [1, 2],
        [5, 9],
        [9, 2],
      ],
      [5],
    );
    await press('Hold');
    expect(keysOf(session).map((k) => k.ease)).toEqual(['linear', 'hold', 'linear']);
  });

  test('the chosen are deleted; without a choice the button does nothing', async () => {
    open([
      [1, 2],
      [5, 9],
    ]);
    expect(screen.getByRole('button', { name: 'Delete' })).toHaveProperty('disabled', true);
    const again = open(
      [
        [1, 2],
        [5, 9],
      ],
      [5],
    );
    await again.press('Delete');
    expect(frames(again.session)).toEqual([1]);
  });

  test('copied, they are pasted at the current frame with their distances', async () => {
    const { session, press } = open(
      [
        [1, 2],
        [4, 9],
      ],
      [1, 4],
    );
    await press('Copy');
    act(() => view.set({ frame: 20 }));
    await press('Paste');
    expect(keysOf(session).map((k) => [k.frame, k.value])).toEqual([
      [1, 2],
      [4, 9],
      [20, 2],
      [23, 9],
    ]);
  });

  test('a lone key is moved and set by numbers', async () => {
    const { session, type, chosen } = open(
      [
        [1, 2],
        [4, 9],
      ],
      [4],
    );
    await type("Key's frame", '8');
    expect(frames(session)).toEqual([1, 8]);
    expect(chosen()).toBe('8');
    await type("Key's value", '5.5');
    expect(keysOf(session)[1]!.value).toBe(5.5);
  });

  test('several are scaled about their middle, and stretched in time from the first', async () => {
    const { session, type } = open(
      [
        [10, 0],
        [12, 10],
        [20, 4],
      ],
      [10, 12],
    );
    await type('Scale values of the chosen keys', '2');
    expect(keysOf(session).map((k) => k.value)).toEqual([-5, 15, 4]);
    await type('Scale times of the chosen keys', '3');
    expect(frames(session)).toEqual([10, 16, 20]);
  });

  test('those that a straight curve does not need are thinned out', async () => {
    const { session, press } = open([
      [1, 0],
      [3, 2],
      [5, 4],
      [9, 8],
      [12, 0],
    ]);
    await press('Thin out');
    expect(frames(session)).toEqual([1, 9, 12]);
    expect(screen.getByText(/2 of 5 keys were needless/)).toBeTruthy();
  });
});

describe('keys of a shape', () => {
  /** A square that goes 8 px to the right over frames 1 to 9, with a key that nothing needs between. */
  const square = (x: number): number[] =>
    [
      [x, 0],
      [x + 10, 0],
      [x + 10, 10],
      [x, 10],
    ].flatMap(([u, v]) => [u!, v!, 0, 0, 0, 0, 0]);

  function openShape(chosen: readonly number[]) {
    const session = shotWith('roto');
    const { id } = stepOf(session, 'roto');
    const keys = [1, 5, 9].map((frame) => ({ frame, ease: 'linear' as const, value: square(frame - 1) }));
    session.run('draw', addShapes(id, [{ keys, name: 'Coat' }], 1));
    const shown = showBench(session, <Tools start={chosen} />);
    act(() => view.set({ selection: { kind: 'step', id } }));
    const now = () => shapesIn(stepOf(session, 'roto'))[0]!.keys;
    return { session, now, press: (name: string) => shown.user.click(screen.getByRole('button', { name })) };
  }

  test('are one curve: how far its points have gone, without a value to lift', () => {
    const { session } = openShape([5]);
    const [track] = tracksOf(stepOf(session, 'roto'));
    expect([track!.title, track!.part]).toEqual(['Coat', null]);
    expect(track!.keys.map((k) => track!.read(k.value))).toEqual([0, 4, 8]);
    expect(screen.queryByRole('textbox', { name: "Key's value" })).toBeNull();
    expect(screen.getByRole('textbox', { name: "Key's frame" })).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Flat' })).toBeNull();
  });

  test('are thinned out, eased, deleted, copied to another frame; the last one stays', async () => {
    const { now, press } = openShape([]);
    await press('Thin out');
    expect(now().map((k) => k.frame)).toEqual([1, 9]);
    await press('Hold');
    expect(now().map((k) => k.ease)).toEqual(['hold', 'hold']);
    await press('Copy');
    act(() => view.set({ frame: 21 }));
    await press('Paste');
    expect(now().map((k) => [k.frame, k.value[0]])).toEqual([
      [1, 0],
      [9, 8],
      [21, 0],
      [29, 8],
    ]);
    await press('Delete');
    expect(now().map((k) => k.frame)).toEqual([1, 9]);
  });

  test('all of them are not taken away', async () => {
    const { now, press } = openShape([1, 5, 9]);
    await press('Delete');
    expect(now()).toHaveLength(3);
  });
});
