import { act, screen, within } from '@testing-library/react';
import type { Source } from '@/core/document/types';
import { idAttributes, hexOfId, idOfName } from '@/core/formats/cryptomatte';
import type { PassNote } from '@/core/passes/roles';
import { roledPasses } from '@/core/passes/roles';
import type { ShotSession } from '@/store/shot-store';
import { Controls } from '../controls/Controls';
import { retype, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import { useShotPart } from '../workbench/context';
import { view } from '../workbench/state';
import { PassRole } from './PassRole';

const CHANNELS = [
  ...['R', 'G', 'B', 'A', 'Z'],
  ...['diffuse', 'specular', 'light_fill'].flatMap((l) => ['R', 'G', 'B'].map((c) => `${l}.${c}`)),
  ...['R', 'G', 'B', 'A'].map((c) => `CryptoObject00.${c}`),
];
const source = (s: ShotSession): Source => shotOf(s).sources.find((x) => x.name === 'keeper')!;

/** The lane of a render, and a step on it that is selected. */
function rendered(type: string, passes: Record<string, PassNote> = {}): ShotSession {
  const session = shotWith(type);
  session.run('render', (s) => {
    const keeper = s.sources.find((x) => x.name === 'keeper')!;
    Object.assign(keeper, { channels: [...CHANNELS], passes, attributes: Object.entries(idAttributes('CryptoObject', ['buoy', 'chain'])) });
  });
  return session;
}

/** Its controls. */
function controlsOf(type: string) {
  const session = rendered(type);
  const { user } = showBench(session, <Controls />, { selection: { kind: 'step', id: stepOf(session, type).id } });
  return { session, user };
}

describe('the parts of a step', () => {
  test('are added from the picture’s passes, changed, and taken away with what belongs to them', async () => {
    const { session, user } = controlsOf('rebuildBeauty');
    await user.click(screen.getByRole('button', { name: 'Add all 2' }));
    const part = screen.getByRole('group', { name: 'specular' });
    await retype(user, within(part).getByRole('textbox', { name: 'Gain (stops)' }), '1.5');
    expect(stepOf(session, 'rebuildBeauty').params['specular.gain']).toBe(1.5);
    await user.click(within(part).getByRole('switch', { name: 'specular on' }));
    expect(stepOf(session, 'rebuildBeauty').params['specular.on']).toBe(false);
    await user.click(within(part).getByTitle('All of it'));
    expect(within(part).getByRole('textbox', { name: 'Saturation' })).toBeTruthy();
    await user.click(within(part).getByRole('button', { name: 'Take specular away' }));
    expect(Object.keys(stepOf(session, 'rebuildBeauty').params)).toEqual(['parts']);
  });

  test('a part is keyed as any parameter is', async () => {
    const { session, user } = controlsOf('lightMix');
    await user.click(screen.getByRole('button', { name: 'Add a pass' }));
    await user.click(screen.getByRole('menuitem', { name: /light_fill/ }));
    act(() => view.set({ frame: 5 }));
    await user.click(within(screen.getByRole('group', { name: 'light_fill' })).getByRole('button', { name: 'Key of Gain' }));
    expect(stepOf(session, 'lightMix').params['light_fill.gain']).toMatchObject({ keys: [{ frame: 5, value: 0 }] });
  });
});

describe('things that are picked', () => {
  test('are found by the names of the render, and dropped', async () => {
    const { session, user } = controlsOf('idMatte');
    await user.click(screen.getByPlaceholderText('Add by name: 2 things'));
    await user.click(screen.getByRole('option', { name: 'chain' }));
    expect(stepOf(session, 'idMatte').params.things).toEqual([{ id: hexOfId(idOfName('chain')), name: 'chain' }]);
    await user.click(screen.getByRole('button', { name: 'Drop chain' }));
    expect(stepOf(session, 'idMatte').params.things).toEqual([]);
  });

  test('a mask by ID is a lane of its own, picked at once', async () => {
    const { session, user } = controlsOf('grade');
    const grade = stepOf(session, 'grade').id;
    await user.click(screen.getByRole('button', { name: 'By ID' }));
    const matte = stepOf(session, 'idMatte');
    expect(view.get().picking).toMatchObject({ step: matte.id, data: 'id' });
    expect(
      shotOf(session)
        .lanes.flatMap((l) => l.steps)
        .find((s) => s.id === grade)!.mask,
    ).toBeTruthy();
  });
});

describe('what a pass is for', () => {
  function open(notes: Record<string, PassNote>) {
    const session = rendered('grade', notes);
    function Z() {
      const keeper = useShotPart('sources').find((s) => s.name === 'keeper')!;
      return <PassRole source={keeper} pass={roledPasses(keeper.channels, keeper.passes).find((p) => p.name === 'Z')!} />;
    }
    return { session, ...showBench(session, <Z />) };
  }

  test('a guess says why and what is in doubt, until it is chosen', async () => {
    const { session, user } = open({ Z: { role: 'depth', reason: 'between 0 and 1', doubt: 'what 0 is cannot be told' } });
    expect(screen.getByText('between 0 and 1.')).toBeTruthy();
    expect(screen.getByText('what 0 is cannot be told.')).toBeTruthy();
    await user.click(screen.getByRole('combobox', { name: 'Z: is' }));
    await user.click(screen.getByRole('option', { name: '0 far, 1 near' }));
    await retype(user, screen.getByRole('textbox', { name: 'Z: distance of 0' }), '40');
    expect(source(session).passes!.Z).toEqual({ role: 'depth', facts: { as: 'nearness', from: [40, 1] } });
    expect(screen.queryByText('between 0 and 1.')).toBeNull();
  });
});
