import { createHash } from 'node:crypto';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readBundle } from '../bundle';
import type { OpenShot } from './host';
import { readBytes } from './host';

/** Opens a bundle; its media is unpacked into a temporary folder. Throws MediaError. */
export async function openBundleFile(path: string): Promise<OpenShot> {
  const { shot, media } = await readBundle(await readBytes(path), path, async (b) => createHash('sha256').update(b).digest('hex'));
  const folder = await mkdtemp(join(tmpdir(), 'ostracon-'));
  const files = new Map<string, string>();
  for (const [hash, bytes] of media) {
    files.set(hash, join(folder, hash));
    await writeFile(join(folder, hash), bytes);
  }
  return { shot, files };
}
