'use client';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { Step } from '@/core/document';
import { messageOf } from '@/core/errors';
import { scopeWorker } from '@/engine/browser';
import { finishMatte, lessonOfStep } from '@/core/commands';
import { toast } from '../theme/toast';
import { useBench, useRun, useShot } from '../workbench/context';
import { view } from '../workbench/state';
import { requestFor } from '../workbench/use-picture';

/** What usually follows a learnt matte, in one command; and the way to its lesson. */
export function FinishLine({ step }: { step: Step }) {
  const shot = useShot();
  const run = useRun();
  const { viewer } = useBench();
  const [busy, setBusy] = useState(false);
  const lesson = lessonOfStep(shot, step);
  if (!lesson) return null;
  const finish = async (): Promise<void> => {
    setBusy(true);
    try {
      const { pixels, region } = await viewer.fetchToKeep(shot, requestFor(lesson.from, lesson.reference, 0.5), 'view');
      const sample = { pixels, width: region.x1 - region.x0, height: region.y1 - region.y0 };
      const screen = await scopeWorker.call((w) => w.screen([sample]));
      if (!run('Finish the matte', finishMatte(step.id, screen?.colour ?? null))) return;
      view.set({ seen: null });
      toast(
        'info',
        screen
          ? 'Levels, clamp, tidy, hair from a key, edge detail, despill and colour under the edge were added: each can be set, or taken out.'
          : 'Levels, clamp, tidy, edge detail and colour under the edge were added. No screen was found, so there is no key for hair, and no spill to take off.',
      );
    } catch (e) {
      toast('error', `The matte was not finished: ${messageOf(e)}`);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="measure">
      <button
        className="pill"
        onClick={() => view.set({ selection: { kind: 'reading', id: lesson.id }, dock: 'readings', tab: 'readings' })}
      >
        to its lesson
      </button>
      {lesson.teaches === 'matte' && (
        <Button variant="outlined" disabled={busy} onClick={() => void finish()}>
          Finish the matte
        </Button>
      )}
    </div>
  );
}
