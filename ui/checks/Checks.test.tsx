import '../testing/browser';
import { act, screen, within } from '@testing-library/react';
import { changeSource } from '@/core/commands/commands';
import { Lanes } from '../lanes/Lanes';
import { shotOf, shotWith, showBench } from '../testing/bench';
import { view } from '../workbench/state';
import { Checks } from './Checks';

/** The row of the checks that says something. */
const row = (text: RegExp): HTMLElement => screen.getByText(text).closest<HTMLElement>('.check')!;

describe('checks of the shot', () => {
  test('a source that stands after the shot is told, and brought in by a click', async () => {
    const session = shotWith();
    session.run('late', changeSource('src-keeper', { start: 101, duration: 8 }));
    const { user } = showBench(session, <Checks />);
    const found = row(/stands at 101–108, after the shot/);
    await user.click(within(found).getByRole('button', { name: 'Start at 1' }));
    expect(shotOf(session).sources[1]!.start).toBe(1);
    expect(screen.queryByText(/stands at/)).toBeNull();
  });

  test('the time strip says so as well, and aligns', async () => {
    const session = shotWith();
    session.run('early', changeSource('src-keeper', { start: -40, duration: 8 }));
    const { user } = showBench(session, <Lanes />);
    await user.click(screen.getByRole('button', { name: /-40–-33, before the shot: align/ }));
    expect(shotOf(session).sources[1]!.start).toBe(1);
  });

  test('frames of another size are named, and led to', async () => {
    const session = shotWith();
    const frames = [1, 2, 3].map((frame) => ({
      ...{ frame, hash: `${frame}`.repeat(64), name: `k.${frame}.png` },
      ...(frame === 3 && { size: [32, 18] as const }),
    }));
    session.run('odd', changeSource('src-keeper', { frames: frames as never }));
    act(() => session.run('sequence', (s) => void (s.sources[1]!.kind = 'sequence')));
    const { user } = showBench(session, <Checks />);
    await user.click(within(row(/another size than its 64×36: 3 \(32×18\)/)).getByRole('button', { name: 'Show me' }));
    expect(view.get()).toMatchObject({ frame: 3, selection: { kind: 'source', id: 'src-keeper' }, looked: 'src-keeper' });
  });
});
