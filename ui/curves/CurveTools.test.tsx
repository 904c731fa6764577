/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { act, screen } from '@testing-library/react';
import { useState } from 'react';
import { isKeyed } from '@/core/document/params';
import type { Key } from '@/core/document/types';
import { setKeys } from '@/store/commands';
import type { ShotSession } from '@/store/shot-store';
import { useSelectedStep } from '../workbench/context';
import { retype, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { CurveTools } from './CurveTools';

const keysOf = (session: ShotSession): readonly Key[] => {
  const p = stepOf(session, 'blur').params.size;
  return isKeyed(p) ? p.keys : [];
};
const frames = (session: ShotSession): number[] => keysOf(session).map((k) => k.frame);

/** The tools on the curve of a blur's size. */
function Tools({ start }: { start: readonly number[] }) {
  const found = useSelectedStep();
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set(start));
  if (!found) return null;
  const param = found.step.params.size;
  const keys = isKeyed(param) ? param.keys : [];
  return (
    <>
      <output data-testid="chosen">{[...chosen].join(' ')}</output>
      <CurveTools
        step={found.step}
        track={{ param: 'size', part: 0, keys } as never}
        chosen={chosen}
        onChosen={setChosen}
        onFit={() => undefined}
      />
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
