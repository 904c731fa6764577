'use client';
import type { Value, Zone } from '@/core/document';
import { stepValues } from '@/core/document';
import { STEPS } from '@/core/steps';
import { setParams } from '@/core/commands';
import { useRun, useSelectedLimited, useShot } from '../../workbench/context';
import { useView } from '../../workbench/state';
import type { StagePlace } from '../place';
import type { Dragged } from './use-drag';
import { useDrag } from './use-drag';
import { useStepSpace } from './use-step-space';

/** A drag with Shift keeps to the axis along which it has gone further. */
export const alongAxis = ({ dx, dy, event }: Pick<Dragged<unknown>, 'dx' | 'dy' | 'event'>): [number, number] =>
  !event.shiftKey ? [dx, dy] : Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];

/** A drag in pixels of the step's own picture. */
type OwnDrag<P> = Omit<Dragged<P>, 'gesture'>;

/**
 * The selected step's or zone's parameters at the frame, its picture's place on the stage, and what makes a shape there draggable: each
 * move sets what `move` makes of it, in pixels of the step's own picture, and all of a drag is one undo.
 */
export function useHandle<P>(place: StagePlace) {
  const shot = useShot();
  const selected = useSelectedLimited()!;
  const run = useRun();
  const frame = useView((s) => s.frame);
  const dragOf = useDrag();
  const { step, lane } = selected;
  const space = useStepSpace({ lane: lane.id, after: step.type === 'zone' ? (step as Zone).last : step.id }, place);
  const values = stepValues(shot, STEPS.get(step.type)!.params, step, frame) as P;
  const drag = (label: string, move: (drag: OwnDrag<P>) => Partial<P>, ended?: () => void) =>
    dragOf(
      // What it is seen through stays as it was at the press: it may change with what is dragged.
      () => ({ values, space }),
      ({ dx, dy, from, event, at, gesture }) => {
        if (!from.space) return;
        const here = from.space.from(...at);
        const there = from.space.from(at[0] - dx, at[1] - dy);
        const own = { dx: here[0] - there[0], dy: here[1] - there[1], from: from.values, event, at: here };
        run(label, setParams(step.id, move(own) as Record<string, Value>, frame), gesture);
      },
      ended,
    );
  return { space, values, drag };
}
