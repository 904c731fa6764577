import type { Shot } from '@/core/document';
import { Cancelled } from '@/core/errors';
import { blobOf, openBundle, scratch } from '@/engine/browser';
import { mediaOfShot, writeBundle } from '@/engine';
import { db } from './db';
import { freeName, newId } from '@/core/commands';
import { bringingMedia, keepMedia, roomFor } from './media';

/** The shot and the media it names as one file, which is written to disk as it is made. Throws MediaError, and Cancelled. */
export async function exportBundle(shot: Shot, progress?: (done: number, of: number) => void, signal?: AbortSignal): Promise<Blob> {
  // What is missing is told before anything is written.
  for (const [hash, name] of mediaOfShot(shot)) await blobOf(hash, name);
  const file = await scratch();
  try {
    await writeBundle(shot, blobOf, file.target, progress, signal);
    return await file.file('application/zip');
  } catch (e) {
    await file.target.abort(e).catch(() => undefined);
    await file.discard();
    throw e;
  }
}

/** Checks a bundle whole, then keeps its media and adds the shot under an id of its own. Throws MediaError, and Cancelled. */
export async function importBundle(
  file: File,
  progress: (done: number, of: number) => void = () => undefined,
  signal?: AbortSignal,
): Promise<Shot> {
  const bundle = await openBundle(file, signal);
  await roomFor(bundle.bytes, file.name);
  return bringingMedia(async () => {
    let done = 0;
    for (const [hash, name] of bundle.media) {
      if (signal?.aborted) throw new Cancelled();
      await keepMedia(hash, { file: new File([await bundle.file(hash)], name) }, false);
      progress(++done, bundle.media.size);
    }
    return addShot(bundle.shot);
  });
}

/** Adds a shot to the library; an id or a name that is taken gets a new one. */
export async function addShot(shot: Shot): Promise<Shot> {
  return db.transaction('rw', db.shots, async () => {
    const rows = await db.shots.toArray();
    const id = rows.some((r) => r.id === shot.id) ? newId() : shot.id;
    const name = freeName(
      shot.name,
      rows.map((r) => r.name),
    );
    const added = { ...shot, id, name };
    await db.shots.put({ id, name, changed: Date.now(), shot: added });
    return added;
  });
}
