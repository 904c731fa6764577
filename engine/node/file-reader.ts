import type { FileHandle } from 'node:fs/promises';
import { open } from 'node:fs/promises';
import { Reader } from '@zip.js/zip.js';

/** A file on disk, read where it is asked for: this host's own blobs end at 4 GB. */
export class FileReader extends Reader<string> {
  private constructor(
    path: string,
    private readonly handle: FileHandle,
    size: number,
  ) {
    super(path);
    this.size = size;
  }

  static async open(path: string): Promise<FileReader> {
    const handle = await open(path);
    return new FileReader(path, handle, (await handle.stat()).size);
  }

  override async readUint8Array(index: number, length: number): Promise<Uint8Array> {
    const bytes = new Uint8Array(Math.max(0, Math.min(length, this.size - index)));
    let got = 0;
    while (got < bytes.length) {
      const { bytesRead } = await this.handle.read(bytes, got, bytes.length - got, index + got);
      if (bytesRead === 0) break;
      got += bytesRead;
    }
    return bytes.subarray(0, got);
  }

  close(): Promise<void> {
    return this.handle.close();
  }
}
