import './testing/indexed-db';
import { filesOf } from '@/core/document/media';
import { parseShot } from '@/core/document/schema';
import type { Shot } from '@/core/document/types';
import { accessOf, blobOf, mediaDb, sha256, sha256OfFile } from '@/engine/browser/media-db';
import { writeBundle } from '@/engine/bundle';
import { strToU8, zipSync } from 'fflate';
import { addShot, exportBundle, importBundle } from './bundles';
import { addLane, addSource, addStep, renameShot } from '@/core/commands/commands';
import { db } from './db';
import { newShot } from '@/core/commands/make';
import { accessOfSource, freeUnused, keepMedia, roomFor, sizeText, storage } from './media';
import { changeSettings, defaultSettings, loadSettings, saveSettings } from './settings';
import type { ShotSession } from './shot-store';
import { openShot } from './shot-store';
import { stillSource } from '@/core/testing/sources';
import { restore, saveByItself, saveVersion, versionsOf } from './versions';

/** What the browser says of its room; changed by the tests. */
let room = { usage: 0, quota: 10 ** 9 };
Object.defineProperty(globalThis, 'navigator', {
  value: { storage: { estimate: async () => room }, deviceMemory: 8 },
  configurable: true,
});

beforeEach(async () => {
  room = { usage: 0, quota: 10 ** 9 };
  for (const table of [...db.tables, ...mediaDb.tables]) await table.clear();
});

/** Sessions save a moment after a change: none may do so in a later test. */
const sessions: ShotSession[] = [];
function opened(shot: Shot, readOnly: string | null = null): ShotSession {
  const session = openShot(shot, readOnly);
  sessions.push(session);
  return session;
}
afterEach(async () => {
  for (const s of sessions.splice(0)) await s.save();
});
afterAll(() => void Reflect.deleteProperty(globalThis, 'navigator'));

const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text) as Uint8Array<ArrayBuffer>;
const fileOf = (text: string, name: string): File => new File([bytes(text)], name);

/** A bundle of a shot, each of its files with the same contents. */
async function bundleOf(shot: Shot, content: string): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  await writeBundle(shot, async () => bytes(content), new WritableStream({ write: (chunk) => void parts.push(chunk.slice()) }));
  return Uint8Array.from(Buffer.concat(parts));
}

/** A shot with a source whose file is kept. */
async function shotWithMedia(name = 'Saltgate', content = 'pixels'): Promise<Shot> {
  const hash = await sha256(bytes(content));
  await keepMedia(hash, { file: fileOf(content, 'keeper.png') }, false);
  const session = opened(newShot(name));
  const source = { ...stillSource('s1', 'keeper'), frames: [{ frame: 1, hash, name: 'keeper.png' }] };
  session.run('source', addSource(source));
  session.run('lane', addLane('s1'));
  const { shot } = session.store.getState();
  await session.save();
  await db.shots.put({ id: shot.id, name, changed: 1, shot });
  return shot;
}

describe('a shot is saved by itself', () => {
  test('within a second of a change, and what is kept is what there is', async () => {
    const shot = await shotWithMedia();
    const session = opened(shot);
    session.run('step', addStep(shot.lanes[0]!.id, 'blur', undefined));
    expect(session.store.getState().saved).toBe('saving');
    await session.save();
    expect(session.store.getState().saved).toBe('saved');
    const row = (await db.shots.get(shot.id))!;
    expect(row.shot).toEqual(session.store.getState().shot);
    expect(row.changed).toBeGreaterThan(1);
  });

  test('a tab that only looks never writes', async () => {
    const shot = await shotWithMedia();
    const session = opened(shot, 'open in another tab');
    expect(() => session.run('rename', renameShot('Other'))).toThrow('open in another tab');
    session.refresh();
    await session.save();
    expect((await db.shots.get(shot.id))!.changed).toBe(1);
  });

  test('without room it says so, keeps all of it here, and saves once there is room again', async () => {
    const shot = await shotWithMedia();
    const session = opened(shot);
    const put = jest.spyOn(db.shots, 'put').mockRejectedValueOnce(Object.assign(new Error('no'), { name: 'QuotaExceededError' }));
    session.run('rename', renameShot('Night'));
    await session.save();
    expect(session.store.getState()).toMatchObject({ saved: 'failed', shot: { name: 'Night' } });
    expect(session.store.getState().problem).toMatch(/no room left .* Nothing is lost/);
    put.mockRestore();
    await session.save();
    expect(session.store.getState()).toMatchObject({ saved: 'saved', problem: null });
    expect((await db.shots.get(shot.id))!.name).toBe('Night');
  });
});

