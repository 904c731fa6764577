'use client';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { lensFile } from '@/core/lens';
import type { LensReading } from '@/core/readings';
import { readingWorker } from '@/engine/browser';
import { lensCommands } from '@/core/commands';
import { UsedBy } from '../readings/UsedBy';
import { saveBlob } from '../theme/save-blob';
import { toast, toastError } from '../theme/toast';
import { useRun, useShot } from '../workbench/context';
import { view } from '../workbench/state';

/** What a solved lens is good for. */
export function LensUses({ reading }: { reading: LensReading }) {
  const run = useRun();
  const shot = useShot();
  const [menu, setMenu] = useState<{ anchor: HTMLElement; what: 'straighten' | 'work' } | null>(null);
  const { lens } = reading.solved[0]!;
  const onLane = (lane: string): void => {
    const what = menu!.what;
    setMenu(null);
    if (what === 'straighten') {
      const made: { step?: string } = {};
      if (run('Straighten', lensCommands.straightenLane(reading.id, lane, made)))
        view.set({ selection: { kind: 'step', id: made.step! }, tab: 'lanes', seen: { lane } });
      return;
    }
    const made: { straighten?: string; bend?: string } = {};
    if (!run('Work without the lens', lensCommands.workStraight(reading.id, lane, made))) return;
    view.set({ selection: { kind: 'step', id: made.bend! }, tab: 'lanes', seen: { lane, after: made.straighten! } });
    toast('info', 'What is added between Straighten and Bend back lands on straight pixels; what is not changed goes out as filmed.');
  };
  const stMap = (direction: 'straighten' | 'bend') => () =>
    void readingWorker
      .call((w) => w.stMap(lens, direction))
      .then((bytes) => saveBlob(new Blob([bytes as Uint8Array<ArrayBuffer>]), `${reading.name} ${direction}.exr`))
      .catch(toastError);
  return (
    <>
      <div className="group">Use</div>
      <div className="uses">
        <button className="pill" aria-haspopup="menu" onClick={(e) => setMenu({ anchor: e.currentTarget, what: 'work' })}>
          Work without the lens
        </button>
        <button className="pill" aria-haspopup="menu" onClick={(e) => setMenu({ anchor: e.currentTarget, what: 'straighten' })}>
          Straighten a lane
        </button>
        <button
          className="pill"
          title="Model, coefficients, centre and focal length, with every crossing"
          onClick={() => saveBlob(new Blob([JSON.stringify(lensFile(reading), null, 1)]), `${reading.name}.json`)}
        >
          Save as JSON
        </button>
        <button className="pill" title="32-bit OpenEXR: where each straight pixel was filmed" onClick={stMap('straighten')}>
          ST map, straighten
        </button>
        <button className="pill" title="32-bit OpenEXR: where each filmed pixel lies in the straight picture" onClick={stMap('bend')}>
          ST map, bend
        </button>
      </div>
      <Menu anchorEl={menu?.anchor ?? null} open={menu !== null} onClose={() => setMenu(null)}>
        {shot.lanes.map((l) => (
          <MenuItem key={l.id} onClick={() => onLane(l.id)}>
            {l.name}
          </MenuItem>
        ))}
      </Menu>
      <UsedBy reading={reading.id} />
    </>
  );
}
