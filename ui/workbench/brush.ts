import { findStep } from '@/core/document/params';
import type { Shot, Step } from '@/core/document/types';
import { STEPS } from '@/core/steps';
import { seenTap } from './context';
import { movedSince } from './moved';
import type { Picking } from './state';
import { view } from './state';

/** What the brush of a step would draw into, and whether that is seen in its picture; null where it has none. */
export function brushingOf(step: Step): Picking | null {
  for (const [param, d] of Object.entries(STEPS.get(step.type)?.params ?? {})) {
    // A matte that is brushed is seen in alpha only.
    if (d.kind === 'strokes') return { step: step.id, param, shows: d.coloured === true && step.params.output !== 'matte' };
  }
  return null;
}

/** Takes the brush, or lays it down. Where a later step moves the picture, the picture after the brushed step is seen meanwhile. */
export function toggleBrush(shot: Shot, brushing: Picking): void {
  if (view.get().brushing?.step === brushing.step) return view.set({ brushing: null });
  const own = { lane: findStep(shot, brushing.step)!.lane.id, after: brushing.step };
  const seen = seenTap(shot, view.get().seen);
  // A new brush paints, whatever the last one was left at.
  const brush = { ...view.get().brush, erase: false };
  view.set({ brushing, brush, picking: null, ...(seen && movedSince(shot, own, seen) && { seen: own }) });
}
