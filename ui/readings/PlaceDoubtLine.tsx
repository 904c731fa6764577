'use client';
import Button from '@mui/material/Button';
import { useEffect, useState } from 'react';
import type { PlaceDoubt, PointReading } from '@/core/readings';
import { tellDoubt } from '@/core/readings';
import { readingWorker } from '@/engine/browser';
import { readingCommands } from '@/core/commands';
import { useBench, useRun } from '../workbench/context';
import { requestFor } from '../workbench/use-picture';

/** Milliseconds that a point must stand before it is judged. */
const REST = 400;

/** Says what speaks against the place of a point that is not measured yet, and offers a better one nearby. */
export function PlaceDoubtLine({ reading }: { reading: PointReading }) {
  const { viewer, session } = useBench();
  const run = useRun();
  const [doubt, setDoubt] = useState<PlaceDoubt | null>(null);
  const { id, at, from, reference, channel, settings } = reading;
  const fresh = reading.frames.length < 2;
  useEffect(() => {
    setDoubt(null);
    if (!fresh) return undefined;
    const controller = new AbortController();
    const judge = async (): Promise<void> => {
      const { shot } = session.store.getState();
      const { pixels, region, format } = await viewer.fetchToKeep(shot, requestFor(from, reference, 1), 'view', controller.signal);
      const found = await readingWorker.call((w) => w.judge({ pixels, region, format }, channel, at, settings));
      if (!controller.signal.aborted) setDoubt(found);
    };
    // A picture that cannot be had is told of elsewhere.
    const timer = setTimeout(() => void judge().catch(() => undefined), REST);
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [viewer, session, fresh, at, from, reference, channel, settings]);
  const text = doubt && tellDoubt(doubt);
  if (!doubt || !text) return null;
  const { better } = doubt;
  return (
    <div className="hint" role="note" data-testid="place-doubt">
      {text}{' '}
      {better ? (
        <Button onClick={() => run('Move point', readingCommands.changePoint(id, { at: [...better] }))}>
          Take the corner {Math.round(Math.hypot(better[0] - at[0], better[1] - at[1]))} px away
        </Button>
      ) : (
        'There is nothing better nearby: make the pattern wider, or choose another detail.'
      )}
    </div>
  );
}
