import { rename, rm } from 'node:fs/promises';
import { closeSync, openSync, rmSync, writeFile } from 'node:fs';
import { promisify } from 'node:util';
import { basename, dirname, join } from 'node:path';
import { MediaError, messageOf } from '@/core/errors';
import { whenLeft } from './leaving';

const write = promisify(writeFile);

/** Writes a file whole or not at all: beside its place first, then renamed. What was there stays where that fails. Throws MediaError. */
export async function writeWhole(path: string, bytes: Uint8Array | string): Promise<void> {
  const part = join(dirname(path), `.${basename(path)}.${process.pid}.part`);
  const forget = whenLeft(() => rmSync(part, { force: true }));
  try {
    // Opened here and now: one that a thread is still about to make would come after an interruption had tidied up.
    const file = openSync(part, 'w');
    try {
      await write(file, bytes, { flush: true });
    } finally {
      closeSync(file);
    }
    await rename(part, path);
  } catch (e) {
    await rm(part, { force: true }).catch(() => undefined);
    throw new MediaError(path, `it cannot be written (${messageOf(e)}); what was there before is as it was`);
  } finally {
    forget();
  }
}
