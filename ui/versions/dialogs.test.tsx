import { chosen, saved, savedText } from '../testing/browser';
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { db } from '@/store/db';
import { loadSettings } from '@/store/settings';
import { recipeOf } from '@/core/commands/clipboard';
import { addStep, setParams } from '@/core/commands/commands';
import { saveVersion } from '@/store/versions';
import { RecipesDialog } from '../recipes/RecipesDialog';
import { SettingsDialog } from '../settings/SettingsDialog';
import { laneOf, lastAlert, retype, shotOf, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { VersionsDialog } from './VersionsDialog';

let closed = 0;
const close = (): void => void closed++;
beforeEach(async () => {
  closed = 0;
  saved.clear();
  for (const table of [db.shots, db.versions, db.recipes, db.settings]) await table.clear();
});

describe('settings', () => {
  test('are kept for the browser, and put to use at once', async () => {
    const { user } = showBench(shotWith(), <SettingsDialog onClose={close} />);
    const field = await screen.findByRole('textbox', { name: 'Version every (min)' });
    await retype(user, field, '45');
    await user.click(screen.getByRole('combobox', { name: 'Around the picture' }));
    await user.click(screen.getByRole('option', { name: 'Light grey' }));
    await user.click(screen.getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(closed).toBe(1));
    expect(await loadSettings()).toMatchObject({ versionMinutes: 45, surround: 'light' });
    expect(view.get().surround).toBe('light');
  });

  test('cancelled, nothing changes; what is out of range is refused in its field', async () => {
    const { user } = showBench(shotWith(), <SettingsDialog onClose={close} />);
    const field = await screen.findByRole('textbox', { name: 'Cache (MB)' });
    await retype(user, field, '10');
    expect(field.getAttribute('aria-invalid')).toBe('true');
    await user.click(screen.getByRole('button', { name: 'Cancel' }));
    expect(closed).toBe(1);
    expect(await db.settings.count()).toBe(0);
  });
});

describe('versions', () => {
  test('one is opened, which an undo takes back; one is deleted', async () => {
    const session = shotWith('blur');
    await saveVersion(shotOf(session), 'Plain', '');
    session.run('more', addStep(laneOf(session, 'keeper').id, 'grade', undefined));
    const { user } = showBench(session, <VersionsDialog onClose={close} />);
    const row = within(await screen.findByTestId('version Plain'));
    await user.click(row.getByRole('button', { name: 'Open' }));
    expect(laneOf(session, 'keeper').steps.map((s) => s.type)).toEqual(['blur']);
    expect(closed).toBe(1);
    act(() => void session.undo());
    expect(laneOf(session, 'keeper').steps.map((s) => s.type)).toEqual(['blur', 'grade']);
    await user.click(row.getByRole('button', { name: 'Delete version Plain' }));
    await waitFor(() => expect(screen.queryByTestId('version Plain')).toBeNull());
    expect(await db.versions.count()).toBe(0);
  });

  test('one is set against another: the choice is made in two presses and can be taken back', async () => {
    const session = shotWith();
    for (const name of ['Soft', 'Hard']) await saveVersion(shotOf(session), name, '');
    const { user } = showBench(session, <VersionsDialog onClose={close} />);
    const soft = within(await screen.findByTestId('version Soft'));
    await user.click(soft.getByRole('button', { name: 'with another' }));
    const hard = within(screen.getByTestId('version Hard'));
    expect(hard.getByRole('button', { name: 'With Soft' })).toBeTruthy();
    await user.click(soft.getByRole('button', { name: 'Chosen ×' }));
    expect(hard.getByRole('button', { name: 'Compare with now' })).toBeTruthy();
  });

  test('without any it says what they are', async () => {
    showBench(shotWith(), <VersionsDialog onClose={close} />);
    expect(await screen.findByText(/^No versions yet/)).toBeTruthy();
  });
});

describe('recipes', () => {
  test('the selected step is kept, used in another lane, and taken out as JSON', async () => {
    const session = shotWith('blur');
    const { id } = stepOf(session, 'blur');
    session.run('size', setParams(id, { size: 17 }, 1));
    const { user } = showBench(session, <RecipesDialog onClose={close} />, { selection: { kind: 'step', id } });
    await user.type(screen.getByRole('textbox', { name: 'Name of the recipe' }), 'Night haze');
    await user.click(screen.getByRole('button', { name: 'Keep this step' }));
    const row = within(await screen.findByTestId('recipe Night haze'));
    expect(row.getByText('Blur')).toBeTruthy();

    await user.click(row.getByRole('button', { name: 'Take out' }));
    const file = JSON.parse(await savedText('Night haze.recipe.json')) as { steps: { params: unknown }[] };
    expect(file.steps.map((s) => s.params)).toEqual([{ size: 17 }]);

    act(() => view.set({ selection: { kind: 'lane', id: laneOf(session, 'harbour').id } }));
    await user.click(row.getByRole('button', { name: 'Use' }));
    const added = laneOf(session, 'harbour').steps.find((s) => s.type === 'blur')!;
    expect(added.params).toEqual({ size: 17 });
    expect(added.id).not.toBe(id);
    expect(closed).toBe(1);
  });

  test('a file is brought in; one that is none is refused with its name', async () => {
    const session = shotWith('blur');
    showBench(session, <RecipesDialog onClose={close} />);
    const bring = (content: string, name: string): void =>
      void fireEvent.change(screen.getByLabelText('Recipe file'), { target: { files: [chosen(content, name)] } });
    bring(JSON.stringify(recipeOf(shotOf(session), [stepOf(session, 'blur')], 'Haze')), 'haze.json');
    expect(await screen.findByTestId('recipe Haze')).toBeTruthy();
    bring('{"steps": 3}', 'other.json');
    await waitFor(() => expect(lastAlert().textContent).toContain('other.json'));
    expect(await db.recipes.count()).toBe(1);
  });
});
