import type { Sink } from '@/engine';

type Picker = { showDirectoryPicker?(o: { mode: 'readwrite' }): Promise<FileSystemDirectoryHandle> };

export const canPickFolder = (): boolean => typeof window !== 'undefined' && 'showDirectoryPicker' in window;

/** Asks for a folder to write into. Throws AbortError where the user changes their mind. */
export const pickFolder = (): Promise<FileSystemDirectoryHandle> => (window as Picker).showDirectoryPicker!({ mode: 'readwrite' });

/** Of the names, those that the folder has already. */
export async function namesIn(folder: FileSystemDirectoryHandle, names: readonly string[]): Promise<Set<string>> {
  const there = new Set<string>();
  for (const name of names) {
    const has = await folder.getFileHandle(name).then(
      () => true,
      () => false,
    );
    if (has) there.add(name);
  }
  return there;
}

export class FolderSink implements Sink {
  constructor(private readonly folder: FileSystemDirectoryHandle) {}

  async write(name: string, bytes: Uint8Array | Blob): Promise<void> {
    const file = await (await this.folder.getFileHandle(name, { create: true })).createWritable();
    await file.write(bytes as Uint8Array<ArrayBuffer>);
    await file.close();
  }
}
