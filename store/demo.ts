import type { MediaFrame, Shot } from '@/core/document';
import { parseShot } from '@/core/document';
import { MediaError } from '@/core/errors';
import type { WorkerPool } from '@/engine/browser';
import { sha256 } from '@/engine/browser';
import type { MediaInfo } from '@/engine';
import { patternExpression, sourceOf } from '@/engine';
import type { ShotRow } from './db';
import { db } from './db';
import { bringingMedia, keepMedia } from './media';
import { whileClosed } from './shots';
import { newFilm, placeInFilm } from './films';
import { saveVersion } from './versions';

const BASE = '/api/demo';

async function get(path: string): Promise<Response> {
  const response = await fetch(`${BASE}/${path}`);
  if (!response.ok) throw new MediaError(path, 'the demo film does not have it');
  return response;
}

/** Files of the demo film's shots, without their ending. */
const demoFiles = async (): Promise<string[]> => ((await (await get('shots')).json()) as string[]).map((n) => n.replace(/\.json$/, ''));

interface ShotFile {
  id: string;
  name: string;
  sources: Record<string, unknown>[];
  readings?: { kind?: string; weights?: { path?: string } | null }[];
}
const shotFile = async (file: string): Promise<ShotFile> => (await (await get(`shots/${file}.json`)).json()) as ShotFile;

/** Under this key: when each shot of the film was brought in, by its file; `true` of an earlier version, that all were. */
const SEEDED = 'demo brought in';

async function seeded(): Promise<Record<string, number> | true> {
  const value = (await db.settings.get(SEEDED))?.value;
  return value === true || (typeof value === 'object' && value !== null) ? (value as Record<string, number> | true) : {};
}

async function noteSeeded(file: string, at: number): Promise<void> {
  const had = await seeded();
  await db.settings.put({ key: SEEDED, value: { ...(had === true ? {} : had), [file]: at } });
}

const FILM = { id: 'saltgate-light', name: 'Saltgate Light' };

/** A demo shot that comes later joins its film at the end, where there is one. */
async function intoFilm(shot: string): Promise<void> {
  if (await db.films.get(FILM.id)) await placeInFilm(shot, FILM.id);
}

/** The demo's shots as a film, once: one that was taken away is not made again. */
async function makeFilm(): Promise<void> {
  if (await db.settings.get(FILM.id)) return;
  const shots = (await demoState()).sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
  const taken = new Set((await db.films.toArray()).flatMap((f) => f.shots));
  await newFilm(
    FILM.name,
    shots.filter((s) => s.state !== 'gone' && !taken.has(s.id)).map((s) => s.id),
    FILM.id,
  );
  await db.settings.put({ key: FILM.id, value: true });
}

/** A shot of the demo film, and how it stands in this browser. */
export interface DemoShot {
  file: string;
  id: string;
  name: string;
  state: 'gone' | 'same' | 'changed';
}

export async function demoState(): Promise<DemoShot[]> {
  const had = await seeded();
  return Promise.all(
    (await demoFiles()).map(async (file): Promise<DemoShot> => {
      const { id, name } = await shotFile(file);
      const row = await db.shots.get(id);
      const same = row && had !== true && row.changed === had[file];
      return { file, id, name, state: row ? (same ? 'same' : 'changed') : 'gone' };
    }),
  );
}

/** A file of the demo film as it is kept: what a source names, and what its header said, where that was read. */
interface Kept {
  hash: string;
  name: string;
  info?: MediaInfo;
}

/** Files on their way at a time. */
const AT_ONCE = 6;

type Progress = (done: number, of: number) => void;

/** Brings demo shots into this browser's storage. A file that several shots name is brought in once. */
export class DemoFilm {
  private readonly kept = new Map<string, Promise<Kept>>();

  constructor(
    private readonly pool: () => WorkerPool,
    private readonly thumbnail: (shot: Shot) => Promise<string>,
  ) {}

  /** Brings in the shots that never were here. One that is here already is left as it is. */
  async seed(progress: Progress): Promise<void> {
    const had = await seeded();
    if (had === true) return;
    await bringingMedia(async () => {
      // While a shot's thumbnail is worked out, the files of the next one come.
      let before: Promise<void> = Promise.resolve();
      try {
        for (const file of await demoFiles()) {
          if (had[file] !== undefined) continue;
          const shot = await this.bringIn(file, progress);
          before = before.then(() => this.putNew(file, shot));
          // Told where it is waited for.
          before.catch(() => undefined);
        }
      } finally {
        await before;
      }
    });
    await makeFilm();
  }

  private async putNew(file: string, shot: Shot): Promise<void> {
    const row = await this.rowOf(shot);
    await db.transaction('rw', db.shots, async () => {
      if (!(await db.shots.get(row.id))) await db.shots.put(row);
    });
    await noteSeeded(file, row.changed);
    await intoFilm(row.id);
  }

