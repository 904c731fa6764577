import { saved, savedText } from '../testing/browser';
import { screen, waitFor } from '@testing-library/react';
import { parseShot } from '@/core/document';
import type { Shot } from '@/core/document';
import { db, saveVersion } from '@/store';
import type { ShotRow } from '@/store';
import { lastAlert, shotOf, shotWith, showBench } from '../testing/bench';
import { RepairView } from './RepairView';

let opened = 0;
beforeEach(async () => {
  opened = 0;
  saved.clear();
  await Promise.all(db.tables.map((t) => t.clear()));
});

/** A shot that is kept and damaged, as `change` says; it is looked at with what is wrong with it. */
async function damaged(change: (shot: Record<string, unknown>) => void) {
  const session = shotWith('blur', 'grade');
  await session.close();
  const good = shotOf(session);
  const shot = structuredClone(good) as unknown as Record<string, unknown>;
  change(shot);
  const row = { id: good.id, name: 'Slipway', changed: 1, thumbnail: 'data:old', shot: shot as unknown as Shot } satisfies ShotRow;
  await db.shots.put(row);
  const show = () => showBench(session, <RepairView row={row} problem="its lanes are damaged" onRepaired={() => opened++} />);
  return { row, good, show };
}
const steps = (shot: unknown): { type: string; mix: unknown }[] =>
  (shot as Shot).lanes.find((l) => l.name === 'keeper')!.steps as { type: string; mix: unknown }[];
const button = (name: string): HTMLElement => screen.getByRole('button', { name });

describe('a shot that cannot be opened', () => {
  test('says what is wrong and what would be taken out; repaired, it opens, and stays as it was as a version', async () => {
    const { row, show } = await damaged((s) => void (steps(s)[1]!.mix = { a: 1 }));
    const { user } = show();
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('“Slipway” cannot be opened as it is');
    expect(screen.getByText('its lanes are damaged')).toBeTruthy();
    expect(screen.getAllByRole('listitem').map((l) => l.textContent)).toEqual([expect.stringMatching(/Grade.*mix/)]);
    await user.click(button('Repair and open'));
    await waitFor(() => expect(opened).toBe(1));
    const kept = (await db.shots.get(row.id))!.shot;
    expect(() => parseShot(kept)).not.toThrow();
    expect(steps(kept).map((s) => s.mix)).toEqual([1, 1]);
    const [version] = await db.versions.toArray();
    expect(version).toMatchObject({ name: 'Before the repair', thumbnail: 'data:old' });
    expect(steps(version!.shot)[1]!.mix).toEqual({ a: 1 });
  });

  test('goes back to a version', async () => {
    const { row, good, show } = await damaged((s) => void (s.lanes = 'none'));
    await saveVersion({ ...good, name: 'Before' }, 'Good one', '');
    const { user } = show();
    await user.click(await screen.findByRole('button', { name: 'Open this' }));
    await waitFor(() => expect(opened).toBe(1));
    expect(steps((await db.shots.get(row.id))!.shot).map((s) => s.type)).toEqual(['blur', 'grade']);
  });

  test('is taken out as it is, damage and all', async () => {
    const { row, show } = await damaged((s) => void (s.lanes = 'none'));
    const { user } = show();
    await user.click(button('Take it out as JSON'));
    expect(JSON.parse(await savedText('Slipway.json'))).toEqual(row.shot);
    expect(opened).toBe(0);
    // Nothing of it was touched.
    expect((await db.shots.get(row.id))!.shot).toEqual(row.shot);
  });

  test('what is beyond repair says so, and offers none', async () => {
    const { show } = await damaged((s) => ['sources', 'lanes', 'readings', 'notes'].forEach((list) => delete s[list]));
    show();
    expect(screen.queryByRole('button', { name: 'Repair and open' })).toBeNull();
    expect(screen.getByRole('main').textContent).toMatch(/nothing of it can be kept/);
    expect(button('Take it out as JSON')).toBeTruthy();
  });

  test('what cannot be kept is told, and opens nothing', async () => {
    const { show } = await damaged((s) => void (steps(s)[1]!.mix = { a: 1 }));
    const put = jest.spyOn(db.shots, 'put').mockRejectedValue(Object.assign(new Error('no'), { name: 'QuotaExceededError' }));
    try {
      const { user } = show();
      await user.click(button('Repair and open'));
      await waitFor(() => expect(lastAlert().textContent).not.toBe('its lanes are damaged'));
      expect(opened).toBe(0);
    } finally {
      put.mockRestore();
    }
  });
});
