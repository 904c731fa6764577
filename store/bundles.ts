import { filesOf } from '@/core/document/media';
import type { Shot } from '@/core/document/types';
import { blobOf, sha256 } from '@/engine/browser/media-db';
import { readBundle, writeBundle } from '@/engine/bundle';
import { db } from './db';
import { freeName, newId } from './make';
import { keepMedia } from './media';

/** The shot and the media it names as one file. */
export async function exportBundle(shot: Shot): Promise<Blob> {
  const media = new Map<string, Uint8Array>();
  for (const source of shot.sources) {
    for (const f of filesOf(source)) {
      if (!media.has(f.hash)) media.set(f.hash, new Uint8Array(await (await blobOf(f.hash, f.name)).arrayBuffer()));
    }
  }
  return new Blob([writeBundle({ shot, media }) as Uint8Array<ArrayBuffer>], { type: 'application/zip' });
}

/** Checks a bundle whole, then keeps its media and adds the shot under an id of its own. Throws MediaError. */
export async function importBundle(file: File): Promise<Shot> {
  const { shot, media } = await readBundle(new Uint8Array(await file.arrayBuffer()), file.name, sha256);
  const names = shot.sources.flatMap(filesOf);
  for (const [hash, bytes] of media) {
    const name = names.find((n) => n.hash === hash)?.name ?? hash;
    await keepMedia(hash, { file: new File([bytes as Uint8Array<ArrayBuffer>], name) }, false);
  }
  return addShot(shot);
}

/** Adds a shot to the library; an id or a name that is taken gets a new one. */
export async function addShot(shot: Shot): Promise<Shot> {
  const rows = await db.shots.toArray();
  const id = rows.some((r) => r.id === shot.id) ? newId() : shot.id;
  const added = {
    ...shot,
    id,
    name: freeName(
      shot.name,
      rows.map((r) => r.name),
    ),
  };
  await db.shots.put({ id, name: added.name, changed: Date.now(), shot: added });
  return added;
}
