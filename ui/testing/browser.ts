// To be imported first by tests of what keeps or saves something: a database, and a place for downloads.
import '../../store/testing/indexed-db';

/** Files that were saved, by name. */
export const saved = new Map<string, Blob>();
URL.createObjectURL = (blob) => {
  last = blob as Blob;
  return 'blob:saved';
};
URL.revokeObjectURL = () => undefined;
let last: Blob | undefined;
HTMLAnchorElement.prototype.click = function click(this: HTMLAnchorElement): void {
  if (this.download && last) saved.set(this.download, last);
};

function read<T>(name: string, how: (reader: FileReader, blob: Blob) => void): Promise<T> {
  const blob = saved.get(name);
  if (!blob) throw new Error(`nothing was saved as ${name}, but ${[...saved.keys()].join(', ')}`);
  return new Promise((done) => {
    const reader = new FileReader();
    reader.onload = () => done(reader.result as T);
    how(reader, blob);
  });
}

/** What was saved under a name. */
export const savedText = (name: string): Promise<string> => read<string>(name, (reader, blob) => reader.readAsText(blob));
export const savedBytes = async (name: string): Promise<Uint8Array> =>
  new Uint8Array(await read<ArrayBuffer>(name, (reader, blob) => reader.readAsArrayBuffer(blob)));

/** A file that is chosen in a field of the page. */
export function chosen(content: string, name: string): File {
  const file = new File([content], name);
  Object.assign(file, { text: async () => content });
  return file;
}
