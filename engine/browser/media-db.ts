import Dexie from 'dexie';
import type { Table } from 'dexie';

export interface MediaRow {
  /** SHA-256 of the bytes, hex. */
  hash: string;
  name: string;
  blob: Blob;
}

/** Media files by the hash of their contents: the same file is kept once, whatever it is called. */
class MediaDatabase extends Dexie {
  media!: Table<MediaRow, string>;
  constructor() {
    super('ostracon-media');
    this.version(1).stores({ media: 'hash' });
  }
}

export const mediaDb = new MediaDatabase();

export async function sha256(bytes: Uint8Array): Promise<string> {
  const digest = await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>);
  return [...new Uint8Array(digest)].map((b) => b.toString(16).padStart(2, '0')).join('');
}
