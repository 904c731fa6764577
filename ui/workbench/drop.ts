/** Every file of a drop, folders walked through. */
export async function filesOfDrop(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry?.()).filter((e): e is FileSystemEntry => !!e);
  if (entries.length === 0) return [...data.files];
  const files: File[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail));
      // The folder is part of what makes a sequence one.
      Object.defineProperty(file, 'webkitRelativePath', { value: entry.fullPath.slice(1) });
      files.push(file);
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
      if (some.length === 0) return;
      for (const e of some) await walk(e);
    }
  };
  for (const e of entries) await walk(e);
  return files;
}
