'use client';
import { useMemo } from 'react';
import type { Lane, Shot, Source, Step } from '@/core/document';
import { findStep, spanOf } from '@/core/document';
import { useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { takenAt } from './taken';

/** The source that a lane starts from, through lanes that it taps. */
function sourceUnder(shot: Shot, lane: Lane, depth = 0): Source | undefined {
  if ('source' in lane.start) {
    const { source } = lane.start;
    return shot.sources.find((s) => s.id === source);
  }
  if (!('tap' in lane.start) || depth > 32) return undefined;
  const { tap } = lane.start;
  const from = shot.lanes.find((l) => l.id === tap.lane);
  return from && sourceUnder(shot, from, depth + 1);
}

/** The frame of the source that a retime takes, here and over the shot's range. */
export function TimeLine({ step }: { step: Step }) {
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const { first, last } = shot.range;
  const points = useMemo(() => {
    const { first, last } = shot.range;
    return Array.from({ length: 33 }, (_, i) => first + ((last - first) * i) / 32).map((at) => [at, takenAt(shot, step, at)] as const);
  }, [shot, step]);
  const [low, high] = [Math.min(first, ...points.map((p) => p[1])), Math.max(last, ...points.map((p) => p[1]))];
  const x = (at: number): number => (100 * (at - first)) / Math.max(1, last - first);
  const y = (t: number): number => 30 - (30 * (t - low)) / Math.max(1, high - low);
  const now = takenAt(shot, step, frame);
  const lane = findStep(shot, step.id)?.lane;
  const source = lane && sourceUnder(shot, lane);
  const span = source && source.kind !== 'still' ? spanOf(source, shot.frameRate) : null;
  const beyond = span && (now < span.first ? 'first' : now > span.last ? 'last' : null);
  return (
    <div className="measure time-line">
      <span>
        Frame {frame} shows <b>{Number.isInteger(now) ? now : now.toFixed(2)}</b>
      </span>
      {beyond && (
        <span className="dust" role="status">
          {source!.name} has frames {span.first}–{span.last}: its {beyond} one is held.
        </span>
      )}
      <svg viewBox="0 0 100 30" preserveAspectRatio="none" role="img" aria-label={`Frame ${frame} shows source frame ${now.toFixed(2)}`}>
        <polyline points={points.map(([at, t]) => `${x(at)},${y(t)}`).join(' ')} />
        <line x1={x(frame)} x2={x(frame)} y1={0} y2={30} />
      </svg>
    </div>
  );
}
