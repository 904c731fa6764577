import type { Shot } from '@/core/document';
import { FORM, formOf, isNewer, parseShot, readNewer } from '@/core/document';
import { ShotError, messageOf } from '@/core/errors';
import type { ShotRow } from './db';
import { db } from './db';
import type { History } from './history';
import type { ShotSession } from './shot-store';
import { openShot } from './shot-store';
import { shotLock, withLock } from './web-locks';

/** A shot that is there but cannot be opened as it is. */
export class Unreadable extends Error {
  constructor(
    readonly row: ShotRow,
    message: string,
  ) {
    super(message);
    this.name = 'Unreadable';
  }
}

const ELSEWHERE = 'open in another tab';
const LATER = 'written by a later version';

export interface Opened {
  session: ShotSession;
  /** Of a shot that a later version wrote: what is not known here and is left out. It can only be looked at. */
  newer?: readonly string[];
  /** Saves, takes no further change, and only then lets another tab edit the shot. */
  close(): Promise<void>;
}

/** Sessions of this page that are still saving. */
const closing = new Map<string, Promise<void>>();

/** Reads a shot and what can be undone of it. Throws Unreadable where it cannot be opened. */
async function read(id: string): Promise<{ shot: Shot; history: History; newer?: readonly string[] }> {
  const row = await db.shots.get(id);
  if (!row) throw new ShotError('There is no such shot in this browser. It may have been deleted.');
  try {
    if (isNewer(row.shot)) {
      const { shot, done } = readNewer(row.shot);
      return { shot, history: { past: [], future: [] }, newer: done };
    }
    const { past = [], future = [] } = (await db.histories.get(id)) ?? {};
    // What can be undone of an older form does not fit this one.
    const history = formOf(row.shot) === FORM ? { past, future } : { past: [], future: [] };
    return { shot: parseShot(row.shot), history };
  } catch (e) {
    throw new Unreadable(row, messageOf(e));
  }
}

/**
 * Opens a shot for editing; where another tab has it, only for looking, until that one is closed. The lock is taken before the
 * shot is read, so that what is read is what the last editor saved.
 */
export async function openForEditing(
  id: string,
  onTakenOver: () => void,
  /** The shot cannot be read any more once it could be taken over; its lock is free again. */
  onLost: (why: unknown) => void = () => undefined,
): Promise<Opened> {
  await closing.get(id);
  const leaving = new AbortController();
  const lock = await hold(id, { ifAvailable: true });
  let release = lock ?? ((): void => undefined);
  let session: ShotSession;
  try {
    const { shot, history, newer } = await read(id);
    if (newer) {
      release();
      const seen = openShot(shot, LATER);
      return { session: seen, newer, close: () => seen.close() };
    }
    session = openShot(shot, lock === null ? ELSEWHERE : null, lock === null ? undefined : history);
  } catch (e) {
    release();
    throw e;
  }
  if (lock === null) {
    void hold(id, { signal: leaving.signal }).then(
      async (later) => {
        release = later!;
        if (leaving.signal.aborted) return release();
        try {
          const { shot, history } = await read(id);
          session.store.setState({ shot, ...history, saved: 'saved', readOnly: null });
        } catch (e) {
          release();
          return onLost(e);
        }
        onTakenOver();
      },
      () => undefined,
    );
  }
  return {
    session,
    close(): Promise<void> {
      leaving.abort();
      const done = session.close().finally(() => {
        release();
        if (closing.get(id) === done) closing.delete(id);
      });
      closing.set(id, done);
      return done;
    },
  };
}

/** Takes a shot's lock: what lets go of it, or null where another tab has it. */
function hold(id: string, options: { ifAvailable?: boolean; signal?: AbortSignal }): Promise<(() => void) | null> {
  return new Promise((known, failed) => {
    withLock(shotLock(id), options, (held) => {
      if (!held) {
        known(null);
        return Promise.resolve();
      }
      return new Promise<void>((release) => known(release));
    }).catch(failed);
  });
}
