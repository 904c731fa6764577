'use client';
import { useRef } from 'react';
import type { Lane, Note, Source } from '@/core/document';
import { outsideShot, spanOf } from '@/core/document';
import { alignSource, changeNote } from '@/core/commands';
import { newGesture } from '../controls/NumberField';
import { useMeasuring, withLive } from '../readings/measuring';
import { useRun, useShotPart } from '../workbench/context';
import { follow } from '../workbench/follow';
import { useView, view } from '../workbench/state';
import { KeysOnStrip } from './KeysOnStrip';
import { SourceSpan } from './SourceSpan';
import { COLUMN, left } from './time';
import { useTaken } from '../seating/taken';
import { useReady } from '../timeline/ready';

function useScrub() {
  const range = useShotPart('range');
  const down = useRef(false);
  const go = (e: React.PointerEvent): void => {
    const r = e.currentTarget.getBoundingClientRect();
    const { first, last } = range;
    const f = first + Math.floor(((e.clientX - r.left) / r.width) * (last - first + 1));
    view.set({ frame: Math.min(last, Math.max(first, f)), playing: false });
  };
  return {
    onPointerDown: (e: React.PointerEvent): void => {
      if (e.button !== 0) return;
      down.current = true;
      e.currentTarget.setPointerCapture(e.pointerId);
      go(e);
    },
    onPointerMove: (e: React.PointerEvent): void => {
      if (down.current) go(e);
    },
    onPointerUp: (): void => {
      down.current = false;
    },
  };
}

/** The multiples of a step after one number and up to another. */
export function ticksOf(after: number, last: number, step: number): number[] {
  const from = Math.floor(after / step) + 1;
  return Array.from({ length: Math.max(0, Math.floor(last / step) - from + 1) }, (_, i) => (from + i) * step);
}

export function Ruler({ head }: { head: React.ReactNode }) {
  const shot = { range: useShotPart('range'), notes: useShotPart('notes') };
  const inOut = useView((s) => s.inOut);
  const { ready } = useReady();
  const scrub = useScrub();
  const { first, last } = shot.range;
  const count = last - first + 1;
  const step = [1, 2, 5, 6, 12, 24, 48, 120, 240, 600].find((s) => count / s <= 8) ?? 1200 * 2 ** Math.ceil(Math.log2(count / 9600));
  const ticks = [first, ...ticksOf(first + step / 2, last, step)];
  return (
    <div className="board-row ruler">
      <div className="ruler-head">{head}</div>
      <div>PROCESS</div>
      <div className="time" style={{ padding: 0 }} {...scrub} data-testid="ruler">
        {inOut && (
          <span
            className="span"
            style={{
              left: left(shot, inOut.first - 0.5),
              right: `calc(100% - ${left(shot, inOut.last + 0.5)})`,
              top: 0,
              height: 3,
              background: 'var(--dust)',
            }}
          />
        )}
        {shot.notes.map((n) => (
          <NoteMark key={n.id} note={n} />
        ))}
        {ticks.map((t) => (
          <span
            key={t}
            className="tick"
            style={{
              left: left(shot, t),
              ...(t > last - count / 20 && { transform: 'translateX(-80%)' }),
              ...(t === first && { transform: 'translateX(2px)' }),
            }}
          >
            {t}
          </span>
        ))}
        {runs(ready).map(([a, b]) => (
          <span key={a} className="cached" style={{ left: left(shot, a - 0.5), width: `${(100 * (b - a + 1)) / count}%` }} />
        ))}
      </div>
    </div>
  );
}

/** A note on the ruler: dragged it goes to other frames, by its right end it lasts longer or shorter. A click goes there. */
function NoteMark({ note }: { note: Note }) {
  const shot = { range: useShotPart('range') };
  const run = useRun();
  const { first, last } = shot.range;
  const count = last - first + 1;
  const within = (f: number): number => Math.min(last, Math.max(first, f));
  const press = (part: 'all' | 'last') => (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    const gesture = newGesture();
    const length = (note.last ?? note.frame) - note.frame;
    if (part === 'all') view.set({ frame: within(note.frame), playing: false });
    follow(e, (dx) => {
      const by = Math.round((dx * count) / COLUMN);
      const frame = Math.min(within(note.frame + by), last - length);
      const end = part === 'last' ? within(Math.max(note.frame, note.frame + length + by)) : frame + length;
      run('Move note', changeNote(note.id, part === 'last' ? { last: end } : { frame, ...(note.last && { last: end }) }), gesture);
    });
  };
  const span = note.last ? { width: `${(100 * (note.last - note.frame + 1)) / count}%` } : {};
  return (
    <span
      className={`note-mark ${note.colour ?? 'clay'}${note.done ? ' done' : ''}`}
      data-testid={`note mark ${note.frame}`}
      style={{ left: left(shot, note.frame), ...span }}
      title={`${note.frame}: ${note.text}. Drag to move it, its right end to stretch it.`}
      onPointerDown={press('all')}
    >
      <i className="end last" onPointerDown={press('last')} />
    </span>
  );
}

