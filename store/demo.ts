import type { MediaFrame, Shot } from '@/core/document/types';
import { parseShot } from '@/core/document/schema';
import { MediaError } from '@/core/errors';
import { sha256 } from '@/engine/browser/media-db';
import type { WorkerPool } from '@/engine/browser/pool';
import type { MediaInfo } from '@/engine/inspect';
import { sourceOf } from '@/engine/media-source';
import { patternExpression } from '@/engine/sequences';
import { db } from './db';
import { keepMedia } from './media';

const BASE = '/api/demo';

async function get(path: string): Promise<Response> {
  const response = await fetch(`${BASE}/${path}`);
  if (!response.ok) throw new MediaError(path, 'the demo film does not have it');
  return response;
}

/** Names of the demo film's shots. */
export const demoShots = async (): Promise<string[]> =>
  ((await (await get('shots')).json()) as string[]).map((n) => n.replace(/\.json$/, ''));

/** A file of the demo film as it is kept: what a source names, and what its header said, where that was read. */
interface Kept {
  hash: string;
  name: string;
  info?: MediaInfo;
}

/** Files on their way at a time. */
const AT_ONCE = 6;

/** Brings demo shots into this browser's storage, over what was there. A file that several shots name is brought in once. */
export class DemoFilm {
  private readonly kept = new Map<string, Promise<Kept>>();

  constructor(private readonly pool: WorkerPool) {}

  /** Puts a shot and its media there. `progress` counts its files. */
  async bringIn(name: string, progress: (done: number, of: number) => void): Promise<Shot> {
    const json = (await (await get(`shots/${name}.json`)).json()) as { sources: Record<string, unknown>[] };
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
    const shot = parseShot(json);
    await db.shots.put({ id: shot.id, name: shot.name, changed: Date.now(), shot });
    return shot;
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
    const blob = await (await get(path)).blob();
    const file = new File([blob], path.split('/').pop()!);
    const hash = await sha256(new Uint8Array(await blob.arrayBuffer()));
    await keepMedia(hash, { file }, false);
    return { hash, name: file.name, ...(read && { info: (await this.pool.inspect(file, false)).info }) };
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
