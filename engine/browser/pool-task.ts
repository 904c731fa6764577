import type { Shot } from '@/core/document';
import type { Request } from '@/core/evaluate';
import { makePlan } from '@/core/evaluate';
import type { Rect } from '@/core/geometry';
import { rect } from '@/core/geometry';
import { STEPS } from '@/core/steps';
import { ShotSender } from '../shot-link';
import type { Hired } from './hired';
import type { PictureWorker } from './picture.worker';
import type { Phase, WorkerFigures } from './protocol';

/** What is wanted sooner goes first. */
export type Priority = 'view' | 'export' | 'ahead' | 'thumbnail';
export const ORDER: Record<Priority, number> = { view: 0, export: 1, ahead: 2, thumbnail: 3 };

/** A piece of work that waits for a worker, or is at one. */
export interface Task {
  priority: Priority;
  serial: number;
  /** The worker that has seen this part of the frame before, if it is free. */
  seat?: number;
  /** Can be stopped half-way to make room for the screen, and begun again. */
  stoppable?: boolean;
  status: Int32Array;
  /** Given up by whoever asked for it; a task that merely makes room comes back into the queue. */
  aborted: boolean;
  run(seat: Seat, status: Int32Array): Promise<unknown>;
  /** What it was at, for a message. */
  place(node: number, phase: Phase): string;
  resolve(value: unknown): void;
  reject(e: unknown): void;
  /** No worker is at it any more; `clean` where none may still write. */
  ended(clean: boolean): void;
}

/** A place for a worker, which may be between two of them. */
export interface Seat {
  hired: Hired<PictureWorker> | null;
  task: Task | null;
  beat: number;
  beatAt: number;
  /** When its last task ended. */
  idleSince: number;
  figures: WorkerFigures | null;
  /** What it has been sent of the shot. */
  link: ShotSender;
}

export const emptySeat = (): Seat => ({
  hired: null,
  task: null,
  beat: 0,
  beatAt: 0,
  idleSince: 0,
  figures: null,
  link: new ShotSender(),
});

/** A region in bands of about equal height, one a worker. */
export function cut(region: Rect, count: number): Rect[] {
  const height = region.y1 - region.y0;
  const n = Math.min(count, height);
  const at = (i: number): number => region.y0 + Math.round((i * height) / n);
  return Array.from({ length: n }, (_, i) => rect(region.x0, at(i), region.x1, at(i + 1)));
}

/** "keeper ▸ Blur" for the number of a plan's node, as workers tell it (0 where none was begun), or what else it was at. */
export function placeOf(shot: Shot, request: Request): Task['place'] {
  return (node, phase) => {
    if (phase === 'writing') return `Writing the file of frame ${request.frame}`;
    if (phase === 'reading') return `Reading the files of frame ${request.frame}`;
    const at = node > 0 ? makePlan(shot, request, STEPS).nodes[node - 1] : undefined;
    if (at?.kind === 'step') return `${at.lane.name} ▸ ${at.step.name}`;
    return at?.kind === 'source' ? `Reading "${at.source.name}"` : `Frame ${request.frame}`;
  };
}
