'use client';
import type { Step } from '@/core/document';
import { stepValues } from '@/core/document';
import type { StabiliseValues } from '@/core/steps';
import { steadySettings } from '@/core/steps';
import { fillScale } from '@/core/readings';
import { STEPS } from '@/core/steps';
import { freezeStep, isFrozen, unfreezeStep } from '@/core/commands';
import { useRun, useShot } from '../workbench/context';
import { useView } from '../workbench/state';

/** Whether a step follows its reading live or stands on keys of its own, and the way from one to the other. */
export function FreezeLine({ step }: { step: Step }) {
  const run = useRun();
  const frozen = isFrozen(step);
  const on = ['reading', 'plane', 'first'].some((p) => typeof step.params[p] === 'string' && step.params[p] !== '');
  if (!on) return null;
  return (
    <div className="source-note" role="note">
      <span className="grow">
        {frozen ? 'Stands on keys: corrections of the reading do not reach it.' : 'Follows its reading live.'}
        {step.type === 'stabilise' && !frozen && <FillTold step={step} />}
      </span>
      <button className="pill" onClick={() => run(frozen ? 'Unfreeze' : 'Freeze', frozen ? unfreezeStep(step.id) : freezeStep(step.id))}>
        {frozen ? 'Unfreeze' : 'Freeze to keys'}
      </button>
    </div>
  );
}

/** The scale that fills the frame, as it was worked out. */
function FillTold({ step }: { step: Step }) {
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const values = stepValues(shot, STEPS.get('stabilise')!.params, step, frame) as unknown as StabiliseValues;
  if (!values.reading || values.fill === 'none') return null;
  const scale = fillScale(values.reading, values.second, frame, steadySettings(values), shot.format);
  return <b data-testid="fill-scale"> Filled at ×{Number.isFinite(scale) ? scale.toFixed(4) : '∞'}.</b>;
}
