'use client';
import { useMemo } from 'react';
import { findStep } from '@/core/document/params';
import type { Shot, Tap } from '@/core/document/types';
import { makePlan } from '@/core/evaluate/plan';
import { idLayers } from '@/core/formats/cryptomatte';
import type { PictureInfo } from '@/core/picture';
import { STEPS } from '@/core/steps';
import { namesOfIds } from '@/store/passes';
import { useShot } from '../workbench/context';
import { useView } from '../workbench/state';

/** The point that a step stands on; null where it is no step of a lane. */
export function inputTap(shot: Shot, step: string): Tap | null {
  const found = findStep(shot, step);
  return found && { lane: found.lane.id, after: found.lane.steps[found.index - 1]?.id ?? '' };
}

/** By the shot as it is, an immutable value: several fields of a panel ask for the same. */
const known = new WeakMap<Shot, Map<string, PictureInfo | null>>();

/** What is known of the picture at a point, without its pixels; null where that cannot be planned. */
export function infoAt(shot: Shot, tap: Tap | null, frame: number): PictureInfo | null {
  if (!tap) return null;
  const infos = known.get(shot) ?? new Map<string, PictureInfo | null>();
  known.set(shot, infos);
  const key = `${tap.lane} ${tap.after} ${frame}`;
  let info = infos.get(key);
  if (info === undefined) infos.set(key, (info = planned(shot, tap, frame)));
  return info;
}

function planned(shot: Shot, tap: Tap, frame: number): PictureInfo | null {
  try {
    return makePlan(shot, { tap, frame, scale: 1, channels: ['A'] }, STEPS).root.info;
  } catch {
    return null;
  }
}

/** The picture that a step stands on. */
export function useInput(step: string): { tap: Tap | null; info: PictureInfo | null } {
  const shot = useShot();
  const frame = useView((s) => s.frame);
  return useMemo(() => {
    const tap = inputTap(shot, step);
    return { tap, info: infoAt(shot, tap, frame) };
  }, [shot, step, frame]);
}

/** Names by id, by the set of ids that they are of. */
export const idNames = (shot: Shot): Map<string, Readonly<Record<string, string>>> =>
  namesOfIds(shot, (s) => idLayers(Object.fromEntries(s.attributes ?? []), s.channels));
