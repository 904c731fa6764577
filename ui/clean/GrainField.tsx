'use client';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useState } from 'react';
import type { Tap, Value } from '@/core/document';
import type { ChannelGrain } from '@/core/grain';
import { sigmaAt, sizeOf } from '@/core/grain';
import type { ParamOf } from '@/core/param';
import type { FieldProps } from '../controls/field-props';
import { useJob } from '../jobs/jobs';
import { useBench, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { measureGrainOf } from './grain-job';

const percent = (v: number): string => `${(100 * v).toFixed(2)} %`;

/** Measures the grain of a lane's plate, from all of it or from the probed box, and tells what was found. */
export function GrainField({ value, set, step }: FieldProps<ParamOf<'grain'>, readonly ChannelGrain[]>) {
  const shot = useShot();
  const bench = useBench();
  const probe = useView((s) => s.probe);
  const busy = useJob('grain');
  const own = shot.lanes.find((l) => l.steps.some((s) => s.id === step.id));
  const start = own && 'tap' in own.start ? own.start.tap.lane : (own?.id ?? '');
  const [lane, setLane] = useState(start);
  const measured = shot.lanes.some((l) => l.id === lane) ? lane : start;
  const measure = async (): Promise<void> => {
    const of = shot.lanes.find((l) => l.id === measured);
    if (!of) return;
    const tap: Tap = { lane: measured, after: '' };
    const made = await measureGrainOf(bench, tap, probe);
    if (made) set(made as unknown as Value);
  };
  return (
    <div className="samples">
      <div className="inline">
        <Button variant="outlined" disabled={busy !== undefined} onClick={() => void measure()}>
          {busy ? 'Measuring' : 'Measure'}
        </Button>
        <Select size="small" value={measured} inputProps={{ 'aria-label': 'Grain of' }} onChange={(e) => setLane(e.target.value)}>
          {shot.lanes.map((l) => (
            <MenuItem key={l.id} value={l.id}>
              {l.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      <small className="dust">
        {probe ? 'In the probed box of its plate.' : 'On the flattest places of its plate; probe a box (P) on a flat one to be exact.'}
      </small>
      {value.length === 3 && (
        <table className="figures" data-testid="grain figures">
          <thead>
            <tr>
              <th />
              <th>at 0.05</th>
              <th>at 0.18</th>
              <th>size</th>
            </tr>
          </thead>
          <tbody>
            {value.map((g, c) => (
              <tr key={c}>
                <td>{['Red', 'Green', 'Blue'][c]}</td>
                <td className="mono">{percent(sigmaAt(g, 0.05))}</td>
                <td className="mono">{percent(sigmaAt(g, 0.18))}</td>
                <td className="mono">{sizeOf(g).toFixed(1)} px</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
