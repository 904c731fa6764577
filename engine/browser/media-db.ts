import { sha256 as incrementalSha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import Dexie from 'dexie';
import type { Table } from 'dexie';
import { MediaError } from '@/core/errors';

export interface MediaRow {
  /** SHA-256 of the bytes, hex. */
  hash: string;
  name: string;
  /** The file's bytes, or the handle of the file on disk that holds them. */
  blob?: Blob;
  handle?: FileSystemFileHandle;
  size: number;
  /** When it was brought in last. */
  added?: number;
}

/** Media files by the hash of their contents: the same file is kept once, whatever it is called. */
class MediaDatabase extends Dexie {
  media!: Table<MediaRow, string>;
  /** Smaller copies of frames, by `proxyKey`. */
  proxies!: Table<{ key: string; blob: Blob }, string>;
  constructor() {
    super('ostracon-media');
    this.version(1).stores({ media: 'hash' });
    this.version(2).stores({ media: 'hash', proxies: 'key' });
  }
}

export const mediaDb = new MediaDatabase();

/** Handles ask their user again after each start of the browser. */
export type Access = 'here' | 'asks' | 'gone';

interface Permitted {
  queryPermission?(o: { mode: 'read' }): Promise<PermissionState>;
  requestPermission?(o: { mode: 'read' }): Promise<PermissionState>;
}

/** Whether the bytes of a row can be had now. */
export async function accessOf(row: MediaRow | undefined): Promise<Access> {
  if (!row) return 'gone';
  if (row.blob) return 'here';
  const handle = row.handle as (FileSystemFileHandle & Permitted) | undefined;
  if (!handle) return 'gone';
  return (await handle.queryPermission?.({ mode: 'read' })) === 'prompt' ? 'asks' : 'here';
}

/** Asks the user to let linked files be read; must be called from a click. */
export async function askAccess(row: MediaRow): Promise<boolean> {
  const handle = row.handle as (FileSystemFileHandle & Permitted) | undefined;
  return !handle || (await handle.requestPermission?.({ mode: 'read' })) === 'granted';
}

/** The file with these contents. Throws MediaError where it is not to be had, saying what to do. */
export async function blobOf(hash: string, name: string): Promise<Blob> {
  const row = await mediaDb.media.get(hash);
  if (!row) throw new MediaError(name, `the file is not in this browser's storage; choose "Find missing files" in its source's menu`);
  if (row.blob) return row.blob;
  if ((await accessOf(row)) === 'asks')
    throw new MediaError(name, 'it is linked, and the browser wants your leave to read it again: see its source');
  try {
    const file = await row.handle!.getFile();
    if (file.size !== row.size) throw new MediaError(name, 'the linked file has changed since it was brought in; bring it in again');
    return file;
  } catch (e) {
    if (e instanceof MediaError) throw e;
    throw new MediaError(name, `the linked file was moved or deleted; choose "Find missing files" in its source's menu`);
  }
}

export async function sha256(bytes: Uint8Array): Promise<string> {
  return bytesToHex(new Uint8Array(await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>)));
}

/** Files of more bytes are hashed piece by piece. */
const LARGE = 64 * 2 ** 20;

/** SHA-256 of a file in hex, in little memory however large it is; `alive` is told of each part. */
export async function sha256OfFile(file: Blob, alive: () => void = () => undefined): Promise<string> {
  if (file.size <= LARGE) return sha256(new Uint8Array(await file.arrayBuffer()));
  const hash = incrementalSha256.create();
  for (let at = 0; at < file.size; at += LARGE / 8) {
    hash.update(new Uint8Array(await file.slice(at, at + LARGE / 8).arrayBuffer()));
    alive();
  }
  return bytesToHex(hash.digest());
}
