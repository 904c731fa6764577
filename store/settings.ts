import * as yup from 'yup';
import { db } from './db';

/** What a user sets for this browser, not for a shot. */
export interface Settings {
  /** Megabytes for finished frames and kept results together. */
  cacheMegabytes: number;
  /** Workers that compute; 0 takes one a core. */
  workers: number;
  /** The grey around the picture. */
  surround: Surround;
  /** Minutes after which a changed shot is kept as a version by itself; 0 is never. Every change is saved within a second anyway. */
  versionMinutes: number;
  /** Keys that were chosen in the place of the usual ones, by what they do; '' is none. */
  keys: Record<string, string>;
}

export const SURROUNDS = ['dark', 'mid', 'light'] as const;
export type Surround = (typeof SURROUNDS)[number];

const schema = yup.object({
  cacheMegabytes: yup.number().integer().min(64).max(65536).required(),
  workers: yup.number().integer().min(0).max(32).required(),
  surround: yup.string().oneOf(SURROUNDS).required(),
  versionMinutes: yup.number().integer().min(0).max(600).required(),
  keys: yup
    .object()
    .test('texts', 'keys are texts', (v) => Object.values(v ?? {}).every((k) => typeof k === 'string'))
    .required(),
});

/** Megabytes that the caches have by themselves at most; more is a choice. */
const MOST_CACHE = 2048;

/** A quarter of the memory that the browser admits to, up to a limit. */
export function defaultSettings(): Settings {
  const gigabytes = (navigator as { deviceMemory?: number }).deviceMemory ?? 4;
  return {
    cacheMegabytes: Math.min(MOST_CACHE, Math.round((gigabytes * 1024) / 4)),
    workers: 0,
    surround: 'dark',
    versionMinutes: 20,
    keys: {},
  };
}

/** Settings as stored; what is missing or no longer valid falls back to its default. */
export async function loadSettings(): Promise<Settings> {
  const stored = (await db.settings.get('workbench'))?.value;
  const merged = { ...defaultSettings(), ...(typeof stored === 'object' ? stored : {}) };
  const { cacheMegabytes, workers, surround, versionMinutes, keys } = merged;
  return schema.isValidSync(merged) ? { cacheMegabytes, workers, surround, versionMinutes, keys } : defaultSettings();
}

/** Throws yup.ValidationError where a value is out of its range. */
export async function saveSettings(settings: Settings): Promise<void> {
  schema.validateSync(settings);
  await db.settings.put({ key: 'workbench', value: settings });
}

/** Changes some of them and leaves the others as they are stored. */
export const changeSettings = async (change: Partial<Settings>): Promise<void> => saveSettings({ ...(await loadSettings()), ...change });
