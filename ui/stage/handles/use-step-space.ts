'use client';
import { useMemo } from 'react';
import { stepSpace } from '@/core/evaluate';
import type { Tap } from '@/core/document';
import type { Format } from '@/core/picture';
import { STEPS } from '@/core/steps';
import { useView } from '../../workbench/state';
import { useSeen } from '../../workbench/use-picture';
import type { StagePlace } from '../place';

/** The picture of a step as it lies on the stage: through conforms, transforms and pins that come after it. */
export interface Space {
  readonly format: Format;
  /** From positions of the step's picture to CSS pixels of the stage, and back. */
  at(x: number, y: number): [number, number];
  from(x: number, y: number): [number, number];
}

/** Where the picture after a point is seen on the stage; null where it is not. */
export function useStepSpace({ lane, after }: Tap, place: StagePlace): Space | null {
  const { shot, tap } = useSeen();
  const frame = useView((s) => s.frame);
  const found = useMemo(
    () => (tap ? stepSpace(shot, after === undefined ? { lane } : { lane, after }, tap, frame, STEPS) : null),
    [shot, lane, after, tap, frame],
  );
  if (!found) return null;
  const back = found.toSeen.inverse;
  return {
    format: found.format,
    at: (x, y) => {
      const [u, v] = found.toSeen.place(x, y);
      return [place.x + u * place.zoom, place.y + v * place.zoom];
    },
    from: (x, y) => back.place((x - place.x) / place.zoom, (y - place.y) / place.zoom),
  };
}
