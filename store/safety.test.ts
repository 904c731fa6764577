import './testing/indexed-db';
import type { Shot } from '@/core/document/types';
import { parseShot } from '@/core/document/schema';
import { mediaDb } from '@/engine/browser/media-db';
import * as commands from '@/core/commands/commands';
import { db } from './db';
import { Unreadable, openForEditing } from './editing';
import type { Opened } from './editing';
import type { Entry } from './history';
import { extend, keptHistory } from './history';
import { newShot } from '@/core/commands/make';
import { bringingMedia, freeUnused, keepMedia } from './media';
import { deleteRow, keepRepaired, renameRow } from './shots';
import { stillSource } from '@/core/testing/sources';
import { testLocks } from './testing/web-locks';
import { openShot } from './shot-store';
import { restore, saveVersion, versionsOf } from './versions';

const HOUR = 3_600_000;
const later = (): number => Date.now() + HOUR;
const opens: Opened[] = [];

beforeEach(async () => {
  Object.defineProperty(globalThis, 'navigator', { value: { locks: testLocks(), storage: {} }, configurable: true });
  for (const table of [...db.tables, ...mediaDb.tables]) await table.clear();
});
afterEach(async () => {
  jest.useRealTimers();
  for (const o of opens.splice(0)) await o.close();
});
afterAll(() => void Reflect.deleteProperty(globalThis, 'navigator'));

async function kept(name = 'Saltgate'): Promise<Shot> {
  const shot = newShot(name);
  await db.shots.put({ id: shot.id, name, changed: 1, shot });
  return shot;
}
const open = async (id: string): Promise<Opened> => {
  const opened = await openForEditing(id, () => undefined);
  opens.push(opened);
  return opened;
};
const nowOf = ({ session }: Opened): Shot => session.store.getState().shot;

describe('a shot of another form', () => {
  const stroke = { tool: 'paint', first: 1, last: 9, size: 6, hardness: 1, flow: 1, colour: [1, 0.5, 0], points: [2, 4, 12, 4] };
  /** A shot with a brushed step, as a form kept it. */
  async function keptAs(schema: string, strokes: unknown): Promise<Shot> {
    const made: { lane?: string; step?: string } = {};
    const session = openShot(newShot('old'));
    session.run('lane', commands.emptyLane(made));
    session.run('step', commands.addStep(made.lane!, 'paint', undefined, made));
    const shot = JSON.parse(JSON.stringify({ ...session.store.getState().shot, schema })) as Shot;
    shot.lanes[0]!.steps[0]!.params.strokes = strokes as never;
    await session.close();
    await db.shots.put({ id: shot.id, name: shot.name, changed: 1, shot });
    return shot;
  }

  test('an older one opens as one of today, is saved as that, and so are its versions when they are opened', async () => {
    const old = await keptAs('ostracon/1', JSON.stringify([stroke]));
    await saveVersion(old, 'As it was');
    const opened = await open(old.id);
    expect(nowOf(opened)).toMatchObject({
      schema: 'ostracon/4',
      lanes: [{ steps: [{ params: { strokes: [{ ...stroke, tool: 'tint' }] } }] }],
    });
    opened.session.run('rename', commands.renameShot('today'));
    await opened.session.save();
    expect((await db.shots.get(old.id))!.shot.schema).toBe('ostracon/4');
    const [version] = await versionsOf(old.id);
    opened.session.run('back', restore(version!));
    expect(nowOf(opened).lanes[0]!.steps[0]!.params.strokes).toEqual([{ ...stroke, tool: 'tint' }]);
  });

  test('a later one is shown with what is known of it, says so, and is never written over', async () => {
    const later = await keptAs('ostracon/9', [stroke]);
    Object.assign(later.lanes[0]!.steps[0]!.params, { wobble: 1 });
    await db.shots.put({ id: later.id, name: later.name, changed: 1, shot: later });
    const opened = await open(later.id);
    expect(opened.newer!.join('; ')).toMatch(/later version.*wobble/);
    expect(nowOf(opened).lanes[0]!.steps[0]!.params).toEqual({ strokes: [stroke] });
    expect(() => opened.session.run('rename', commands.renameShot('no'))).toThrow(/written by a later version/);
    await opened.close();
    expect((await db.shots.get(later.id))!.shot).toEqual(later);
  });
});

