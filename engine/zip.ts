import type { Entry, FileEntry } from '@zip.js/zip.js';
import { BlobReader, BlobWriter, Reader, Uint8ArrayReader, ZipReader, ZipWriter, configure } from '@zip.js/zip.js';
import { MediaError, messageOf } from '@/core/errors';
import type { Sink } from './export';

// Whoever packs much does so in a worker of its own already. A chunk is what is read at once: a film has many.
configure({ useWebWorkers: false, chunkSize: 2 ** 20 });

/** Where bytes come from: a blob, or what reads a file of any size. */
export type ByteSource = Blob | Reader<unknown>;

const readerOf = (from: ByteSource): Reader<unknown> => (from instanceof Reader ? from : new BlobReader(from));

/** Where bytes go as they come: a file on disk, or memory. */
export type ByteTarget = WritableStream<Uint8Array>;

/** Packs files into a zip as they come; none is held. More than 4 GB or 65,535 files make it a Zip64. */
export class ZipSink implements Sink {
  private readonly zip: ZipWriter<unknown>;

  constructor(to: ByteTarget) {
    this.zip = new ZipWriter(to, { level: 0 });
  }

  /** Pictures are compressed already, so they are stored; `pack` compresses. */
  async write(name: string, bytes: Uint8Array | ByteSource, pack = false): Promise<void> {
    const from = bytes instanceof Uint8Array ? new Uint8ArrayReader(bytes) : readerOf(bytes);
    await this.zip.add(name, from, { level: pack ? 6 : 0 });
  }

  async finish(): Promise<void> {
    await this.zip.close();
  }
}

/** Most files of a zip that is read, and how much smaller than its contents a file of it may be: nobody's pictures shrink further. */
const MOST_ENTRIES = 200_000;
const MOST_RATIO = 200;

/** The files of a zip by name; nothing is unpacked yet. Throws MediaError. */
export class ZipFiles {
  private constructor(
    private readonly file: string,
    private readonly entries: ReadonlyMap<string, FileEntry>,
  ) {}

  static async open(data: ByteSource, file: string): Promise<ZipFiles> {
    const entries = new Map<string, FileEntry>();
    try {
      const reader = new ZipReader(readerOf(data));
      for await (const entry of reader.getEntriesGenerator()) {
        if (entries.size >= MOST_ENTRIES) throw new Error(`it has more than ${MOST_ENTRIES} files`);
        if (!isFolder(entry)) entries.set(entry.filename, entry);
      }
    } catch (e) {
      throw new MediaError(file, `this is not a whole zip (${messageOf(e)})`);
    }
    return new ZipFiles(file, entries);
  }

  has(name: string): boolean {
    return this.entries.has(name);
  }

  size(name: string): number {
    return this.entries.get(name)?.uncompressedSize ?? 0;
  }

  /** The contents of a file of at most so many bytes. */
  async read(name: string, most = Infinity): Promise<Blob> {
    const entry = this.entries.get(name);
    if (!entry) throw new MediaError(this.file, `there is no ${name} in it`);
    const { uncompressedSize: size, compressedSize } = entry;
    if (size > most) throw new MediaError(this.file, `its ${name} unpacks to more than ${Math.round(most / 2 ** 20)} MB`);
    if (size > MOST_RATIO * compressedSize + 2 ** 20) throw new MediaError(this.file, `its ${name} unpacks to far more than it should`);
    const parts = new BlobWriter();
    let left = size;
    const counted = new TransformStream<Uint8Array, Uint8Array>({
      transform(chunk, controller) {
        left -= chunk.length;
        if (left < 0) throw new Error('it unpacks to more than it says');
        controller.enqueue(chunk);
      },
    });
    try {
      parts.init?.();
      await Promise.all([entry.getData(counted.writable), counted.readable.pipeTo(parts.writable)]);
      return await parts.getData();
    } catch (e) {
      throw new MediaError(this.file, `its ${name} is damaged (${messageOf(e)})`);
    }
  }
}

const isFolder = (entry: Entry): entry is Exclude<Entry, FileEntry> => entry.directory;
