'use client';
import { useEffect, useMemo, useRef } from 'react';
import type { PointReading } from '@/core/readings';
import { dataOf, grayFrame } from '@/core/readings';
import type { Rendered } from '@/engine';
import { useBench, useShotPart } from '../workbench/context';
import { useView } from '../workbench/state';
import { useMeasuring, withLive } from './measuring';
import { requestFor } from '../workbench/use-picture';

const SIDE = 92;
/** Of the perceptual grey that is measured, 0..1. */
const LEAST_SPREAD = 0.12;
/** Milliseconds. */
const REST = 90;

/** What is followed, as the tracker sees it: on the reference frame and now, in the channel that is measured, enlarged. */
export function PatternView({ reading: id }: { reading: string }) {
  const { viewer, session } = useBench();
  const frame = useView((s) => s.frame);
  const playing = useView((s) => s.playing);
  const stored = useShotPart('readings').find((r): r is PointReading => r.id === id && r.kind === 'point');
  const live = useMeasuring((s) => (s.reading === id ? s.results : null));
  const reading = useMemo(() => stored && (live ? (withLive(stored, live) as PointReading) : stored), [stored, live]);
  const then = useRef<HTMLCanvasElement>(null);
  const now = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!reading || playing) return undefined;
    const controller = new AbortController();
    const timer = setTimeout(() => {
      const { shot } = session.store.getState();
      const data = dataOf(reading, 1);
      const show = async (canvas: HTMLCanvasElement | null, f: number): Promise<void> => {
        const r = await viewer.fetch(shot, requestFor(reading.from, f, 1), 'view', controller.signal);
        if (canvas) drawPattern(canvas, r, reading, reading.frames.length ? data.positionAt(f) : reading.at);
      };
      Promise.all([show(then.current, reading.reference), show(now.current, frame)]).catch(() => undefined);
    }, REST);
    return () => {
      clearTimeout(timer);
      controller.abort();
    };
  }, [reading, frame, playing, viewer, session]);
  if (!reading) return null;
  const at = reading.frames.find((f) => f.frame === frame);
  return (
    <div className="figures pattern-view" data-testid="pattern-view">
      <div className="inline">
        <figure>
          <canvas ref={then} width={SIDE} height={SIDE} />
          <figcaption>frame {reading.reference}</figcaption>
        </figure>
        <figure>
          <canvas ref={now} width={SIDE} height={SIDE} />
          <figcaption>
            {at ? `confidence ${Math.round(100 * at.confidence)} %${at.flag ? ` · ${at.flag}` : ''}` : 'not measured'}
          </figcaption>
        </figure>
      </div>
    </div>
  );
}

/** The pattern's box around a position, contrast spread, with a cross on the point. */
function drawPattern(canvas: HTMLCanvasElement, r: Rendered, reading: PointReading, [x, y]: readonly [number, number]): void {
  const [l, t, right, b] = reading.settings.pattern;
  const [w, h] = [Math.max(3, Math.round(right - l)), Math.max(3, Math.round(b - t))];
  const { data } = grayFrame(r.pixels, r.region, r.format, reading.channel).read(Math.round(x + l), Math.round(y + t), w, h);
  const [least, most] = data.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, -Infinity]);
  // Bare sky stays bare: what differs by less than this is not spread into detail.
  const spread = Math.max(most - least, LEAST_SPREAD);
  const low = (least + most - spread) / 2;
  const image = new ImageData(w, h);
  for (let i = 0; i < w * h; i++) {
    const v = (255 * (data[i]! - low)) / spread;
    image.data.set([v, v, v, 255], 4 * i);
  }
  const small = new OffscreenCanvas(w, h);
  small.getContext('2d')!.putImageData(image, 0, 0);
  const c = canvas.getContext('2d')!;
  c.imageSmoothingEnabled = false;
  const k = SIDE / Math.max(w, h);
  c.clearRect(0, 0, SIDE, SIDE);
  c.drawImage(small, (SIDE - k * w) / 2, (SIDE - k * h) / 2, k * w, k * h);
  const [px, py] = [(SIDE - k * w) / 2 + k * (x - Math.round(x + l)), (SIDE - k * h) / 2 + k * (y - Math.round(y + t))];
  c.strokeStyle = '#d0693b';
  c.beginPath();
  c.moveTo(px - 7, py);
  c.lineTo(px + 7, py);
  c.moveTo(px, py - 7);
  c.lineTo(px, py + 7);
  c.stroke();
}
