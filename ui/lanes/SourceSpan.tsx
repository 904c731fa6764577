'use client';
import type { Shot, Source } from '@/core/document';
import { spanOf, usedFrames, wholeFrames } from '@/core/document';
import { changeSource } from '@/core/commands';
import { newGesture } from '../controls/NumberField';
import { useRun } from '../workbench/context';
import { follow } from '../workbench/follow';
import { COLUMN, left } from './time';

type Part = 'first' | 'last' | 'all';

/** What a drag by so many frames of the shot makes of a source: moved in time, or with frames left out at an end. */
export function dragSpan(source: Source, part: Part, by: number, shotRate: number): Partial<Source> {
  if (part === 'all') return { start: source.start + by };
  const whole = wholeFrames(source);
  const used = usedFrames(source);
  // Its own frames may pass faster or slower than the shot's.
  const own = Math.round((by * (source.rate ?? shotRate)) / shotRate);
  const first = part === 'first' ? Math.min(used.last, Math.max(whole.first, used.first + own)) : used.first;
  const last = part === 'last' ? Math.max(used.first, Math.min(whole.last, used.last + own)) : used.last;
  // What is left stays where it was.
  const start = part === 'first' ? source.start + Math.round(((first - used.first) * shotRate) / (source.rate ?? shotRate)) : source.start;
  return { trim: { first, last }, start };
}

/** Where a source's frames stand: dragged as a whole it slips in time, at an end frames are left out or taken in again. */
export function SourceSpan({ shot, source, top }: { shot: Pick<Shot, 'range' | 'frameRate'>; source: Source; top: number }) {
  const run = useRun();
  const { first, last } = spanOf(source, shot.frameRate);
  const perFrame = COLUMN / (shot.range.last - shot.range.first + 1);
  const press = (part: Part) => (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    const gesture = newGesture();
    follow(e, (dx) => {
      const by = Math.round(dx / perFrame);
      run(part === 'all' ? 'Slip source' : 'Trim source', changeSource(source.id, dragSpan(source, part, by, shot.frameRate)), gesture);
    });
  };
  return (
    <span
      className="span movable"
      data-testid={`span ${source.name}`}
      title={`${source.name}: ${first}–${last}. Drag to slip it in time, drag an end to leave frames out.`}
      style={{ left: left(shot, first - 0.5), right: `calc(100% - ${left(shot, last + 0.5)})`, top }}
      onPointerDown={press('all')}
    >
      <i className="end" onPointerDown={press('first')} />
      <i className="end last" onPointerDown={press('last')} />
    </span>
  );
}
