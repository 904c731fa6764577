import { findStep } from '@/core/document/params';
import type { Shot, Step } from '@/core/document/types';
import { STEPS } from '@/core/steps';
import type { Picking } from './state';
import { view } from './state';

/** What the brush of a step would draw into, and whether that is seen in its picture; null where it has none. */
export function brushingOf(step: Step): Picking | null {
  const param = Object.entries(STEPS.get(step.type)?.params ?? {}).find(([, d]) => d.kind === 'strokes');
  return param ? { step: step.id, param: param[0], shows: step.type === 'paint' && step.params.effect !== 'matte' } : null;
}

/** Takes the brush, or lays it down. Where a later step moves the picture, the picture after the brushed step is seen meanwhile. */
export function toggleBrush(shot: Shot, brushing: Picking): void {
  if (view.get().brushing?.step === brushing.step) return view.set({ brushing: null });
  const { lane, index } = findStep(shot, brushing.step)!;
  const moved = lane.steps.slice(index + 1).some((s) => s.on && STEPS.get(s.type)?.family === 'Place & warp');
  // A new brush paints, whatever the last one was left at.
  const brush = { ...view.get().brush, erase: false };
  view.set({ brushing, brush, picking: null, ...(moved && { seen: { lane: lane.id, after: brushing.step } }) });
}
