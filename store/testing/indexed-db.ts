import Dexie from 'dexie';
import { IDBKeyRange, indexedDB } from 'fake-indexeddb';

// To be imported before whatever opens a database: there is none outside of a browser.
Dexie.dependencies.indexedDB = indexedDB as unknown as IDBFactory;
Dexie.dependencies.IDBKeyRange = IDBKeyRange;
