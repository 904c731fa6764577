import './testing/indexed-db';
import { produce } from 'immer';
import type { Shot } from '@/core/document/types';
import { stepsOfZone } from '@/core/document/zones';
import { carryLook } from './carry';
import { recipeOf } from '@/core/commands/clipboard';
import * as commands from '@/core/commands/commands';
import { db } from './db';
import { hideMark } from '@/core/assemblies/hide-mark';
import { newShot } from '@/core/commands/make';
import { versionsOf } from './versions';

const after = (shot: Shot, ...changes: commands.Change[]): Shot => changes.reduce((s, c) => produce(s, c), shot);
const made: { lane?: string } = {};
const begun = after(newShot('Here'), commands.emptyLane(made));
const lane = made.lane!;
const here = after(begun, commands.addStep(lane, 'grade', undefined), hideMark({ lane }, [10, 10, 60, 10, 60, 50, 10, 50], 1));
const zone = here.lanes[0]!.zones![0]!;
const recipe = recipeOf(here, stepsOfZone(here.lanes[0]!, zone), 'Mark 1');
const place = { lane: here.lanes[0]!.name, before: 'Grade' };

/** Two shots: one with the same lane and step and another one behind it, one with nothing. */
const put = async (locked = false) => {
  const same = {
    ...after(
      begun,
      commands.addStep(lane, 'grade', undefined),
      commands.addStep(lane, 'blur', undefined),
      commands.changeLane(lane, { locked }),
    ),
    id: 'same',
    name: 'Same',
  };
  const bare = { ...newShot('Bare'), id: 'bare', name: 'Bare' };
  const rows = [same, bare].map((shot) => ({ id: shot.id, name: shot.name, changed: 1, shot }));
  await db.shots.bulkPut(rows);
  return rows;
};

beforeEach(async () => {
  await Promise.all([db.shots.clear(), db.versions.clear(), db.histories.clear()]);
});

describe('a look that is carried on', () => {
  test('stands at the same place; what cannot be done is told; each shot keeps a version; undo puts all back', async () => {
    const rows = await put();
    const { told, undo } = await carryLook(recipe, place, rows);
    expect(told).toEqual([
      { shot: 'Same', lane: place.lane, loose: ['Mark 1'] },
      { shot: 'Bare', loose: [], problem: 'it has no lane' },
    ]);
    const there = (await db.shots.get('same'))!.shot;
    expect(there.lanes[0]!.steps.map((s) => s.type)).toEqual(['grade', 'mosaic', 'blur', 'blur']);
    expect(stepsOfZone(there.lanes[0]!, there.lanes[0]!.zones![0]!).map((s) => s.type)).toEqual(['mosaic', 'blur']);
    expect((await versionsOf('same')).map((v) => v.name)).toEqual(['Before a look was carried on']);
    await undo();
    expect((await db.shots.get('same'))!.shot).toEqual(rows[0]!.shot);
    // Worked on since, it is not thrown back.
    const again = await carryLook(recipe, place, rows.slice(0, 1));
    const worked = { ...(await db.shots.get('same'))!, changed: 77 };
    await db.shots.put(worked);
    await expect(again.undo()).rejects.toThrow('was changed since');
    expect(await db.shots.get('same')).toEqual(worked);
  });

  test('a lane that is locked there is left alone, and told', async () => {
    const rows = await put(true);
    const { told } = await carryLook(recipe, place, rows.slice(0, 1));
    expect(told[0]!.problem).toMatch('is locked');
    expect((await db.shots.get('same'))!.shot).toEqual(rows[0]!.shot);
    expect(await versionsOf('same')).toEqual([]);
  });
});
