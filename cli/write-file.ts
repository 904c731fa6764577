import { rename, rm, writeFile } from 'node:fs/promises';
import { rmSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { MediaError, messageOf } from '@/core/errors';
import { whenLeft } from './leaving';

/** Writes a file whole or not at all: beside its place first, then renamed. What was there stays where that fails. Throws MediaError. */
export async function writeWhole(path: string, bytes: Uint8Array | string): Promise<void> {
  const part = join(dirname(path), `.${basename(path)}.${process.pid}.part`);
  const forget = whenLeft(() => rmSync(part, { force: true }));
  try {
    await writeFile(part, bytes, { flush: true });
    await rename(part, path);
  } catch (e) {
    await rm(part, { force: true }).catch(() => undefined);
    throw new MediaError(path, `it cannot be written (${messageOf(e)}); what was there before is as it was`);
  } finally {
    forget();
  }
}
