import type { Shot } from '@/core/document';
import { Cancelled } from '@/core/errors';
import type { OutputSettings } from '@/core/formats';
import type { PictureHost } from './host';
import { frameName } from './sequences';

export interface ExportJob {
  lane: string;
  first: number;
  last: number;
  /** Every so many frames one is taken; each without it. */
  step?: number;
  /** The number in the first file's name, where that is not its frame. */
  start?: number;
  scale: number;
  /** With #### for the frame, without the ending. */
  name: string;
  settings: OutputSettings;
}

/** Takes finished files one by one, in order of frames. A file's bytes may be the host's again once it is written. */
export interface Sink {
  write(name: string, bytes: Uint8Array): Promise<void>;
}

/** The frames of a job and the names of their files. */
export function filesOf({ first, last, step = 1, start = first, name, settings }: ExportJob): { frame: number; name: string }[] {
  const count = Math.floor((last - first) / step) + 1;
  return Array.from({ length: count }, (_, i) => {
    const frame = first + i * step;
    return { frame, name: `${frameName(name, start + i * step)}.${settings.container}` };
  });
}

/** Renders a range to numbered files, some frames at a time, handed on in order; `only` says which of them are wanted. */
export async function exportRange(
  host: Pick<PictureHost, 'encode' | 'takeBack'>,
  shot: Shot,
  job: ExportJob,
  sink: Sink,
  abreast: number,
  progress: (done: number, of: number) => void,
  signal: AbortSignal,
  only: (name: string) => boolean = () => true,
): Promise<void> {
  const files = filesOf(job).filter((f) => only(f.name));
  const started = new Map<number, Promise<Uint8Array>>();
  const start = (i: number): void => {
    const file = files[i];
    if (!file) return;
    const made = host.encode(shot, job.lane, file.frame, job.scale, job.settings, signal);
    // A failure is told when its turn comes.
    made.catch(() => undefined);
    started.set(i, made);
  };
  for (let i = 0; i < abreast; i++) start(i);
  for (const [i, { name }] of files.entries()) {
    const bytes = await started.get(i)!;
    started.delete(i);
    if (signal.aborted) throw new Cancelled();
    start(i + abreast);
    await sink.write(name, bytes);
    host.takeBack?.(bytes);
    progress(i + 1, files.length);
  }
}
