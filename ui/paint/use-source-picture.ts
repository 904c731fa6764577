import { useEffect, useState } from 'react';
import type { Tap } from '@/core/document';
import { findStep } from '@/core/document';
import type { Rendered } from '@/engine';
import { useBench, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { requestFor } from '../workbench/use-picture';

/**
 * The picture that a brush copies from, for its ghost: the step's own on a frame, or its other picture. Half size is enough; nothing is
 * asked for without a step. */
export function useSourcePicture(step: string | null, frame: number | null, other: boolean): Rendered | null {
  const { viewer } = useBench();
  const shot = useShot();
  const now = useView((s) => s.frame);
  const [got, setGot] = useState<Rendered | null>(null);
  useEffect(() => {
    const found = step === null ? null : findStep(shot, step);
    if (!found) return undefined;
    const tap: Tap | undefined = other ? found.step.feeds.other : { lane: found.lane.id, after: found.step.id };
    if (!tap) {
      setGot(null);
      return undefined;
    }
    const controller = new AbortController();
    viewer
      .fetchToKeep(shot, requestFor(tap, frame ?? now, 0.5), 'view', controller.signal)
      .then((r) => !controller.signal.aborted && setGot(r))
      .catch(() => undefined);
    return () => controller.abort();
  }, [viewer, shot, step, frame, other, now]);
  return got;
}
