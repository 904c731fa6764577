'use client';
import Button from '@mui/material/Button';
import type { Step } from '@/core/document';
import { isKeyed } from '@/core/document';
import { useJob } from '../jobs/jobs';
import { useBench } from '../workbench/context';
import { view } from '../workbench/state';
import { measureLight } from './light-job';

/** The light of a patch, frame by frame: measured once into a curve that can be seen and changed. */
export function LightLine({ step }: { step: Step }) {
  const bench = useBench();
  const busy = useJob('light');
  const { gain } = step.params;
  const keys = isKeyed(gain) ? gain.keys.length : 0;
  return (
    <div className="measure">
      <Button
        variant="outlined"
        disabled={busy !== undefined}
        title="The light of the ring around it, on every frame, as keys"
        onClick={() => void measureLight(bench, step.id)}
      >
        {busy ? 'Measuring the light' : 'Measure the light'}
      </Button>
      {keys > 0 && (
        <button className="pill" onClick={() => view.set({ tab: 'curves' })}>
          {keys} frames in Curves
        </button>
      )}
    </div>
  );
}
