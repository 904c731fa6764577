import { create } from 'zustand';
import type { Shot } from '@/core/document';
import type { Crop, Sheet, WeightsFile } from '@/core/learn';
import type { Report } from '@/engine';

interface Training {
  /** The lesson that is trained. */
  reading: string | null;
  stage: '' | 'gathering' | 'training';
  report: Report | null;
  sheet: readonly Sheet[];
  fed: readonly Crop[];
  /** What is learnt by now: what is on screen is made with it. */
  live: WeightsFile | null;
}
export const IDLE: Training = { reading: null, stage: '', report: null, sheet: [], fed: [], live: null };

/** What a training does at the moment. Nothing here is part of the shot. */
export const useTraining = create<Training>(() => IDLE);

const taught = new WeakMap<Shot, { hash: string; shot: Shot }>();

/** The shot with what a training has learnt by now. */
export function withLive(shot: Shot, { reading, live }: Pick<Training, 'reading' | 'live'>): Shot {
  if (!reading || !live) return shot;
  const known = taught.get(shot);
  if (known?.hash === live.hash) return known.shot;
  const readings = shot.readings.map((r) => (r.id === reading && r.kind === 'lesson' ? { ...r, weights: live } : r));
  const made = { ...shot, readings };
  taught.set(shot, { hash: live.hash, shot: made });
  return made;
}

/** The lane on which a lesson is looked at. */
export const LESSON_LANE = 'lesson now';

const looked = new WeakMap<Shot, Map<string, Shot | null>>();

/** The shot with a lane that shows what a lesson makes of its picture; null where there is no such lesson. */
export function lessonShot(shot: Shot, id: string): Shot | null {
  let known = looked.get(shot);
  if (!known) looked.set(shot, (known = new Map()));
  let made = known.get(id);
  if (made !== undefined) return made;
  const lesson = shot.readings.find((r) => r.id === id && r.kind === 'lesson');
  made = null;
  if (lesson) {
    const step = { id: 'lesson now step', type: 'learn', name: lesson.name, on: true, params: { lesson: id }, feeds: {}, mix: 1 };
    const lane = { id: LESSON_LANE, name: lesson.name, start: { tap: lesson.from }, steps: [step], muted: false, collapsed: false };
    made = { ...shot, lanes: [...shot.lanes, lane] };
  }
  known.set(id, made);
  return made;
}