describe('a shot that is open', () => {
  test('is read after its lock is taken: what another tab saved last is there', async () => {
    const shot = await kept();
    const first = await open(shot.id);
    first.session.run('rename', commands.renameShot('Night'));
    // Closing saves before the lock is let go; whoever opens it then waits for that.
    void first.close();
    const second = await open(shot.id);
    expect(nowOf(second).name).toBe('Night');
    expect(second.session.store.getState().readOnly).toBeNull();
  });

  test('closed, it takes no further change, from work that still goes on', async () => {
    const shot = await kept();
    const opened = await open(shot.id);
    await opened.close();
    expect(() => opened.session.run('late', commands.renameShot('Late'))).toThrow('cancelled');
    expect((await db.shots.get(shot.id))!.name).toBe('Saltgate');
  });

  test('in a second place it is only looked at, and taken over with what the first saved', async () => {
    const shot = await kept();
    const first = await open(shot.id);
    let taken = (): void => undefined;
    const over = new Promise<void>((done) => (taken = done));
    const second = await openForEditing(shot.id, taken);
    opens.push(second);
    expect(() => second.session.run('rename', commands.renameShot('No'))).toThrow('open in another tab');
    first.session.run('rename', commands.renameShot('Night'));
    await first.close();
    await over;
    expect(nowOf(second).name).toBe('Night');
    expect(second.session.undo()).toBe('rename');
  });

  test('that is damaged when a second place could take it over is told of there, and can be repaired', async () => {
    const shot = await kept();
    const first = await open(shot.id);
    let tell = (_: unknown): void => undefined;
    const lost = new Promise<unknown>((done) => (tell = done));
    opens.push(await openForEditing(shot.id, () => undefined, tell));
    await db.shots.update(shot.id, { shot: { ...shot, lanes: 'none' } as unknown as Shot });
    await first.close();
    const why = await lost;
    expect(why).toBeInstanceOf(Unreadable);
    await keepRepaired((why as Unreadable).row, shot);
    expect((await db.shots.get(shot.id))!.shot.lanes).toEqual([]);
  });

  test('is not renamed or deleted from the library, which would be undone by its next save', async () => {
    const shot = await kept();
    const row = (await db.shots.get(shot.id))!;
    const opened = await open(shot.id);
    await expect(renameRow(row, 'Night')).rejects.toThrow(/open in another tab and cannot be renamed/);
    await expect(deleteRow(row)).rejects.toThrow(/cannot be deleted/);
    await opened.close();
    await renameRow(row, 'Night');
    expect((await db.shots.get(shot.id))!.shot.name).toBe('Night');
    await expect(renameRow(row, 'n'.repeat(201))).rejects.toThrow('at most 200 letters');
    const back = await deleteRow(row);
    expect(await db.shots.count()).toBe(0);
    await back();
    expect((await db.shots.get(shot.id))!.name).toBe('Night');
  });

  test('what can be undone is there after it was closed and opened again', async () => {
    const shot = await kept();
    const first = await open(shot.id);
    first.session.run('rename', commands.renameShot('Night'));
    first.session.run('note', commands.addNote(3));
    first.session.undo();
    await first.close();
    const again = await open(shot.id);
    expect(again.session.redo()).toBe('note');
    expect(nowOf(again).notes).toHaveLength(1);
    expect([again.session.undo(), again.session.undo()]).toEqual(['note', 'rename']);
    expect(nowOf(again)).toEqual(shot);
  });

  test('the kept history has a bound, the newest first; a long drag is two values', () => {
    const entry = (label: string, size: number) => ({
      label,
      forward: [{ op: 'replace' as const, path: ['name'], value: 'x'.repeat(size) }],
      back: [],
    });
    const past = [entry('old', 400_000), entry('middle', 300_000), entry('new', 100_000)];
    expect(keptHistory({ past, future: [] }).past.map((e) => e.label)).toEqual(['middle', 'new']);
    const patch = (value: number) => [{ op: 'replace' as const, path: ['frameRate'], value }];
    let drag: Entry = { label: 'drag', forward: patch(1), back: patch(0) };
    for (let i = 2; i < 100; i++) drag = extend(drag, patch(i), patch(i - 1));
    expect(drag).toEqual({ label: 'drag', forward: patch(99), back: patch(0) });
  });
});