  /**
   * Makes shots as they were. What they are now stays as a version of each; what is returned puts them back. Throws ShotError
   * where one is open in another tab.
   */
  async reset(shots: readonly DemoShot[], progress: Progress): Promise<() => Promise<void>> {
    const before: { id: string; row: ShotRow | undefined }[] = [];
    for (const { file, id } of shots) {
      const row = await bringingMedia(async () => this.rowOf(await this.bringIn(file, progress)));
      await whileClosed(row, 'reset', async () => {
        const now = await db.shots.get(id);
        if (now) await saveVersion(now.shot, 'Before the reset', now.thumbnail);
        await db.transaction('rw', db.shots, db.histories, async () => {
          await db.shots.put(row);
          await db.histories.delete(id);
        });
        before.push({ id, row: now });
      });
      await noteSeeded(file, row.changed);
    }
    return async () => {
      for (const { id, row } of before) {
        const name = row?.name ?? shots.find((s) => s.id === id)!.name;
        await whileClosed({ id, name }, 'put back', async () => void (await (row ? db.shots.put(row) : db.shots.delete(id))));
      }
    };
  }

  private async rowOf(shot: Shot): Promise<ShotRow> {
    const thumbnail = await this.thumbnail(shot);
    return { id: shot.id, name: shot.name, changed: Date.now(), shot, ...(thumbnail && { thumbnail }) };
  }

  /** A shot as the film has it, its media kept. `progress` counts its files. */
  private async bringIn(name: string, progress: Progress): Promise<Shot> {
    const json = await shotFile(name);
    const listed = await Promise.all(json.sources.map((s) => filesOf(String(s.path))));
    const total = listed.reduce((sum, l) => sum + l.length, 0);
    let done = 0;
    for (const [i, source] of json.sources.entries()) {
      const files = await inTurns(listed[i]!, AT_ONCE, async ({ path }, k) => {
        const kept = await this.file(path, k === 0);
        progress(++done, total);
        return kept;
      });
      const frames = files.map(({ hash, name: of, info }, k): MediaFrame => {
        return { frame: listed[i]![k]!.frame, hash, name: of, ...(info?.bounds && { bounds: info.bounds }) };
      });
      const still = patternExpression(String(source.path)) === null;
      delete source.path;
      // What the shot file says goes before what the media's header says.
      Object.assign(source, { ...sourceOf(files[0]!.info!, frames, still), ...source });
    }
    for (const { kind, weights } of json.readings ?? []) {
      if (kind !== 'lesson' || typeof weights?.path !== 'string') continue;
      const { hash, name: of } = await this.file(weights.path.replace(/^\.\.\//, ''), false);
      Object.assign(weights, { hash, name: of });
    }
    return parseShot(json);
  }

  /** Keeps a file; its header is read where that is asked for, and of OpenEXR always, whose files have bounds of their own. */
  private async file(path: string, read: boolean): Promise<Kept> {
    const known = this.kept.get(path);
    if (known && (!read || (await known).info)) return known;
    const kept = this.keep(path, read || path.endsWith('.exr'));
    this.kept.set(path, kept);
    return kept;
  }

  private async keep(path: string, read: boolean): Promise<Kept> {
    const bytes = await (await get(path)).arrayBuffer();
    const file = new File([bytes], path.split('/').pop()!);
    const hash = await sha256(new Uint8Array(bytes));
    await keepMedia(hash, { file }, false);
    return { hash, name: file.name, ...(read && { info: (await this.pool().inspect(file, false)).info }) };
  }
}

/** Runs something for each of a list, a few at a time; what came of each, in the list's order. */
async function inTurns<T, R>(list: readonly T[], atOnce: number, run: (of: T, index: number) => Promise<R>): Promise<R[]> {
  const results = new Array<R>(list.length);
  let next = 0;
  const worker = async (): Promise<void> => {
    while (next < list.length) {
      const k = next++;
      results[k] = await run(list[k]!, k);
    }
  };
  await Promise.all(Array.from({ length: Math.min(atOnce, list.length) }, worker));
  return results;
}

/** Files of a path relative to the shots' folder, with #### for the frame. */
async function filesOf(path: string): Promise<{ frame: number; path: string }[]> {
  const full = path.replace(/^\.\.\//, '');
  const folder = full.slice(0, full.lastIndexOf('/'));
  const name = full.slice(full.lastIndexOf('/') + 1);
  const expression = patternExpression(name);
  if (!expression) return [{ frame: 1, path: full }];
  const names = (await (await get(folder)).json()) as string[];
  return names
    .map((n) => ({ frame: Number(expression.exec(n)?.[1] ?? NaN), path: `${folder}/${n}` }))
    .filter((f) => Number.isInteger(f.frame))
    .sort((a, b) => a.frame - b.frame);
}
