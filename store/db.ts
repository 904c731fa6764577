import Dexie from 'dexie';
import type { Table } from 'dexie';
import type { Shot } from '@/core/document';
import type { LearntSoFar } from '@/core/learn';
import type { Recipe } from '@/core/commands';
import type { History } from './history';

export interface ShotRow {
  id: string;
  name: string;
  changed: number;
  shot: Shot;
  /** A small picture of the result, PNG as a data URL. */
  thumbnail?: string;
}

/** Steps under a name, to be used in any shot. */
export interface RecipeRow {
  id: string;
  name: string;
  recipe: Recipe;
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
  /** Made by the clock, not by hand: the oldest of these give way. */
  byItself?: true;
}

/** What can be undone and redone of a shot. */
export interface HistoryRow extends History {
  id: string;
}

/** A shot that was deleted a moment ago and can be put back. */
export interface RemovedRow {
  id: string;
  at: number;
  row: ShotRow;
}

/** A training that goes on, as it stood a moment ago: nothing of it is lost where the page is. */
export interface TrainingRow extends LearntSoFar {
  /** The shot's id and the lesson's. */
  id: string;
}

/** Shots that belong together, by their ids, in the film's order. One that was deleted stays in the list until it is put back. */
export interface FilmRow {
  id: string;
  name: string;
  shots: readonly string[];
}

class ShotDatabase extends Dexie {
  shots!: Table<ShotRow, string>;
  versions!: Table<VersionRow, string>;
  recipes!: Table<RecipeRow, string>;
  removed!: Table<RemovedRow, string>;
  histories!: Table<HistoryRow, string>;
  trainings!: Table<TrainingRow, string>;
  films!: Table<FilmRow, string>;
  settings!: Table<{ key: string; value: unknown }, string>;
  constructor() {
    super('ostracon');
    this.version(1).stores({ shots: 'id, name, changed', settings: 'key' });
    this.version(2).stores({ shots: 'id, name, changed', settings: 'key', versions: 'id, of, made' });
    this.version(3).stores({ shots: 'id, name, changed', settings: 'key', versions: 'id, of, made', recipes: 'id, name' });
    this.version(4).stores({ histories: 'id', removed: 'id' });
    this.version(5).stores({ trainings: 'id' });
    this.version(6).stores({ films: 'id, name' });
  }
}

export const db = new ShotDatabase();