describe('saving', () => {
  test('that failed is tried again by itself, later and later, until it works', async () => {
    const shot = await kept();
    const { session } = await open(shot.id);
    const put = jest.spyOn(db.shots, 'put').mockRejectedValue(Object.assign(new Error('no'), { name: 'QuotaExceededError' }));
    session.run('rename', commands.renameShot('Night'));
    await session.save();
    expect(session.store.getState().saved).toBe('failed');
    expect(session.store.getState().problem).toMatch(/tried again by itself/);
    put.mockRestore();
    await new Promise<void>((done) => {
      const stop = session.store.subscribe((s) => {
        if (s.saved !== 'saved') return;
        stop();
        done();
      });
    });
    expect((await db.shots.get(shot.id))!.name).toBe('Night');
  });

  test('nothing that could not be opened again is taken', async () => {
    const shot = await kept();
    const { session } = await open(shot.id);
    const refused: [string, commands.Change, RegExp][] = [
      ['a name', commands.renameShot('x'.repeat(201)), /longer than 200 letters/],
      ['a range', commands.setFormat(shot.format, 24, { first: 0, last: 1.7e9 }), /range.last is beyond frame/],
      ['a long range', commands.setFormat(shot.format, 24, { first: 0, last: 500_000 }), /more than 100000 frames/],
      ['a pixel aspect', commands.setFormat({ width: 9, height: 9, pixelAspect: 1200 }, 24, shot.range), /pixelAspect/],
      ['a width', commands.setFormat({ width: 33_000, height: 9, pixelAspect: 1 }, 24, shot.range), /width/],
      ['a rate', commands.setFormat(shot.format, Infinity, shot.range), /frameRate is not a number/],
      [
        'a source',
        commands.addSource({ ...stillSource('s', 'keeper'), frames: [{ frame: 1, hash: 'no', name: 'a' }] }),
        /"keeper": frames\[0\].hash|hash is not/,
      ],
    ];
    for (const [, change, message] of refused) expect(() => session.run('change', change)).toThrow(message);
    session.run(
      'source',
      commands.addSource({ ...stillSource('s', 'keeper'), frames: [{ frame: 1, hash: 'a'.repeat(64), name: 'f'.repeat(255) }] }),
    );
    session.run('lane', commands.addLane('s'));
    const made: { step?: string } = {};
    session.run('step', commands.addStep(nowOf(opens[0]!).lanes[0]!.id, 'blur', undefined, made));
    expect(() => session.run('size', commands.setParams(made.step!, { size: Infinity }, 1))).toThrow(
      /the step "Blur" of the lane "keeper"/,
    );
    expect(() => parseShot(JSON.parse(JSON.stringify(nowOf(opens[0]!))))).not.toThrow();
  });
});

describe('a shot that cannot be opened', () => {
  test('says so with its row, and is repaired with the old one kept as a version', async () => {
    const shot = await kept();
    await db.shots.update(shot.id, { shot: { ...shot, name: 'x'.repeat(300) } });
    const problem = await openForEditing(shot.id, () => undefined).catch((e: unknown) => e as Unreadable);
    expect(problem).toBeInstanceOf(Unreadable);
    await keepRepaired((problem as Unreadable).row, { ...shot, name: 'Mended' });
    expect(nowOf(await open(shot.id)).name).toBe('Mended');
    expect((await versionsOf(shot.id)).map((v) => v.name)).toEqual(['Before the repair']);
  });
});

describe('clean-up', () => {
  const bring = (hash: string) => keepMedia(hash, { file: new File(['x'], `${hash}.png`) }, false);
  const media = async (): Promise<string[]> => (await mediaDb.media.toArray()).map((r) => r.hash);

  test('waits for nothing and removes nothing while files are brought in', async () => {
    let done = (): void => undefined;
    const busy = bringingMedia(() => new Promise<void>((end) => (done = end)));
    await expect(freeUnused(later())).rejects.toThrow(/being brought in.*nothing was removed/);
    done();
    await busy;
    await expect(freeUnused(later())).resolves.toBe(0);
  });

  test('leaves what was brought in a moment ago and is not named yet', async () => {
    await bring('a'.repeat(64));
    await freeUnused();
    expect(await media()).toHaveLength(1);
    await freeUnused(later());
    expect(await media()).toHaveLength(0);
  });

  test('a source that was removed has its media when that is undone', async () => {
    const shot = await kept();
    const opened = await open(shot.id);
    const source = stillSource('s', 'keeper');
    await bring(source.frames![0]!.hash);
    opened.session.run('source', commands.addSource(source));
    opened.session.run('remove', commands.removeSource('s'));
    await opened.session.save();
    await freeUnused(later());
    expect(await media()).toEqual([source.frames![0]!.hash]);
    opened.session.undo();
    expect(nowOf(opened).sources).toHaveLength(1);
  });

  test('a shot that was deleted a moment ago is put back with its media', async () => {
    const source = stillSource('s', 'keeper');
    const shot = { ...newShot('Saltgate'), sources: [source] };
    await db.shots.put({ id: shot.id, name: shot.name, changed: 1, shot });
    await bring(source.frames![0]!.hash);
    const back = await deleteRow((await db.shots.get(shot.id))!);
    await mediaDb.media.update(source.frames![0]!.hash, { added: 0 });
    await freeUnused();
    await back();
    expect(await media()).toEqual([source.frames![0]!.hash]);
    await deleteRow((await db.shots.get(shot.id))!);
    await freeUnused(later());
    expect(await media()).toEqual([]);
  });
});
