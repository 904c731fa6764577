'use client';
import { createContext, useContext } from 'react';
import { useStore } from 'zustand';
import type { Lane, Shot, Step, Tap } from '@/core/document';
import { findStep } from '@/core/document';
import { ShotError, messageOf } from '@/core/errors';
import type { Viewer } from '@/engine/browser';
import type { ShotSession, ShotState } from '@/store';
import type { Change } from '@/core/commands';
import { findZone } from '@/core/commands';
import { toast } from '../theme/toast';
import { useView } from './state';

export interface Bench {
  session: ShotSession;
  viewer: Viewer;
}

const BenchContext = createContext<Bench | null>(null);
export const BenchProvider = BenchContext.Provider;

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('there is no shot open here');
  return bench;
}

export const useShotState = <T,>(pick: (s: ShotState) => T): T => useStore(useBench().session.store, pick);
export const useShot = (): Shot => useShotState((s) => s.shot);
/** A part of the shot: what shows no more than that is not drawn again for every other change. */
export const useShotPart = <K extends keyof Shot>(part: K): Shot[K] => useShotState((s) => s.shot[part]);

/** Carries out a command; a refusal is told, and nothing has changed. Returns whether it was done. */
export function useRun(): (label: string, change: Change, gesture?: string) => boolean {
  const { session } = useBench();
  return (label, change, gesture) => {
    try {
      session.run(label, change, gesture);
      return true;
    } catch (e) {
      toast('error', e instanceof ShotError ? `${label}: ${e.message}` : messageOf(e));
      return false;
    }
  };
}

export function useSelectedStep(): { step: Step; lane: Lane; index: number } | null {
  const shot = useShot();
  const selection = useView((s) => s.selection);
  return selection?.kind === 'step' ? findStep(shot, selection.id) : null;
}

/** The selected step or zone: what has parameters, a mask and a mix. */
export function useSelectedLimited(): { step: Step; lane: Lane } | null {
  const shot = useShot();
  const selection = useView((s) => s.selection);
  const step = useSelectedStep();
  const found = selection?.kind === 'zone' ? findZone(shot, selection.id) : null;
  return found ? { step: found.zone, lane: found.lane } : step;
}

/** The point that is seen, or null where the shot has no lane. */
export function seenTap(shot: Shot, seen: Tap | null): Tap | null {
  if (seen && shot.lanes.some((l) => l.id === seen.lane)) return seen;
  return shot.result === null ? null : { lane: shot.result };
}

/** "keeper ▸ Screen key" */
export function tapName(shot: Shot, tap: Tap): string {
  const lane = shot.lanes.find((l) => l.id === tap.lane);
  if (!lane) return 'nothing';
  if (tap.after === '') return `${lane.name} ▸ start`;
  const step = tap.after === undefined ? undefined : lane.steps.find((s) => s.id === tap.after);
  return step ? `${lane.name} ▸ ${step.name}` : lane.name;
}