/** Frames in a row as pairs of ends. */
function runs(frames: readonly number[]): [number, number][] {
  const out: [number, number][] = [];
  for (const f of frames) {
    const last = out[out.length - 1];
    if (last && last[1] === f - 1) last[1] = f;
    else out.push([f, f]);
  }
  return out;
}

export function TimeStrip({ lane }: { lane: Lane }) {
  const shot = { range: useShotPart('range'), sources: useShotPart('sources'), frameRate: useShotPart('frameRate') };
  const scrub = useScrub();
  const { start } = lane;
  const source = 'source' in start ? shot.sources.find((s) => s.id === start.source) : undefined;
  const moves = source && (source.kind === 'sequence' || source.kind === 'movie');
  const still = source?.kind === 'still' && source.duration !== undefined;
  const { first, last } = still ? spanOf(source, shot.frameRate) : shot.range;
  const top = lane.collapsed ? 8 : 19;
  const outside = source && outsideShot(source, shot);
  return (
    <div className="time" {...scrub}>
      {moves ? (
        <SourceSpan shot={shot} source={source} top={top} />
      ) : (
        <span className="span" style={{ left: left(shot, first - 0.5), right: `calc(100% - ${left(shot, last + 0.5)})`, top }} />
      )}
      {outside && <Outside source={source} side={outside} />}
      <ConfidenceMarks lane={lane.id} />
      <KeysOnStrip lane={lane} shot={shot} top={top} />
    </div>
  );
}

/** Says that a source's frames stand nowhere in the shot, and brings them in. */
function Outside({ source, side }: { source: Source; side: 'before' | 'after' }) {
  const run = useRun();
  const { first, last } = spanOf(source, useShotPart('frameRate'));
  return (
    <button
      className={`pill outside ${side}`}
      title={`${source.name} stands at ${first}–${last}, ${side} the shot: only its end frame is seen. A click lets it start with the shot.`}
      onPointerDown={(e) => e.stopPropagation()}
      onClick={() => run(`Align ${source.name}`, alignSource(source.id))}
    >
      {side === 'before' ? '◂ ' : ''}
      {first}–{last}, {side} the shot: align{side === 'after' ? ' ▸' : ''}
    </button>
  );
}

/** How sure the selected reading is, on the strip of the lane that it is measured in. */
function ConfidenceMarks({ lane }: { lane: string }) {
  const shot = { range: useShotPart('range') };
  const selection = useView((s) => s.selection);
  const stored = useShotPart('readings').find((r) => selection?.kind === 'reading' && r.id === selection.id && r.from.lane === lane);
  const live = useMeasuring((s) => (stored && s.reading === stored.id ? s.results : null));
  if (!stored) return null;
  const reading = live ? withLive(stored, live) : stored;
  const width = `${100 / (shot.range.last - shot.range.first + 1)}%`;
  return (
    <>
      {reading.frames.map((f) => (
        <i
          key={f.frame}
          className={`sure${f.flag ? ' flag' : ''}`}
          style={{ left: left(shot, f.frame - 0.5), width, height: 2 + 8 * f.confidence }}
          title={`${reading.name}, frame ${f.frame}: confidence ${Math.round(100 * f.confidence)} %`}
        />
      ))}
    </>
  );
}

/** One line through all rows, on a layer of its own: a frame that passes moves it and paints nothing again. */
export function Playhead({ height }: { height: number }) {
  const { first, last } = useShotPart('range');
  const frame = useView((s) => s.frame);
  const taken = useTaken();
  const x = (at: number): number => (COLUMN * (at - first + 0.5)) / (last - first + 1);
  return (
    <div className="playhead-column" style={{ height }}>
      <span className="playhead" style={{ transform: `translateX(${x(frame)}px)` }} />
      {taken !== null && (
        <span
          className="playhead taken"
          data-testid="taken"
          style={{ transform: `translateX(${x(taken)}px)` }}
          title={`Source frame ${taken.toFixed(2)}`}
        />
      )}
    </div>
  );
}
