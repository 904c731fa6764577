import './testing/indexed-db';
import { readFile } from 'node:fs/promises';
import { newShot } from '@/core/commands/make';
import type { Shot } from '@/core/document/types';
import type { WorkerPool } from '@/engine/browser';
import { mediaDb } from '@/engine/browser/media-db';
import { inspectAny } from '@/engine/inspect-any';
import { db } from './db';
import { DemoFilm, demoState } from './demo';

const picture = new Uint8Array(await readFile('demo/media/sg010/harbour.png'));
/** Pictures that differ in what follows their end, so that each has a hash of its own. */
const pictureOf = (n: number): Uint8Array => new Uint8Array([...picture, n]);

const shotOf = (id: string, path: string) => ({
  ...newShot(`${id.toUpperCase()} test`),
  id,
  range: { first: 1, last: 3 },
  sources: [{ id: 'src', name: 'plate', path }],
  lanes: [{ id: 'lane', name: 'plate', start: { source: 'src' }, steps: [], muted: false, collapsed: false }],
  result: 'lane',
});

/** What the server has; asked for more it says that there is no such file. */
let served: Record<string, unknown>;
let asked: string[];

beforeEach(async () => {
  asked = [];
  served = {
    shots: ['sg1.json', 'sg2.json'],
    'shots/sg1.json': shotOf('sg1', '../media/one/a.####.png'),
    'shots/sg2.json': shotOf('sg2', '../media/one/a.####.png'),
    'media/one': ['a.0001.png', 'a.0002.png', 'a.0003.png', 'other.txt'],
    ...Object.fromEntries([1, 2, 3].map((n) => [`media/one/a.000${n}.png`, pictureOf(n)])),
  };
  globalThis.fetch = (async (url: string) => {
    const path = url.replace('/api/demo/', '');
    asked.push(path);
    const found = served[path];
    if (found === undefined) return new Response('no', { status: 404 });
    return found instanceof Uint8Array ? new Response(found.slice()) : Response.json(structuredClone(found));
  }) as typeof fetch;
  await Promise.all([db.shots.clear(), db.settings.clear(), db.films.clear(), db.versions.clear(), mediaDb.media.clear()]);
});

const pool = {
  inspect: async (file: File) => ({ info: await inspectAny(new Uint8Array(await file.arrayBuffer()), file.name), hash: '' }),
} as unknown as WorkerPool;

const film = (thumbnail: (shot: Shot) => Promise<string> = async (shot) => `picture of ${shot.id}`): DemoFilm =>
  new DemoFilm(() => pool, thumbnail);
const silent = (): void => undefined;

describe('the demo film', () => {
  test('comes in shot by shot: media once, counted as they come, each shot with its thumbnail, all in one film', async () => {
    const told: string[] = [];
    await film().seed((done, of) => told.push(`${done}/${of}`));
    expect(told).toEqual(['1/3', '2/3', '3/3', '1/3', '2/3', '3/3']);
    expect(asked.filter((a) => a.endsWith('0002.png'))).toHaveLength(1);
    expect(await mediaDb.media.count()).toBe(3);
    const rows = await db.shots.orderBy('id').toArray();
    expect(rows.map((r) => [r.id, r.thumbnail])).toEqual([
      ['sg1', 'picture of sg1'],
      ['sg2', 'picture of sg2'],
    ]);
    const [source] = rows[0]!.shot.sources;
    expect(source).toMatchObject({ kind: 'sequence', container: 'PNG', format: { width: 960, height: 540 } });
    expect(source!.frames!.map((f) => [f.frame, f.name])).toEqual([
      [1, 'a.0001.png'],
      [2, 'a.0002.png'],
      [3, 'a.0003.png'],
    ]);
    expect((await db.films.toArray()).map((f) => f.shots)).toEqual([['sg1', 'sg2']]);
  });

  test('files of the next shot come while a thumbnail is worked out', async () => {
    served['shots/sg2.json'] = shotOf('sg2', '../media/two/b.png');
    served['media/two/b.png'] = pictureOf(9);
    let show = (_: string): void => undefined;
    const first = new Promise<string>((done) => (show = done));
    const coming = film((shot) => (shot.id === 'sg1' ? first : Promise.resolve('second'))).seed(silent);
    for (let i = 0; i < 1000 && !asked.includes('media/two/b.png'); i++) await new Promise((done) => setTimeout(done, 5));
    expect(asked).toContain('media/two/b.png');
    expect(await db.shots.count()).toBe(0);
    show('first');
    await coming;
    expect((await db.shots.orderBy('id').toArray()).map((r) => r.thumbnail)).toEqual(['first', 'second']);
  });

  test('is not brought in again, nor a shot that was deleted since; a shot that is here stays as it is', async () => {
    await film().seed(silent);
    await db.shots.delete('sg2');
    await db.shots.update('sg1', { name: 'Mine' });
    asked = [];
    await film().seed(silent);
    expect(asked).toEqual(['shots']);
    expect((await db.shots.toArray()).map((r) => r.name)).toEqual(['Mine']);
  });

  test('a file that is missing is named, and the shots before it are there', async () => {
    served['shots/sg2.json'] = shotOf('sg2', '../media/two/b.png');
    await expect(film().seed(silent)).rejects.toThrow('two/b.png: the demo film does not have it');
    expect((await db.shots.toArray()).map((r) => r.id)).toEqual(['sg1']);
    served['media/two/b.png'] = pictureOf(9);
    await film().seed(silent);
    expect((await db.shots.toArray()).map((r) => r.id).sort()).toEqual(['sg1', 'sg2']);
  });

  test('a thumbnail that cannot be made is told, and the next visit goes on', async () => {
    const bad = film((shot) => (shot.id === 'sg1' ? Promise.reject(new Error('no worker')) : Promise.resolve('')));
    await expect(bad.seed(silent)).rejects.toThrow('no worker');
    expect(await db.shots.count()).toBe(0);
    await film().seed(silent);
    expect(await db.shots.count()).toBe(2);
  });

  test('reset, a shot is as it was; what it replaced is a version, and can be put back', async () => {
    await film().seed(silent);
    const row = (await db.shots.get('sg1'))!;
    await db.shots.put({ ...row, changed: row.changed + 5, shot: { ...row.shot, frameRate: 25 } });
    const state = await demoState();
    expect(state.map((s) => [s.id, s.state])).toEqual([
      ['sg1', 'changed'],
      ['sg2', 'same'],
    ]);
    const back = await film().reset([state[0]!], silent);
    expect((await db.shots.get('sg1'))!.shot.frameRate).toBe(24);
    expect((await db.versions.toArray()).map((v) => [v.of, v.shot.frameRate])).toEqual([['sg1', 25]]);
    await back();
    expect((await db.shots.get('sg1'))!.shot.frameRate).toBe(25);
  });
});
