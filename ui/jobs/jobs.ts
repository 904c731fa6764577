import { create } from 'zustand';

export type JobKind =
  | 'bring in'
  | 'export'
  | 'proxy'
  | 'report'
  | 'reading'
  | 'bundle'
  | 'read through'
  | 'snap'
  | 'grain'
  | 'meter'
  | 'light'
  | 'lens'
  | 'camera'
  | 'scene'
  | 'training';

/** Long work that goes on beside whatever else is done. */
export interface Job {
  id: number;
  kind: JobKind;
  /** "Exporting keeper.####.exr" */
  title: string;
  /** What is counted: files, frames. */
  unit: string;
  done: number;
  of: number;
  /** performance.now() at its start. */
  since: number;
  stop(): void;
}

export const useJobs = create<{ list: readonly Job[] }>(() => ({ list: [] }));
let serial = 0;

export interface RunningJob {
  signal: AbortSignal;
  tell(done: number, of: number): void;
  /** From now on something else is counted: seconds, after frames. */
  counts(unit: string, of: number): void;
  end(): void;
}

/** Puts a job into the list until it ends; stopping it aborts its signal. */
export function startJob(kind: JobKind, title: string, unit: string, of: number): RunningJob {
  const id = ++serial;
  const controller = new AbortController();
  const job: Job = { id, kind, title, unit, done: 0, of, since: performance.now(), stop: () => controller.abort() };
  useJobs.setState(({ list }) => ({ list: [...list, job] }));
  return {
    signal: controller.signal,
    tell: (done, total) => useJobs.setState(({ list }) => ({ list: list.map((j) => (j.id === id ? { ...j, done, of: total } : j)) })),
    counts: (unit, of) =>
      useJobs.setState(({ list }) => ({
        list: list.map((j) => (j.id === id ? { ...j, unit, done: 0, of: Math.round(of), since: performance.now() } : j)),
      })),
    end: () => useJobs.setState(({ list }) => ({ list: list.filter((j) => j.id !== id) })),
  };
}

/** Stops all work: what it was for is left. */
export const stopJobs = (): void => useJobs.getState().list.forEach((j) => j.stop());

/** The first job of a kind that is under way. */
export const useJob = (kind: JobKind, title?: string): Job | undefined =>
  useJobs((s) => s.list.find((j) => j.kind === kind && (title === undefined || j.title === title)));

/** "12 of 48 frames · 9 s left"; the time is told once it is worth waiting for. */
export function progressText({ done, of, unit, since }: Job, now = performance.now()): string {
  const left = done > 0 ? ((now - since) / done) * (of - done) : 0;
  return `${done} of ${of} ${unit}${left > 2000 ? ` · ${Math.ceil(left / 1000)} s left` : ''}`;
}