describe('versions', () => {
  test('are listed newest first, and make the shot what it was but for its name', async () => {
    const shot = await shotWithMedia();
    const session = opened(shot);
    await saveVersion(shot, 'Plain');
    session.run('step', addStep(shot.lanes[0]!.id, 'blur', undefined));
    session.run('rename', renameShot('Night'));
    await new Promise((done) => setTimeout(done, 2));
    await saveVersion(session.store.getState().shot, 'Plain');
    const rows = await versionsOf(shot.id);
    expect(rows.map((r) => r.name)).toEqual(['Plain 2', 'Plain']);
    session.run('open', restore(rows[1]!));
    expect(session.store.getState().shot).toEqual({ ...shot, name: 'Night' });
    session.undo();
    expect(session.store.getState().shot.lanes[0]!.steps).toHaveLength(1);
  });

  test('by the clock, none is kept of a shot that did not change, and the oldest give way to ten', async () => {
    const shot = await shotWithMedia();
    await saveVersion(shot, 'By hand');
    expect(await saveByItself(shot)).toBeNull();
    jest.spyOn(Date, 'now').mockImplementation(
      (
        (t) => () =>
          ++t
      )(2 ** 41),
    );
    for (let i = 0; i < 14; i++) await saveByItself({ ...shot, frameRate: 24 + i });
    jest.restoreAllMocks();
    const rows = await versionsOf(shot.id);
    expect(rows.filter((r) => r.byItself)).toHaveLength(10);
    expect(rows.some((r) => r.name === 'By hand')).toBe(true);
    expect(rows[0]!.shot.frameRate).toBe(37);
  });
});

describe('bundles', () => {
  test('hold the shot and its media, and come in elsewhere as they went out', async () => {
    const shot = await shotWithMedia();
    const bundle = new File([await exportBundle(shot)], 'night.ostracon');
    for (const table of [db.shots, mediaDb.media]) await table.clear();
    const brought = await importBundle(bundle);
    expect(brought).toEqual(shot);
    const [file] = filesOf(brought.sources[0]!);
    expect(await (await blobOf(file!.hash, file!.name)).text()).toBe('pixels');
  });

  test('where the shot is already, it comes in beside it under a name and an id of its own', async () => {
    const shot = await shotWithMedia();
    const brought = await importBundle(new File([await exportBundle(shot)], 'night.ostracon'));
    expect(brought.name).toBe('Saltgate 2');
    expect(brought.id).not.toBe(shot.id);
    expect(await db.shots.count()).toBe(2);
    expect(await mediaDb.media.count()).toBe(1);
  });

  test.each<[string, (shot: Shot) => Promise<Uint8Array>, RegExp]>([
    ['without its media', async (shot) => zipSync({ 'shot.json': strToU8(JSON.stringify(shot)) }), /keeper\.png.* is not in it/],
    ['with damaged media', (shot) => bundleOf(shot, 'pixelz'), /keeper\.png.* is damaged/],
    ['with a wrong shot', (shot) => bundleOf({ ...shot, frameRate: 'fast' } as unknown as Shot, 'pixels'), /shot\.json cannot be used/],
    ['that is something else', async () => bytes('not a zip at all'), /not a whole bundle/],
  ])('one %s is refused, and nothing of it is kept', async (_, make, message) => {
    const shot = await shotWithMedia();
    const before = [await db.shots.count(), await mediaDb.media.count()];
    const file = new File([(await make(shot)) as Uint8Array<ArrayBuffer>], 'bad.ostracon');
    await expect(importBundle(file)).rejects.toThrow(message);
    expect([await db.shots.count(), await mediaDb.media.count()]).toEqual(before);
  });

  test('a bundle of a shot with a name of the most letters comes in twice', async () => {
    const shot = await shotWithMedia('k'.repeat(200));
    const bundle = await exportBundle(shot);
    for (const end of ['2', '3']) {
      const brought = await importBundle(new File([bundle], 'long.ostracon'));
      expect([brought.name.length, brought.name.at(-1)]).toEqual([200, end]);
      expect(() => parseShot(JSON.parse(JSON.stringify(brought)))).not.toThrow();
    }
  });

  test('one whose media are gone from here cannot be made, and names the file', async () => {
    const shot = await shotWithMedia();
    await mediaDb.media.clear();
    await expect(exportBundle(shot)).rejects.toThrow(/keeper\.png.*not in this browser/);
  });
});

