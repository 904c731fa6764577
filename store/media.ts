import type { Shot, Source } from '@/core/document';
import { filesOf, filesOfShot } from '@/core/document';
import { MediaError, ShotError } from '@/core/errors';
import type { Access } from '@/engine/browser';
import { accessOf, mediaDb } from '@/engine/browser';
import { db } from './db';
import { MEDIA_LOCK, withLock } from './web-locks';

/** A file as it was dropped or chosen, with its handle where the browser gives one. */
export interface GivenFile {
  file: File;
  /** Its name with the folders above it, as far as they are known: the folder is part of what makes a sequence one. */
  path: string;
  handle?: FileSystemFileHandle;
}

export interface Storage {
  /** Bytes that this browser keeps for the application, and may keep at most. */
  usage: number;
  quota: number;
  /** Of the usage: media files and smaller copies of them. */
  media: number;
  proxies: number;
  /** Files that are linked, not kept. */
  linked: number;
  /** The browser does not clear it by itself. */
  stays: boolean;
}

/** Left free for shots, thumbnails and whatever else is written. */
const RESERVE = 64 * 2 ** 20;

export async function storage(): Promise<Storage> {
  const { usage = 0, quota = 0 } = await navigator.storage.estimate();
  let [media, linked, proxies] = [0, 0, 0];
  await mediaDb.media.each((row) => {
    if (row.blob) media += row.size ?? row.blob.size;
    else linked++;
  });
  await mediaDb.proxies.each((row) => void (proxies += row.blob.size));
  return { usage, quota, media, proxies, linked, stays: await askToStay().catch(() => false) };
}

export const sizeText = (bytes: number): string => {
  const units = ['B', 'KB', 'MB', 'GB', 'TB'];
  const k = Math.min(units.length - 1, Math.max(0, Math.floor(Math.log10(Math.max(1, bytes)) / 3)));
  const v = bytes / 1000 ** k;
  return `${v.toFixed(k > 0 && v < 10 ? 1 : 0)} ${units[k]}`;
};

/** Throws MediaError where so many bytes more would not fit, before anything is written. */
export async function roomFor(bytes: number, what: string): Promise<void> {
  const { usage = 0, quota = Infinity } = await navigator.storage.estimate();
  const left = Math.max(0, quota - usage - RESERVE);
  if (bytes <= left) return;
  throw new MediaError(
    what,
    `${sizeText(bytes)} are needed and the browser has ${sizeText(left)} left. Nothing was brought in. ` +
      'Link the files instead of copying them, or free room under "Storage" in the Library.',
  );
}

/** Keeps a file, or its handle, under the hash of its contents. Throws MediaError where there is no room. */
export async function keepMedia(hash: string, { file, handle }: Pick<GivenFile, 'file' | 'handle'>, link: boolean): Promise<void> {
  const known = await mediaDb.media.get(hash);
  const added = Date.now();
  if (known && (await accessOf(known)) === 'here') return void (await mediaDb.media.update(hash, { added }));
  const where = link && handle ? { handle } : { blob: file };
  try {
    await mediaDb.media.put({ hash, name: file.name, size: file.size, added, ...where });
  } catch (e) {
    const full = e instanceof Error && /quota/i.test(`${e.name} ${e.message}`);
    throw full ? new MediaError(file.name, 'the browser has no room left for it; what came before it is kept') : e;
  }
}

/** How much of a source's media can be had. */
export async function accessOfSource(source: Source): Promise<{ access: Access; missing: string[] }> {
  const missing: string[] = [];
  let asks = false;
  for (const f of filesOf(source)) {
    const access = await accessOf(await mediaDb.media.get(f.hash));
    if (access === 'gone') missing.push(f.name);
    else if (access === 'asks') asks = true;
  }
  return { access: missing.length ? 'gone' : asks ? 'asks' : 'here', missing };
}

/** Milliseconds for which media stays that nothing names yet, and a deleted shot can be put back. */
export const GRACE = 10 * 60_000;

/** Runs what brings files in and names them: none is removed meanwhile. */
export const bringingMedia = <T>(run: () => Promise<T>): Promise<T> => withLock(MEDIA_LOCK, { mode: 'shared' }, run);

/** Hashes of all media that a shot, a version, a shot that was just deleted or what can be undone names. */
async function usedMedia(now: number): Promise<Set<string>> {
  const used = new Set<string>();
  const keep = ({ shot }: { shot: Shot }): void => filesOfShot(shot).forEach((f) => used.add(f.hash));
  await db.shots.each(keep);
  await db.removed.filter((r) => r.at < now - GRACE).delete();
  await db.removed.each((r) => keep(r.row));
  // Versions of shots that are gone go with the media that only they named.
  const shots = new Set([...(await db.shots.toCollection().primaryKeys()), ...(await db.removed.toCollection().primaryKeys())]);
  await db.versions.filter((v) => !shots.has(v.of)).delete();
  await db.versions.each(keep);
  await db.trainings.each((t) => used.add(t.weights.hash));
  await db.histories.filter((h) => !shots.has(h.id)).delete();
  // A source that was removed comes back by an undo: its hashes stand somewhere in the patches.
  await db.histories.each((h) => {
    for (const [hash] of JSON.stringify(h).matchAll(/\b[0-9a-f]{64}\b/g)) used.add(hash);
  });
  return used;
}

/**
 * Forgets media that nothing names (see `usedMedia`) and that was not brought in a moment ago, and all smaller copies. Returns the
 * bytes that were freed. Throws ShotError while media is being brought in.
 */
export async function freeUnused(now = Date.now()): Promise<number> {
  return withLock(MEDIA_LOCK, { mode: 'exclusive', ifAvailable: true }, async (held) => {
    if (!held) throw new ShotError('files are being brought in, here or in another tab; nothing was removed. Try again when that is done');
    const used = await usedMedia(now);
    let freed = 0;
    await mediaDb.transaction('rw', mediaDb.media, mediaDb.proxies, async () => {
      const unused: string[] = [];
      await mediaDb.media.each((row) => {
        if (used.has(row.hash) || (row.added ?? 0) > now - GRACE) return;
        unused.push(row.hash);
        freed += row.blob?.size ?? 0;
      });
      await mediaDb.proxies.each((row) => void (freed += row.blob.size));
      await mediaDb.media.bulkDelete(unused);
      await mediaDb.proxies.clear();
    });
    return freed;
  });
}

/** Whether the browser may clear what it keeps when the disk is full; asks it not to. */
export async function askToStay(): Promise<boolean> {
  const { storage } = navigator as Partial<Navigator>;
  return (await storage?.persisted?.()) || (await storage?.persist?.()) || false;
}
