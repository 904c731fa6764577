/** A lock that tabs of this browser share; held until what is run under it ends. Without the browser's locks it runs at once. */
export async function withLock<T>(
  name: string,
  options: { mode?: LockMode; ifAvailable?: boolean; signal?: AbortSignal },
  run: (held: boolean) => Promise<T>,
): Promise<T> {
  const locks = (globalThis.navigator as Partial<Navigator> | undefined)?.locks;
  if (!locks) return run(true);
  return (await locks.request(name, options, (lock) => run(lock !== null))) as T;
}

/** Held by whoever edits a shot. */
export const shotLock = (id: string): string => `ostracon shot ${id}`;

/** Shared by all who bring files in, held alone by whoever removes some. */
export const MEDIA_LOCK = 'ostracon media';
