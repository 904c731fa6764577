'use client';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { Step } from '@/core/document';
import { messageOf } from '@/core/errors';
import { idSets, onlyChannel, passOf, surfacePasses } from '@/core/passes';
import { maskByPasses, setParams } from '@/core/commands';
import { toast } from '../theme/toast';
import { useBench, useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { layerParam } from './DataPick';
import { fetchPlanes } from './pass-pixels';
import { distancesIn } from './surface';
import { useInput } from './use-input';

/** What a step on data can be told by a click on the picture, or measured in it. */
export function PassLine({ step }: { step: Step }) {
  if (step.type === 'depthOfField') return <FocusLine step={step} />;
  if (step.type === 'depthRange') return <RangeLine step={step} />;
  if (step.type === 'positionMatte') {
    return (
      <div className="measure">
        <PickButton step={step} data="place" param="centre" label="Place it on the picture" />
      </div>
    );
  }
  return null;
}

function PickButton({ step, data, param, label }: { step: Step; data: 'focus' | 'place'; param: string; label: string }) {
  const picking = useView((s) => s.picking);
  const on = picking?.step === step.id && picking.data === data;
  return (
    <Button
      variant="outlined"
      aria-pressed={on}
      color={on ? 'secondary' : 'primary'}
      onClick={() => view.set({ picking: on ? null : { step: step.id, param, data } })}
    >
      {on ? 'Click the picture' : label}
    </Button>
  );
}

function FocusLine({ step }: { step: Step }) {
  const marks = useView((s) => s.focusMarks);
  return (
    <div className="measure inline">
      <PickButton step={step} data="focus" param="focus" label="Focus on the picture" />
      <button className={`pill${marks ? ' on' : ''}`} aria-pressed={marks} onClick={() => view.set({ focusMarks: !marks })}>
        Marks
      </button>
    </div>
  );
}

interface Measured {
  least: number;
  most: number;
  /** Pixels by distance, from the nearest to the farthest. */
  bins: readonly number[];
}
const BINS = 64;

/** The distances that a depth holds, as a histogram, and near and far set to its ends. */
function RangeLine({ step }: { step: Step }) {
  const { viewer } = useBench();
  const shot = useShot();
  const run = useRun();
  const { tap, info } = useInput(step.id);
  const [found, setFound] = useState<Measured | null>(null);
  const pass = passOf(info?.passes, layerParam(step, 'depth'), 'depth');
  if (!tap || !info || !pass) return null;
  const measure = async (): Promise<void> => {
    const { frame } = view.get();
    try {
      const pixels = await fetchPlanes(viewer, shot, tap, frame, [onlyChannel(pass)], 0.5);
      const there = distancesIn(step, info, pass, pixels).filter((v) => v < Infinity);
      if (there.length === 0) return toast('info', 'The depth of this frame holds no distance: nothing is there.');
      const [least, most] = there.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, 0]);
      const bins = new Array<number>(BINS).fill(0);
      for (const v of there) bins[Math.min(BINS - 1, Math.floor(((v - least) / Math.max(1e-9, most - least)) * BINS))]!++;
      setFound({ least, most, bins });
      const round = (v: number): number => Number(v.toPrecision(4));
      run('Measure depth', setParams(step.id, { near: round(least), far: round(most) }, frame));
    } catch (e) {
      toast('error', messageOf(e));
    }
  };
  const tallest = Math.max(1, ...(found?.bins ?? []).map((n) => Math.sqrt(n)));
  return (
    <div className="measure depth-range">
      <Button variant="outlined" onClick={() => void measure()}>
        Measure near and far
      </Button>
      {found && (
        <figure aria-label={`Distances from ${found.least.toFixed(2)} to ${found.most.toFixed(2)}`}>
          <svg viewBox={`0 0 ${BINS} 24`} preserveAspectRatio="none">
            {found.bins.map((n, i) => (
              <rect key={i} x={i} width={1} y={24 - (24 * Math.sqrt(n)) / tallest} height={(24 * Math.sqrt(n)) / tallest} />
            ))}
          </svg>
          <figcaption className="mono dust">
            <span>{found.least.toFixed(2)}</span>
            <span>{found.most.toFixed(2)}</span>
          </figcaption>
        </figure>
      )}
    </div>
  );
}

/** A mask of things or of a place, picked on the picture: a lane of its own is made for it. */
export function MaskPicks({ step }: { step: Step }) {
  const run = useRun();
  const { info } = useInput(step.id);
  // Of a zone there is no input.
  if (!info) return null;
  const { position, depth } = surfacePasses(info, { focal: 35, filmWidth: 36 });
  const make = (type: 'idMatte' | 'positionMatte'): void => {
    const made: { lane?: string; step?: string } = {};
    if (!run(type === 'idMatte' ? 'Mask by ID' : 'Mask by position', maskByPasses(step.id, type, made)) || !made.step) return;
    view.set({
      selection: { kind: 'step', id: made.step },
      picking: { step: made.step, ...(type === 'idMatte' ? { param: 'things', data: 'id' } : { param: 'centre', data: 'place' }) },
    });
  };
  const ids = idSets(info).length > 0;
  if (!ids && !position && !depth) return null;
  return (
    <div className="row wide mask-picks">
      <label>Pick it</label>
      <div className="inline">
        {ids && (
          <button className="pill" title="Click things on the picture: the step acts on them alone" onClick={() => make('idMatte')}>
            By ID
          </button>
        )}
        {(position ?? depth) && (
          <button className="pill" title="Click a place in the scene: the step acts around it" onClick={() => make('positionMatte')}>
            By position
          </button>
        )}
      </div>
      <span />
    </div>
  );
}
