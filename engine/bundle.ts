import type { Shot } from '@/core/document';
import { LIMITS, filesOfShot, parseShotText } from '@/core/document';
import { Cancelled, MediaError, messageOf } from '@/core/errors';
import type { ByteSource, ByteTarget } from './zip';
import { ZipFiles, ZipSink } from './zip';

/** A bundle is a zip of `shot.json` and `media/HASH`, one entry for each file that the shot names. */
export interface Bundle {
  shot: Shot;
  /** Hashes of its media, each once, with the name that the shot has for it. */
  media: ReadonlyMap<string, string>;
  /** Bytes of all of them. */
  bytes: number;
  file(hash: string): Promise<Blob>;
}

/** Every media file of a shot once: its name by its hash. */
export const mediaOfShot = (shot: Shot): Map<string, string> => new Map(filesOfShot(shot).map((f) => [f.hash, f.name]));

/** Writes a shot and its media, one file at a time. */
export async function writeBundle(
  shot: Shot,
  file: (hash: string, name: string) => Promise<Blob | Uint8Array>,
  to: ByteTarget,
  progress: (done: number, of: number) => void = () => undefined,
  signal?: AbortSignal,
): Promise<void> {
  const zip = new ZipSink(to);
  await zip.write('shot.json', new TextEncoder().encode(JSON.stringify(shot, null, 1)), true);
  const media = mediaOfShot(shot);
  let done = 0;
  for (const [hash, name] of media) {
    if (signal?.aborted) throw new Cancelled();
    await zip.write(`media/${hash}`, await file(hash, name));
    progress(++done, media.size);
  }
  await zip.finish();
}

/** Checks a whole bundle: that its shot can be opened, and that all its media is there and undamaged. Throws MediaError naming the file. */
export async function readBundle(data: ByteSource, file: string, sha256: (b: Blob) => Promise<string>): Promise<Bundle> {
  let zip: ZipFiles;
  try {
    zip = await ZipFiles.open(data, file);
  } catch (e) {
    throw new MediaError(file, `this is not a whole bundle (${messageOf(e).replace(`${file}: `, '')})`);
  }
  if (!zip.has('shot.json')) throw new MediaError(file, 'this is not a bundle: there is no shot.json in it');
  const text = await (await zip.read('shot.json', LIMITS.document)).text();
  let shot: Shot;
  try {
    shot = parseShotText(text);
  } catch (e) {
    throw new MediaError(file, `its shot.json cannot be used: ${messageOf(e)}`);
  }
  const media = mediaOfShot(shot);
  let bytes = 0;
  for (const [hash, name] of media) {
    const entry = `media/${hash}`;
    if (!zip.has(entry)) throw new MediaError(file, `the media "${name}" is not in it`);
    if ((await sha256(await zip.read(entry))) !== hash) throw new MediaError(file, `the media "${name}" is damaged`);
    bytes += zip.size(entry);
  }
  return { shot, media, bytes, file: (hash) => zip.read(`media/${hash}`) };
}
