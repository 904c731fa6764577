'use client';
import { useEffect, useRef } from 'react';
import type { Tap } from '@/core/document/types';
import { useBench, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { channelsOf, playRange, requestFor, useSeenShot } from '../workbench/use-picture';
import { drawSmall } from './draw-small';

const COUNT = 8;

/** What is seen at frames spread over the range, since trouble hides between them. A click goes there. */
export function Filmstrip({ tap }: { tap: Tap }) {
  const shot = useShot();
  const inOut = useView((s) => s.inOut);
  const { first, last } = playRange(shot, inOut);
  const count = Math.min(COUNT, last - first + 1);
  const frames = Array.from({ length: count }, (_, i) => (count === 1 ? first : Math.round(first + (i * (last - first)) / (count - 1))));
  return (
    <div className="filmstrip" role="group" aria-label="Filmstrip">
      {frames.map((f) => (
        <Still key={f} tap={tap} frame={f} />
      ))}
    </div>
  );
}

function Still({ tap, frame }: { tap: Tap; frame: number }) {
  const { viewer } = useBench();
  const shot = useSeenShot();
  const here = useView((s) => s.frame === frame);
  const matte = useView((s) => s.channel === 'A');
  const layer = useView((s) => s.layer);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { lane, after } = tap;
  useEffect(() => {
    const controller = new AbortController();
    const of: Tap = after === undefined ? { lane } : { lane, after };
    const channels = channelsOf(layer ? shot.sources.flatMap((s) => s.channels) : [], layer);
    viewer
      .fetch(shot, requestFor(of, frame, 0.25, channels), 'thumbnail', controller.signal)
      .then((r) => canvas.current && drawSmall(canvas.current, r, matte))
      .catch(() => undefined);
    return () => controller.abort();
  }, [viewer, shot, lane, after, frame, matte, layer]);
  return (
    <button
      className={`still${here ? ' here' : ''}`}
      aria-label={`Go to frame ${frame}`}
      onClick={() => view.set({ frame, playing: false })}
    >
      <canvas ref={canvas} width={160} height={90} aria-hidden />
      <span className="mono">{frame}</span>
    </button>
  );
}
