import type { MediaFrame, Source } from '@/core/document/types';
import { messageOf } from '@/core/errors';
import { mediaDb } from '@/engine/browser/media-db';
import type { WorkerPool } from '@/engine/browser/pool';
import { READABLE, findSequences, rangesText } from '@/engine/sequences';
import { newId } from './make';

export interface BroughtIn {
  sources: Source[];
  /** Things to tell: gaps, frames of another size, files that could not be read. */
  warnings: string[];
  errors: string[];
}

/** Files become sources: a numbered sequence one source, everything else a still. Keeps each file once, by its hash. */
export async function bringIn(
  files: readonly File[],
  pool: WorkerPool,
  progress: (done: number, of: number) => void,
  signal: AbortSignal,
): Promise<BroughtIn> {
  const result: BroughtIn = { sources: [], warnings: [], errors: [] };
  const known = files.filter((f) => READABLE.test(f.name));
  for (const f of files) {
    if (!known.includes(f) && !f.name.startsWith('.')) {
      result.errors.push(`${f.name}: this kind of file is not known; PNG, JPEG, WebP, OpenEXR, DPX and Radiance HDR can be brought in`);
    }
  }
  let done = 0;
  for (const found of findSequences(known, (f) => f.webkitRelativePath || f.name)) {
    const frames: (MediaFrame & { size: string })[] = [];
    let first: Awaited<ReturnType<WorkerPool['inspect']>>['info'] | undefined;
    for (const { frame, file } of found.frames) {
      signal.throwIfAborted();
      try {
        const { info, hash } = await pool.inspect(file, signal);
        first ??= info;
        frames.push({
          frame,
          hash,
          name: file.name,
          ...(info.bounds && { bounds: info.bounds }),
          size: `${info.format.width}×${info.format.height}`,
        });
        if (!(await mediaDb.media.get(hash))) await mediaDb.media.put({ hash, name: file.name, blob: file });
      } catch (e) {
        if (signal.aborted) throw e;
        result.errors.push(messageOf(e));
      }
      progress(++done, known.length);
    }
    if (!first || frames.length === 0) continue;
    const size = frames[0]!.size;
    const odd = frames.filter((f) => f.size !== size);
    if (odd.length)
      result.warnings.push(
        `${found.name}: ${odd
          .map((f) => `${f.name} is ${f.size}`)
          .slice(0, 3)
          .join(', ')}; the others are ${size}`,
      );
    if (found.gaps.length)
      result.warnings.push(
        `${found.name}: frame ${rangesText(found.gaps)} is missing between ${frames[0]!.frame} and ${frames[frames.length - 1]!.frame}`,
      );
    const still = found.still;
    result.sources.push({
      id: newId(),
      name: found.name,
      kind: still ? 'still' : 'sequence',
      frames: frames.map(({ size: _, ...f }) => ({ ...f, frame: still ? 1 : f.frame })),
      format: first.format,
      channels: first.channels,
      container: first.container,
      colourSpace: first.colourSpace,
      colourReason: first.colourReason,
      alpha: first.alpha,
      missing: 'error',
      start: still ? 1 : frames[0]!.frame,
    });
  }
  return result;
}
