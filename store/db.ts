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

class ShotDatabase extends Dexie {
  shots!: Table<ShotRow, string>;
  settings!: Table<{ key: string; value: unknown }, string>;
  constructor() {
    super('ostracon');
    this.version(1).stores({ shots: 'id, name, changed', settings: 'key' });
  }
}

export const db = new ShotDatabase();
