'use client';
import { useEffect, useRef } from 'react';
import { kindOfLayer } from '@/core/layers';
import { drawPass } from '../sources/draw-pass';
import { useBench, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { channelsOf, requestFor } from '../workbench/use-picture';
import { infoAt, inputTap } from './use-input';

/** A pass of the picture that a step stands on, small. */
export function PartThumb({ step, layer }: { step: string; layer: string }) {
  const { viewer } = useBench();
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const canvas = useRef<HTMLCanvasElement>(null);
  const tap = inputTap(shot, step);
  useEffect(() => {
    const info = infoAt(shot, tap, frame);
    if (!tap || !info) return;
    const controller = new AbortController();
    viewer
      .fetch(shot, requestFor(tap, frame, 0.25, channelsOf(info.channels, layer)), 'thumbnail', controller.signal)
      .then((r) => canvas.current && drawPass(canvas.current, r, kindOfLayer(layer)))
      .catch(() => undefined);
    return () => controller.abort();
    // What comes after the point does not change it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [viewer, tap?.lane, tap?.after, frame, layer]);
  return <canvas ref={canvas} className="part-thumb" aria-hidden />;
}