describe('media', () => {
  test('the same file is kept once, whatever it is called', async () => {
    const hash = await sha256(bytes('x'));
    await keepMedia(hash, { file: fileOf('x', 'a.png') }, false);
    await keepMedia(hash, { file: fileOf('x', 'b.png') }, false);
    expect((await mediaDb.media.toArray()).map((r) => r.name)).toEqual(['a.png']);
  });

  test('linked files are read where they lie; one that changed or went is told apart', async () => {
    const state = { text: 'linked', gone: false, permission: 'granted' };
    const handle = {
      getFile: async () => {
        if (state.gone) throw new Error('NotFoundError');
        return fileOf(state.text, 'wall.png');
      },
      queryPermission: async () => state.permission,
    } as unknown as FileSystemFileHandle;
    const row = { hash: 'h', name: 'wall.png', size: 6, handle };
    jest.spyOn(mediaDb.media, 'get').mockImplementation((() => Promise.resolve(row)) as never);
    expect(await (await blobOf('h', 'wall.png')).text()).toBe('linked');
    state.text = 'longer than before';
    await expect(blobOf('h', 'wall.png')).rejects.toThrow(/has changed since/);
    state.gone = true;
    await expect(blobOf('h', 'wall.png')).rejects.toThrow(/moved or deleted/);
    state.permission = 'prompt';
    expect(await accessOf(row)).toBe('asks');
    await expect(blobOf('h', 'wall.png')).rejects.toThrow(/wants your leave/);
    jest.restoreAllMocks();
  });

  test('what a source lacks is named', async () => {
    const shot = await shotWithMedia();
    expect(await accessOfSource(shot.sources[0]!)).toEqual({ access: 'here', missing: [] });
    await mediaDb.media.clear();
    expect(await accessOfSource(shot.sources[0]!)).toEqual({ access: 'gone', missing: ['keeper.png'] });
  });

  test('what would not fit is refused before anything is written, with how much is left', async () => {
    room = { usage: 900e6, quota: 1000e6 };
    await expect(roomFor(200e6, 'plates')).rejects.toThrow(
      /plates: 200 MB are needed and the browser has 33 MB left\. Nothing was brought in/,
    );
    await expect(roomFor(20e6, 'plates')).resolves.toBeUndefined();
  });

  test('unused media go, those of versions stay; versions of deleted shots go with what only they named', async () => {
    const shot = await shotWithMedia('Saltgate', 'one');
    const other = await shotWithMedia('Other', 'two!');
    await saveVersion(shot, 'Plain');
    await keepMedia(await sha256(bytes('loose')), { file: fileOf('loose', 'loose.png') }, false);
    await db.shots.update(shot.id, { shot: { ...shot, sources: [], lanes: [], result: null } });
    expect(await mediaDb.media.count()).toBe(3);
    const later = Date.now() + 3_600_000;
    await freeUnused(later);
    expect((await mediaDb.media.toArray()).length).toBe(2);
    await db.shots.delete(shot.id);
    await freeUnused(later);
    expect(await db.versions.count()).toBe(0);
    expect((await mediaDb.media.toArray()).map((r) => r.hash)).toEqual([filesOf(other.sources[0]!)[0]!.hash]);
  });

  test('what is kept, copied small and linked is counted apart', async () => {
    await shotWithMedia();
    await mediaDb.media.put({ hash: 'l', name: 'l', size: 99, handle: {} as FileSystemFileHandle });
    room = { usage: 500, quota: 1000 };
    expect(await storage()).toEqual({ usage: 500, quota: 1000, media: 6, proxies: 0, linked: 1, stays: false });
  });

  test.each([
    [0, '0 B'],
    [999, '999 B'],
    [1500, '1.5 KB'],
    [20_000_000, '20 MB'],
    [4.2e9, '4.2 GB'],
  ])('%d bytes are %s', (n, text) => expect(sizeText(n)).toBe(text));

  test('a large file is hashed piece by piece to the same', async () => {
    const large = new Uint8Array(65 * 2 ** 20).fill(7);
    expect(await sha256OfFile(new Blob([large]))).toBe(await sha256(large));
  });
});

describe('the library and the settings', () => {
  test('a name that is taken gets a number', async () => {
    const made = [await addShot(newShot('Quay')), await addShot(newShot('Quay')), await addShot(newShot('Quay'))];
    expect(made.map((s) => s.name)).toEqual(['Quay', 'Quay 2', 'Quay 3']);
  });

  test('settings fall back to their defaults where what is stored is no longer valid; a change leaves the others', async () => {
    expect((await loadSettings()).cacheMegabytes).toBe(2048);
    await changeSettings({ surround: 'mid' });
    await changeSettings({ workers: 3 });
    expect(await loadSettings()).toMatchObject({ surround: 'mid', workers: 3, versionMinutes: 20 });
    await expect(saveSettings({ ...defaultSettings(), workers: 99 })).rejects.toThrow();
    await db.settings.put({ key: 'workbench', value: { surround: 'pink', workers: 3 } });
    expect(await loadSettings()).toEqual(defaultSettings());
  });
});
