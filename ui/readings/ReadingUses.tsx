'use client';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { PointReading, Reading } from '@/core/readings';
import { isPicture } from '@/core/document';
import { boostLane, followReading, pinPicture, steadyPlate, unwrapPlane } from '@/core/commands';
import { toast } from '../theme/toast';
import { useRun, useShot } from '../workbench/context';
import { view } from '../workbench/state';
import { UsedBy } from './UsedBy';

/** What a reading is good for: commands that build with it, and the steps that use it. */
export function ReadingUses({ reading }: { reading: Reading }) {
  const run = useRun();
  const shot = useShot();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [followers, setFollowers] = useState<HTMLElement | null>(null);
  const points = shot.readings.filter((r): r is PointReading => r.kind === 'point' && r.frames.length > 1);
  // This one and three others; the order is found from where they lie.
  const others = points.filter((p) => p.id !== reading.id).slice(0, 3);
  const four = reading.kind === 'point' && others.length === 3 ? [reading.id, ...others.map((p) => p.id)] : null;
  const pinnable = reading.kind === 'plane' ? [reading.id] : four;
  const measured = reading.frames.length > 1;
  const steady = (): void => {
    const made: { step?: string } = {};
    if (!run('Steady this plate', steadyPlate(reading.id, made))) return;
    view.set({ selection: { kind: 'step', id: made.step! }, tab: 'lanes', seen: null });
    toast('info', 'A stabilise was added; Fill frame has found the least scale.');
  };
  const pin = (source: string): void => {
    setMenu(null);
    const made: { lane?: string } = {};
    if (run('Pin a picture here', pinPicture({ source, readings: pinnable! }, made))) {
      view.set({ selection: { kind: 'lane', id: made.lane! }, tab: 'lanes', seen: null });
    }
  };
  const unwrap = (): void => {
    const made: { lane?: string } = {};
    if (run('Unwrap this plane', unwrapPlane(reading.id, made)))
      view.set({ selection: { kind: 'lane', id: made.lane! }, tab: 'lanes', seen: null });
  };
  const boost = (): void => {
    const made: { lane?: string } = {};
    if (run('Boost for tracking', boostLane(reading.id, made))) {
      view.set({ seen: { lane: made.lane! }, tab: 'lanes' });
      toast('info', 'A lane with more contrast was added; this reading is measured in it, and the picture does not change.');
    }
  };
  const follow = (lane: string): void => {
    setFollowers(null);
    const made: { step?: string } = {};
    if (run('Follow', followReading(reading.id, lane, made)))
      view.set({ selection: { kind: 'step', id: made.step! }, tab: 'lanes', seen: null });
  };
  return (
    <>
      <div className="group">Use</div>
      <div className="uses">
        <button className="pill" disabled={!measured} onClick={steady}>
          Steady this plate
        </button>
        <button
          className="pill"
          disabled={!measured || !pinnable}
          aria-haspopup="menu"
          title={pinnable ? 'Puts a picture on it' : 'Takes a plane, or four measured points'}
          onClick={(e) => setMenu(e.currentTarget)}
        >
          Pin a picture here
        </button>
        {reading.kind === 'plane' && (
          <button className="pill" disabled={!measured} onClick={unwrap}>
            Unwrap this plane
          </button>
        )}
        <button
          className="pill"
          disabled={!measured}
          aria-haspopup="menu"
          title="Adds a Follow to a lane"
          onClick={(e) => setFollowers(e.currentTarget)}
        >
          Follow it
        </button>
        <button className="pill" onClick={boost} title="A lane with more contrast, for measuring only">
          Boost for tracking
        </button>
      </div>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {shot.sources.filter(isPicture).map((s) => (
          <MenuItem key={s.id} onClick={() => pin(s.id)}>
            {s.name}
          </MenuItem>
        ))}
      </Menu>
      <Menu anchorEl={followers} open={followers !== null} onClose={() => setFollowers(null)}>
        {shot.lanes.map((l) => (
          <MenuItem key={l.id} onClick={() => follow(l.id)}>
            {l.name}
          </MenuItem>
        ))}
      </Menu>
      <UsedBy reading={reading.id} />
    </>
  );
}
