import type { GivenFile } from '@/store';

type WithHandle = DataTransferItem & { getAsFileSystemHandle?(): Promise<FileSystemHandle | null> };
type Folder = FileSystemDirectoryHandle & { values(): AsyncIterable<FileSystemHandle> };

/** Every file of a drop, folders walked through; with handles where the browser gives them. */
export async function filesOfDrop(data: DataTransfer): Promise<GivenFile[]> {
  const items = [...data.items] as WithHandle[];
  // Both are asked for at once: the list is empty when the first answer comes.
  const handles = items.map((i) => i.getAsFileSystemHandle?.().catch(() => null));
  const entries = items.map((i) => i.webkitGetAsEntry?.());
  const files: GivenFile[] = [];
  for (const [i, pending] of handles.entries()) {
    const handle = await pending;
    if (handle) await walkHandle(handle, '', files);
    else if (entries[i]) await walkEntry(entries[i], files);
  }
  return files.length ? files : [...data.files].map((file) => ({ file, path: file.name }));
}

async function walkHandle(handle: FileSystemHandle, folder: string, files: GivenFile[]): Promise<void> {
  const path = `${folder}${handle.name}`;
  if (handle.kind === 'file') {
    files.push({ file: await (handle as FileSystemFileHandle).getFile(), path, handle: handle as FileSystemFileHandle });
    return;
  }
  for await (const inside of (handle as Folder).values()) await walkHandle(inside, `${path}/`, files);
}

async function walkEntry(entry: FileSystemEntry, files: GivenFile[]): Promise<void> {
  if (entry.isFile) {
    const file = await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail));
    files.push({ file, path: entry.fullPath.slice(1) });
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
    if (some.length === 0) return;
    for (const e of some) await walkEntry(e, files);
  }
}

/** Files of a file field; of a field for folders with their paths. */
export const filesOfField = (field: HTMLInputElement): GivenFile[] =>
  [...(field.files ?? [])].map((file) => ({ file, path: file.webkitRelativePath || file.name }));

interface FilePicker {
  showOpenFilePicker?(o: { multiple: boolean }): Promise<FileSystemFileHandle[]>;
  showDirectoryPicker?(): Promise<Folder>;
}

/** Lets the user choose files or a folder to link; null where the browser cannot, or the user changed their mind. */
export async function chooseToLink(what: 'files' | 'folder'): Promise<GivenFile[] | null> {
  const picker = window as unknown as FilePicker;
  try {
    const chosen =
      what === 'files' ? await picker.showOpenFilePicker?.({ multiple: true }) : [await picker.showDirectoryPicker?.()].filter((f) => !!f);
    if (!chosen) return null;
    const files: GivenFile[] = [];
    for (const handle of chosen) await walkHandle(handle, '', files);
    return files;
  } catch (e) {
    if ((e as Error).name === 'AbortError') return null;
    throw e;
  }
}

export const canLink = (): boolean => typeof window !== 'undefined' && 'showOpenFilePicker' in window;
