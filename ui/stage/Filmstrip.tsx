'use client';
import { useEffect, useRef } from 'react';
import { useShallow } from 'zustand/react/shallow';
import type { Tap } from '@/core/document';
import { useBench, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { channelsOf, playRange, requestFor, useSeen } from '../workbench/use-picture';
import type { Rendered } from '@/engine';
import { CanvasDrawing } from './canvas-drawing';
import type { Look } from './look';

const COUNT = 8;
const SCALE = 0.25;

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

/** A frame as it is looked at on the stage: channel, backing, exposure and transform; a colour table is left to the stage. */
function drawStill(canvas: HTMLCanvasElement, rendered: Rendered, seen: Omit<Look, 'x' | 'y' | 'zoom' | 'lut' | 'other'>): void {
  const [width, height] = [rendered.format.width / SCALE, rendered.format.height / SCALE];
  const zoom = Math.min(canvas.width / width, canvas.height / height);
  const [x, y] = [(canvas.width - width * zoom) / 2, (canvas.height - height * zoom) / 2];
  new CanvasDrawing(canvas).draw(rendered, SCALE, { ...seen, x, y, zoom, lut: null, other: null });
}

function Still({ tap, frame }: { tap: Tap; frame: number }) {
  const { viewer } = useBench();
  const { shot } = useSeen();
  const here = useView((s) => s.frame === frame);
  const layer = useView((s) => s.layer);
  const look = useView(
    useShallow(({ exposure, gamma, transform, channel, backing, backingColour, surround }) => ({
      ...{ exposure, gamma, transform, channel, backing, backingColour, surround },
    })),
  );
  const canvas = useRef<HTMLCanvasElement>(null);
  const { lane, after } = tap;
  useEffect(() => {
    const controller = new AbortController();
    const of: Tap = after === undefined ? { lane } : { lane, after };
    const channels = channelsOf(layer ? shot.sources.flatMap((s) => s.channels) : [], layer);
    viewer
      .fetch(shot, requestFor(of, frame, SCALE, channels), 'thumbnail', controller.signal)
      .then(async (rendered) => {
        viewer.hold(rendered);
        try {
          // A lane as the backing lies behind each frame as it does behind the picture.
          const under = look.backing.startsWith('lane ') ? requestFor({ lane: look.backing.slice(5) }, frame, SCALE) : null;
          const behind = under && { rendered: await viewer.fetch(shot, under, 'thumbnail', controller.signal), scale: SCALE };
          if (canvas.current) drawStill(canvas.current, rendered, { ...look, behind });
        } finally {
          viewer.release(rendered);
        }
      })
      .catch(() => undefined);
    return () => controller.abort();
  }, [viewer, shot, lane, after, frame, layer, look]);
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
