import type { MediaFrame, Shot } from '@/core/document/types';
import { parseShot } from '@/core/document/schema';
import { MediaError } from '@/core/errors';
import { mediaDb, sha256 } from '@/engine/browser/media-db';
import type { WorkerPool } from '@/engine/browser/pool';
import { patternExpression } from '@/engine/sequences';
import { db } from './db';

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
    let info: Awaited<ReturnType<WorkerPool['inspect']>>['info'] | undefined;
    for (const { frame, path } of listed[i]!) {
      const blob = await (await get(path)).blob();
      const file = path.split('/').pop()!;
      if (!info || info.container === 'OpenEXR') ({ info } = await pool.inspect(new File([blob], file)));
      const hash = await sha256(new Uint8Array(await blob.arrayBuffer()));
      await mediaDb.media.put({ hash, name: file, blob });
      frames.push({ frame, hash, name: file, ...(info.bounds && { bounds: info.bounds }) });
      progress(++done, total);
    }
    const still = patternExpression(String(source.path)) === null;
    delete source.path;
    Object.assign(source, {
      kind: still ? 'still' : 'sequence',
      frames,
      format: info!.format,
      channels: info!.channels,
      container: info!.container,
      colourSpace: source.colourSpace ?? info!.colourSpace,
      alpha: source.alpha ?? info!.alpha,
      missing: source.missing ?? 'error',
      start: source.start ?? (still ? 1 : frames[0]!.frame),
    });
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
