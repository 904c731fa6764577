'use client';
import { useShotState } from '../workbench/context';
import { useView, view } from '../workbench/state';

/** Sources or Readings: the two lists at the left. */
export function DockTabs() {
  const dock = useView((s) => s.dock);
  const count = useShotState((s) => s.shot.readings.length);
  return (
    <div role="tablist" aria-label="Left dock" className="docktabs">
      {(['sources', 'readings'] as const).map((d) => (
        <button key={d} role="tab" aria-selected={dock === d} className={dock === d ? 'on' : ''} onClick={() => view.set({ dock: d })}>
          {d === 'sources' ? 'Sources' : 'Readings'}
          {d === 'readings' && count > 0 && <small>{count}</small>}
        </button>
      ))}
    </div>
  );
}
