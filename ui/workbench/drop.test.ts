import '../testing/bench';
import { chooseToLink, filesOfDrop, filesOfField } from './drop';

const file = (name: string): File => new File([name], name);
const fileHandle = (name: string) => ({ kind: 'file', name, getFile: async () => file(name) });
const folderHandle = (name: string, inside: readonly unknown[]) => ({
  kind: 'directory',
  name,
  async *values() {
    yield* inside;
  },
});
/** A folder as browsers without handles give it: some of its files at a time. */
const folderEntry = (path: string, inside: readonly unknown[], some = 2) => ({
  isFile: false,
  fullPath: path,
  createReader: () => {
    let at = 0;
    return { readEntries: (done: (e: readonly unknown[]) => void) => done(inside.slice(at, (at += some))) };
  },
});
const fileEntry = (path: string) => ({
  isFile: true,
  fullPath: path,
  file: (done: (f: File) => void) => done(file(path.split('/').pop()!)),
});

/** A drop: its list of items is empty as soon as the first answer comes, as in browsers. */
function dropOf(items: readonly Record<string, unknown>[], files: readonly File[] = []): DataTransfer {
  const list = [...items];
  void Promise.resolve().then(() => list.splice(0));
  return { items: list, files } as unknown as DataTransfer;
}
const paths = (given: readonly { path: string }[] | null): string[] => given!.map((f) => f.path);

describe('what is dropped', () => {
  test('folders are walked through with their paths, and every file keeps its handle', async () => {
    const plates = folderHandle('plates', [fileHandle('k.0001.png'), folderHandle('b', [fileHandle('k.0002.png')])]);
    const items = [plates, fileHandle('note.txt')].map((h) => ({ getAsFileSystemHandle: async () => h }));
    const given = await filesOfDrop(dropOf(items));
    expect(paths(given)).toEqual(['plates/k.0001.png', 'plates/b/k.0002.png', 'note.txt']);
    expect(given.map((f) => f.handle?.name)).toEqual(['k.0001.png', 'k.0002.png', 'note.txt']);
  });

  test('without handles, folders give their files by and by, and none is left out', async () => {
    const inside = [1, 2, 3, 4, 5].map((n) => fileEntry(`/plates/k.${n}.png`));
    const given = await filesOfDrop(dropOf([{ webkitGetAsEntry: () => folderEntry('/plates', inside) }]));
    expect(paths(given)).toEqual([1, 2, 3, 4, 5].map((n) => `plates/k.${n}.png`));
    expect(given.every((f) => f.handle === undefined)).toBe(true);
  });

  test('a handle that is refused leaves the entry; where there is neither, the plain files are taken', async () => {
    const refused = { getAsFileSystemHandle: () => Promise.reject(new Error('no')), webkitGetAsEntry: () => fileEntry('/a.png') };
    expect(paths(await filesOfDrop(dropOf([refused])))).toEqual(['a.png']);
    expect(paths(await filesOfDrop(dropOf([{}], [file('b.png'), file('c.png')])))).toEqual(['b.png', 'c.png']);
  });
});

test('a field for folders gives paths, one for files names', () => {
  const inFolder = Object.defineProperty(file('k.png'), 'webkitRelativePath', { value: 'plates/k.png' });
  expect(paths(filesOfField({ files: [inFolder, file('a.png')] } as unknown as HTMLInputElement))).toEqual(['plates/k.png', 'a.png']);
  expect(filesOfField({ files: null } as unknown as HTMLInputElement)).toEqual([]);
});

describe('files that stay where they are', () => {
  const picker = window as unknown as Record<string, unknown>;
  afterEach(() => {
    delete picker.showOpenFilePicker;
    delete picker.showDirectoryPicker;
  });

  test('are chosen one by one or by their folder', async () => {
    picker.showOpenFilePicker = async () => [fileHandle('a.exr'), fileHandle('b.exr')];
    picker.showDirectoryPicker = async () => folderHandle('plates', [fileHandle('c.exr')]);
    expect(paths(await chooseToLink('files'))).toEqual(['a.exr', 'b.exr']);
    expect(paths(await chooseToLink('folder'))).toEqual(['plates/c.exr']);
  });

  test('nothing is chosen where somebody changed their mind; what else goes wrong is told', async () => {
    picker.showOpenFilePicker = async () => {
      throw new DOMException('closed', 'AbortError');
    };
    expect(await chooseToLink('files')).toBeNull();
    picker.showOpenFilePicker = async () => {
      throw new DOMException('not here', 'SecurityError');
    };
    await expect(chooseToLink('files')).rejects.toThrow('not here');
  });
});
