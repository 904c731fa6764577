'use client';
import type { Value } from '@/core/document/types';
import { stepValues } from '@/core/document/values';
import { STEPS } from '@/core/steps';
import { setParams } from '@/store/commands';
import { useRun, useSelectedLimited, useShot } from '../../workbench/context';
import { useView } from '../../workbench/state';
import type { Dragged } from './use-drag';
import { useDrag } from './use-drag';

/** A drag with Shift keeps to the axis along which it has gone further. */
export const alongAxis = ({ dx, dy, event }: Dragged<unknown>): [number, number] =>
  !event.shiftKey ? [dx, dy] : Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];

/**
 * The selected step's or zone's parameters at the frame, and what makes a shape on the stage draggable: each move sets what `move` makes of
 * it, and all of a drag is one undo.
 */
export function useHandle<P>() {
  const shot = useShot();
  const selected = useSelectedLimited()!;
  const run = useRun();
  const frame = useView((s) => s.frame);
  const dragOf = useDrag();
  const values = stepValues(shot, STEPS.get(selected.step.type)!.params, selected.step, frame) as P;
  const drag = (label: string, move: (drag: Dragged<P>) => Partial<P>, ended?: () => void) =>
    dragOf(
      () => values,
      (d) => void run(label, setParams(selected.step.id, move(d) as Record<string, Value>, frame), d.gesture),
      ended,
    );
  return { shot, values, drag };
}
