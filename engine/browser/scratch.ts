import type { ByteTarget } from '../zip';

/** A file that is written piece by piece before it is handed to the user. */
export interface Scratch {
  target: ByteTarget;
  /** What was written, once the target is closed. */
  file(type: string): Promise<Blob>;
  discard(): Promise<void>;
}

const FOLDER = 'ostracon scratch';
/** A file that was handed over is on the user's disk by then. */
const OLD = 60 * 60 * 1000;

async function folder(): Promise<FileSystemDirectoryHandle | null> {
  try {
    return await (await navigator.storage.getDirectory()).getDirectoryHandle(FOLDER, { create: true });
  } catch {
    return null;
  }
}

/** Removes what earlier work left, once it is older than an hour. */
export async function clearScratch(before = Date.now() - OLD): Promise<void> {
  const at = await folder();
  if (!at) return;
  for await (const name of (at as FileSystemDirectoryHandle & { keys(): AsyncIterable<string> }).keys()) {
    if (!(Number(name.split(' ')[0]) > before)) await at.removeEntry(name).catch(() => undefined);
  }
}

/** A file on disk where the browser has a private folder for it, else in memory. */
export async function scratch(): Promise<Scratch> {
  await clearScratch().catch(() => undefined);
  const at = await folder();
  const name = `${Date.now()} ${Math.random().toString(36).slice(2)}`;
  const handle = await at?.getFileHandle(name, { create: true }).catch(() => null);
  if (!at || !handle?.createWritable) return inMemory();
  return {
    target: (await handle.createWritable()) as ByteTarget,
    file: async (type) => {
      const file = await handle.getFile();
      return file.slice(0, file.size, type);
    },
    discard: () => at.removeEntry(name).catch(() => undefined),
  };
}

function inMemory(): Scratch {
  let parts: Uint8Array<ArrayBuffer>[] = [];
  return {
    target: new WritableStream<Uint8Array>({
      write(chunk) {
        parts.push(chunk.slice());
      },
    }),
    file: (type) => Promise.resolve(new Blob(parts, { type })),
    discard: () => {
      parts = [];
      return Promise.resolve();
    },
  };
}
