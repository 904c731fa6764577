import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { filesOf } from '@/core/document/media';
import { parseShot } from '@/core/document/schema';
import type { Shot } from '@/core/document/types';
import { MediaError, messageOf } from '@/core/errors';

/** A bundle is a zip of `shot.json` and `media/HASH`, one entry for each file that the shot names. */
export interface Bundle {
  shot: Shot;
  media: Map<string, Uint8Array>;
}

const LIMIT = 4 * 2 ** 30;

export function writeBundle({ shot, media }: Bundle): Uint8Array {
  const entries: Record<string, [Uint8Array, { level: 0 | 6 }]> = {
    'shot.json': [strToU8(JSON.stringify(shot, null, 1)), { level: 6 }],
  };
  for (const [hash, bytes] of media) entries[`media/${hash}`] = [bytes, { level: 0 }];
  return zipSync(entries);
}

/** Reads and checks a whole bundle before anything of it is used. Throws MediaError naming the file. */
export async function readBundle(bytes: Uint8Array, file: string, sha256: (b: Uint8Array) => Promise<string>): Promise<Bundle> {
  let total = 0;
  let entries: Record<string, Uint8Array>;
  try {
    entries = unzipSync(bytes, {
      filter: (e) => {
        total += e.originalSize;
        if (total > LIMIT) throw new Error('it unpacks to more than 4 GB');
        return e.name === 'shot.json' || e.name.startsWith('media/');
      },
    });
  } catch (e) {
    throw new MediaError(file, `this is not a whole bundle (${messageOf(e)})`);
  }
  const text = entries['shot.json'];
  if (!text) throw new MediaError(file, 'this is not a bundle: there is no shot.json in it');
  let shot: Shot;
  try {
    shot = parseShot(JSON.parse(strFromU8(text)));
  } catch (e) {
    throw new MediaError(file, `its shot.json cannot be used: ${messageOf(e)}`);
  }
  const media = new Map<string, Uint8Array>();
  for (const source of shot.sources) {
    for (const f of filesOf(source)) {
      const data = entries[`media/${f.hash}`];
      if (!data) throw new MediaError(file, `the media "${f.name}" of "${source.name}" is not in it`);
      if (!media.has(f.hash) && (await sha256(data)) !== f.hash)
        throw new MediaError(file, `the media "${f.name}" of "${source.name}" is damaged`);
      media.set(f.hash, data);
    }
  }
  return { shot, media };
}
