import type { Draft } from 'immer';
import { findStep } from '@/core/document/params';
import { checkReferences } from '@/core/document/references';
import type { Lane, Shot, Step } from '@/core/document/types';
import { ShotError } from '@/core/errors';

/**
 * Every change a user can make is a function on a draft of the shot. They throw ShotError where the change is refused; the
 * draft is then thrown away.
 */
export type Change = (shot: Draft<Shot>) => void;

export const laneOf = (shot: Draft<Shot>, id: string): Draft<Lane> => {
  const lane = shot.lanes.find((l) => l.id === id);
  if (!lane) throw new ShotError('that lane is no longer there');
  return lane;
};

export const stepOf = (shot: Draft<Shot>, id: string): { step: Draft<Step>; lane: Draft<Lane>; index: number } => {
  const found = findStep(shot as Shot, id);
  if (!found) throw new ShotError('that step is no longer there');
  return found as { step: Draft<Step>; lane: Draft<Lane>; index: number };
};

export const stepNames = (lane: Draft<Lane>): string[] => lane.steps.map((s) => s.name);
export const refuseRings: Change = (shot) => checkReferences(shot as Shot);
