'use client';
import { useEffect, useState } from 'react';
import type { Shot, Step } from '@/core/document';
import { width } from '@/core/geometry';
import { useBench, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { infoAt, inputTap } from './use-input';

interface Left {
  mean: number;
  most: number;
  /** Full-size pixels. */
  at: [number, number];
}

/** The shot with the step showing what its passes leave out, at neutral. */
function residualShot(shot: Shot, step: Step): Shot {
  const { parts } = step.params;
  const filters = Object.fromEntries(Object.entries(step.params).filter(([name]) => name.endsWith('.filter')));
  const bare: Step = { ...step, on: true, mix: 1, params: { ...(parts !== undefined && { parts }), ...filters, show: 'residual' } };
  delete bare.mask;
  return { ...shot, lanes: shot.lanes.map((l) => ({ ...l, steps: l.steps.map((s) => (s.id === step.id ? bare : s)) })) };
}

/** How much the passes leave out of the beauty: how bright at most, on average, and where. */
export function ResidualLine({ step }: { step: Step }) {
  const { viewer } = useBench();
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const [left, setLeft] = useState<Left | null>(null);
  const names = JSON.stringify(step.params.parts ?? []);
  useEffect(() => {
    const tap = inputTap(shot, step.id);
    const lane = tap?.lane;
    const controller = new AbortController();
    if (!lane || names === '[]' || !infoAt(shot, tap, frame)) return setLeft(null);
    viewer
      .fetch(
        residualShot(shot, step),
        { tap: { lane, after: step.id }, frame, scale: 0.5, channels: ['R', 'G', 'B', 'A'] },
        'thumbnail',
        controller.signal,
      )
      .then(({ pixels, region }) => {
        let [sum, most, at] = [0, 0, 0];
        for (let i = 0; i < pixels.length; i += 4) {
          const v = Math.max(Math.abs(pixels[i]!), Math.abs(pixels[i + 1]!), Math.abs(pixels[i + 2]!));
          sum += v;
          if (v > most) [most, at] = [v, i / 4];
        }
        const w = width(region);
        const place: [number, number] = [2 * (region.x0 + (at % w)), 2 * (region.y0 + Math.floor(at / w))];
        setLeft({ mean: sum / Math.max(1, pixels.length / 4), most, at: place });
      })
      .catch(() => undefined);
    return () => controller.abort();
    // What the parts do to it is no matter.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [viewer, names, frame, step.id]);
  if (!left) return null;
  return (
    <p className="dust residual" data-testid="residual">
      The passes leave out <b className="mono">{left.most.toFixed(3)}</b> at most
      {left.most > 1e-3 && (
        <>
          {', at '}
          <button className="pill" onClick={() => view.set({ probing: true, probe: [...left.at, ...left.at] })}>
            {left.at.join(', ')}
          </button>
        </>
      )}
      , <span className="mono">{left.mean.toFixed(4)}</span> on average.
    </p>
  );
}
