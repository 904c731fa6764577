'use client';
import { useRef } from 'react';
import { admit, resolveParam } from '@/core/document/params';
import type { Value } from '@/core/document/types';
import { STEPS } from '@/core/steps';
import { setParams } from '@/store/commands';
import { useRun, useSelectedStep, useShot } from '../../workbench/context';
import { useView, view } from '../../workbench/state';

let gestures = 0;

/** The selected step's parameters at the frame, and one undoable gesture from press to release. */
export function useHandle<P>() {
  const shot = useShot();
  const selected = useSelectedStep()!;
  const run = useRun();
  const frame = useView((s) => s.frame);
  const gesture = useRef('');
  const definition = STEPS.get(selected.step.type)!;
  const values = Object.fromEntries(
    Object.entries(definition.params).map(([name, d]) => [
      name,
      admit(d, resolveParam(shot, selected.step.params[name], d.default, frame)),
    ]),
  ) as P;
  return {
    shot,
    values,
    step: selected.step,
    begin: (): void => {
      gesture.current = `handle ${++gestures}`;
      view.set({ dragging: true });
    },
    change: (label: string, change: Record<string, Value>): void => {
      run(label, setParams(selected.step.id, change, frame), gesture.current);
    },
    end: (): void => view.set({ dragging: false }),
  };
}
