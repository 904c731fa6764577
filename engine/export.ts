import { Zip, ZipPassThrough } from 'fflate';
import type { Shot } from '@/core/document/types';
import { Cancelled } from '@/core/errors';
import type { OutputSettings } from '@/core/formats/output';
import type { PictureHost } from './host';
import { frameName } from './sequences';

export interface ExportJob {
  lane: string;
  first: number;
  last: number;
  scale: number;
  /** With #### for the frame, without the ending. */
  name: string;
  settings: OutputSettings;
}

/** Takes finished files one by one, in order of frames. */
export interface Sink {
  write(name: string, bytes: Uint8Array): Promise<void>;
}

/** Renders a range to numbered files, some frames at a time, handed on in order. */
export async function exportRange(
  host: Pick<PictureHost, 'encode'>,
  shot: Shot,
  job: ExportJob,
  sink: Sink,
  abreast: number,
  progress: (done: number, of: number) => void,
  signal: AbortSignal,
): Promise<void> {
  const total = job.last - job.first + 1;
  const started = new Map<number, Promise<Uint8Array>>();
  const start = (f: number): void => {
    if (f > job.last) return;
    const made = host.encode(shot, job.lane, f, job.scale, job.settings, signal);
    // A failure is told when its turn comes.
    made.catch(() => undefined);
    started.set(f, made);
  };
  for (let i = 0; i < abreast; i++) start(job.first + i);
  for (let f = job.first; f <= job.last; f++) {
    const bytes = await started.get(f)!;
    started.delete(f);
    if (signal.aborted) throw new Cancelled();
    start(f + abreast);
    await sink.write(`${frameName(job.name, f)}.${job.settings.container}`, bytes);
    progress(f - job.first + 1, total);
  }
}

/** Collects files in a zip; pictures are compressed already, so they are stored. */
export class ZipSink implements Sink {
  private readonly parts: BlobPart[] = [];
  private readonly zip = new Zip((error, data) => {
    if (error) throw error;
    this.parts.push(data as Uint8Array<ArrayBuffer>);
  });

  async write(name: string, bytes: Uint8Array): Promise<void> {
    const entry = new ZipPassThrough(name);
    this.zip.add(entry);
    entry.push(bytes, true);
  }

  finish(): Blob {
    this.zip.end();
    return new Blob(this.parts, { type: 'application/zip' });
  }
}
