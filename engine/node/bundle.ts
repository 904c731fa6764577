import { createHash } from 'node:crypto';
import { rmSync } from 'node:fs';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MediaError, messageOf } from '@/core/errors';
import { readBundle } from '../bundle';
import { FileReader } from './file-reader';
import type { OpenShot } from './host';

async function sha256(blob: Blob): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of blob.stream() as unknown as AsyncIterable<Uint8Array>) hash.update(chunk);
  return hash.digest('hex');
}

/** Opens a bundle; its media is unpacked into a temporary folder, which `closeNow` removes. Throws MediaError. */
export async function openBundleFile(path: string): Promise<OpenShot> {
  const reader = await FileReader.open(path).catch((e: unknown) => {
    const missing = (e as NodeJS.ErrnoException).code === 'ENOENT';
    throw new MediaError(path, missing ? 'there is no such file' : messageOf(e));
  });
  const folder = await mkdtemp(join(tmpdir(), 'ostracon-'));
  const closeNow = (): void => rmSync(folder, { recursive: true, force: true });
  try {
    const { shot, media, file } = await readBundle(reader, path, sha256);
    const files = new Map<string, string>();
    for (const hash of media.keys()) {
      files.set(hash, join(folder, hash));
      await writeFile(join(folder, hash), (await file(hash)).stream() as unknown as AsyncIterable<Uint8Array>);
    }
    return { shot, files, closeNow };
  } catch (e) {
    closeNow();
    throw e;
  } finally {
    await reader.close();
  }
}
