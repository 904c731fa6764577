import type { Shot, Step } from '@/core/document';
import { stepValues } from '@/core/document';
import { STEPS } from '@/core/steps';
import { sourceTime, timesOf } from '@/core/steps';
import { useSelectedStep, useShotState } from '../workbench/context';
import { useView } from '../workbench/state';

/** The frame of the picture under a retime that is seen at a frame. */
export function takenAt(shot: Shot, step: Step, frame: number): number {
  const { params } = STEPS.get('retime')!;
  const p = stepValues(shot, params, step, frame) as never;
  return sourceTime(
    p,
    frame,
    timesOf(p, frame).map((t) => stepValues(shot, params, step, t) as never),
  );
}

/** The frame that the selected retime takes now; null where none is selected. */
export function useTaken(): number | null {
  const frame = useView((s) => s.frame);
  const selected = useSelectedStep();
  const retime = selected?.step.type === 'retime' && selected.step.on ? selected.step : null;
  return useShotState(({ shot }) => retime && takenAt(shot, retime, frame));
}
