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

/** Puts a demo shot and its media into this browser's storage, over what was there. */
export async function bringInDemo(name: string, pool: WorkerPool, progress: (done: number, of: number) => void): Promise<Shot> {
  const json = (await (await get(`shots/${name}.json`)).json()) as { sources: Record<string, unknown>[] };
  const listed = await Promise.all(json.sources.map((s) => filesOf(String(s.path))));
  const total = listed.reduce((sum, l) => sum + l.length, 0);
  let done = 0;
  for (const [i, source] of json.sources.entries()) {
    const frames: MediaFrame[] = [];
    let info: MediaInfo | undefined;
    for (const { frame, path } of listed[i]!) {
      const blob = await (await get(path)).blob();
      const file = new File([blob], path.split('/').pop()!);
      if (!info || info.container === 'OpenEXR') ({ info } = await pool.inspect(file, false));
      const hash = await sha256(new Uint8Array(await blob.arrayBuffer()));
      await keepMedia(hash, { file }, false);
      frames.push({ frame, hash, name: file.name, ...(info.bounds && { bounds: info.bounds }) });
      progress(++done, total);
    }
    const still = patternExpression(String(source.path)) === null;
    delete source.path;
    // What the shot file says goes before what the media's header says.
    Object.assign(source, { ...sourceOf(info!, frames, still), ...source });
  }
  const shot = parseShot(json);
  await db.shots.put({ id: shot.id, name: shot.name, changed: Date.now(), shot });
  return shot;
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
