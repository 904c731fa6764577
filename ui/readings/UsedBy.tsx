'use client';
import { usersOfReading } from '@/core/commands';
import { useShot } from '../workbench/context';
import { view } from '../workbench/state';

/** The steps that use a reading; a click goes to one. */
export function UsedBy({ reading }: { reading: string }) {
  return usersOfReading(useShot(), reading).map(({ lane, step }) => (
    <div key={step.id} className="flagged">
      <span className="dust">used by</span>
      <button className="pill" onClick={() => view.set({ selection: { kind: 'step', id: step.id } })}>
        {lane.name} ▸ {step.name}
      </button>
    </div>
  ));
}
