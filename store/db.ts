import Dexie from 'dexie';
import type { Table } from 'dexie';
import type { Shot } from '@/core/document/types';

export interface ShotRow {
  id: string;
  name: string;
  changed: number;
  shot: Shot;
  /** A small picture of the result, PNG as a data URL. */
  thumbnail?: string;
}

/** A shot as it was when somebody gave it a name. */
export interface VersionRow {
  id: string;
  /** The shot it is a version of. */
  of: string;
  name: string;
  made: number;
  shot: Shot;
  thumbnail?: string;
}

class ShotDatabase extends Dexie {
  shots!: Table<ShotRow, string>;
  versions!: Table<VersionRow, string>;
  settings!: Table<{ key: string; value: unknown }, string>;
  constructor() {
    super('ostracon');
    this.version(1).stores({ shots: 'id, name, changed', settings: 'key' });
    this.version(2).stores({ shots: 'id, name, changed', settings: 'key', versions: 'id, of, made' });
  }
}

export const db = new ShotDatabase();
