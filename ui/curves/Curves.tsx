'use client';
import { useEffect, useMemo, useRef, useState } from 'react';
import { repeatedKeys, valueAt } from '@/core/document';
import { useRun, useSelectedLimited, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { CurveTools } from './CurveTools';
import { KeyMarks } from './KeyMarks';
import type { Track, Viewport } from './track';
import { tracksOf } from './track';

/** A viewport that holds all keys of some tracks, with room around them. */
function fitted(tracks: readonly Track[], range: { first: number; last: number }): Viewport {
  const values = tracks.flatMap((t) => t.keys.map((k) => t.read(k.value)));
  const [least, most] = values.length ? [Math.min(...values), Math.max(...values)] : [0, 1];
  const room = Math.max((most - least) * 0.15, Math.abs(most) * 0.05, 1e-3);
  return { first: range.first - 0.5, last: range.last + 0.5, low: least - room, high: most + room };
}

/** The keyed parameters of the selected step as curves over the frames. */
export function Curves() {
  const shot = useShot();
  const selected = useSelectedLimited();
  const frame = useView((s) => s.frame);
  const tracks = useMemo(() => (selected ? tracksOf(selected.step) : []), [selected]);
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set());
  const [active, setActive] = useState<string | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const shown = tracks.filter((t) => !hidden.has(t.id));
  const track = shown.find((t) => t.id === active) ?? shown[0] ?? null;
  const [port, setPort] = useState<Viewport>(() => fitted(shown, shot.range));
  const fit = (): void => setPort(fitted(shown, shot.range));
  const names = shown.map((t) => t.id).join();
  // Another step or other curves are another picture; a change of values is not.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  useEffect(fit, [selected?.step.id, names, shot.range.first, shot.range.last]);
  useEffect(() => setChosen(new Set()), [selected?.step.id, track?.id]);
  const size = useSize();
  const run = useRun();
  useDeleteOfKeys(chosen.size > 0 && track !== null, () => {
    const left = track!.keys.filter((k) => !chosen.has(k.frame));
    if (run('Delete keys', track!.write(left, view.get().frame))) setChosen(new Set());
  });

  if (!selected) return <div className="board empty">Select a step: its parameters and shapes that have keys are curves here.</div>;
  if (tracks.length === 0)
    return (
      <div className="board empty">
        &ldquo;{selected.step.name}&rdquo; has no keys yet. A diamond beside a parameter sets one at the current frame.
      </div>
    );
  const x = (f: number): number => ((f - port.first) / (port.last - port.first)) * size.width;
  const y = (v: number): number => size.height - ((v - port.low) / (port.high - port.low)) * size.height;
  return (
    <div className="board curves" role="region" aria-label="Curves">
      <div className="curve-list">
        {tracks.map((t) => (
          <div key={t.id} className={`curve-name${track?.id === t.id ? ' on' : ''}`}>
            <input
              type="checkbox"
              checked={!hidden.has(t.id)}
              aria-label={`Show ${t.title}`}
              onChange={() => setHidden((h) => (h.has(t.id) ? new Set([...h].filter((i) => i !== t.id)) : new Set([...h, t.id])))}
            />
            <button className="grow" onClick={() => setActive(t.id)}>
              <span className="swatchline" style={{ background: t.colour }} /> {t.title}
            </button>
            {repeatedKeys(t.keys).length > 0 && (
              <span className="doubt" title={`The value repeats at frame ${repeatedKeys(t.keys).join(', ')}`}>
                {repeatedKeys(t.keys).length}×
              </span>
            )}
          </div>
        ))}
      </div>
      <div className="curve-main">
        {track && <CurveTools track={track} chosen={chosen} onChosen={setChosen} onFit={fit} />}
        <div className="curve-box" ref={size.ref}>
          <svg
            width={size.width}
            height={size.height}
            role="img"
            aria-label="Curves of keys"
            onWheel={(e) => setPort(zoomed(port, e, size))}
            onDoubleClick={fit}
          >
            <Grid port={port} x={x} y={y} size={size} />
            {shown.map((t) => (
              <path
                key={t.id}
                d={pathOf(t, port, x, y, size.width)}
                fill="none"
                stroke={t.colour}
                strokeWidth={t === track ? 1.8 : 1}
                opacity={t === track ? 1 : 0.55}
                onPointerDown={() => setActive(t.id)}
              />
            ))}
            <line x1={x(frame)} x2={x(frame)} y1={0} y2={size.height} stroke="var(--clay)" />
            {track && <KeyMarks track={track} chosen={chosen} onChosen={setChosen} port={port} x={x} y={y} size={size} />}
          </svg>
        </div>
      </div>
    </div>
  );
}

/** Delete takes what was chosen last: keys here, unless something of the board or a list was pressed since. */
function useDeleteOfKeys(chosen: boolean, remove: () => void): void {
  const act = useRef(remove);
  useEffect(() => {
    act.current = remove;
  });
  useEffect(() => {
    if (!chosen) return undefined;
    let last = true;
    const pressed = (e: PointerEvent): void => {
      const at = e.target instanceof Element ? e.target : null;
      if (at?.closest('.chip, .lane-head, [data-testid^="source "], [data-testid^="reading "]')) last = false;
    };
    const key = (e: KeyboardEvent): void => {
      const typing = e.target instanceof HTMLElement && e.target.matches('input:not([type="checkbox"]), textarea');
      if (e.key !== 'Delete' || !last || typing) return;
      e.preventDefault();
      e.stopImmediatePropagation();
      act.current();
    };
    window.addEventListener('pointerdown', pressed, true);
    window.addEventListener('keydown', key, true);
    return () => {
      window.removeEventListener('pointerdown', pressed, true);
      window.removeEventListener('keydown', key, true);
    };
  }, [chosen]);
}

/** The size of the element that takes the `ref`, whenever it comes and goes. */
function useSize() {
  const [element, ref] = useState<HTMLDivElement | null>(null);
  const [size, setSize] = useState({ width: 600, height: 150 });
  useEffect(() => {
    if (!element) return undefined;
    const observer = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    observer.observe(element);
    return () => observer.disconnect();
  }, [element]);
  return { ref, ...size };
}

function zoomed(port: Viewport, e: React.WheelEvent, size: { width: number; height: number }): Viewport {
  const box = e.currentTarget.getBoundingClientRect();
  // With Shift some browsers turn the wheel sideways.
  const k = Math.exp((e.deltaY || e.deltaX) * 0.0015);
  const about = (low: number, high: number, at: number): [number, number] => [at - (at - low) * k, at + (high - at) * k];
  if (e.shiftKey) {
    const [first, last] = about(port.first, port.last, port.first + ((e.clientX - box.left) / size.width) * (port.last - port.first));
    return { ...port, first, last };
  }
  const [low, high] = about(port.low, port.high, port.high - ((e.clientY - box.top) / size.height) * (port.high - port.low));
  return { ...port, low, high };
}

/** The curve as it is worked out, a point every two pixels. */
function pathOf(t: Track, port: Viewport, x: (f: number) => number, y: (v: number) => number, width: number): string {
  const points: string[] = [];
  for (let px = 0; px <= width; px += 2) {
    const f = port.first + (px / Math.max(1, width)) * (port.last - port.first);
    points.push(`${x(f).toFixed(1)} ${y(t.read(valueAt(t.keys, f))).toFixed(1)}`);
  }
  return `M${points.join('L')}`;
}

function Grid({
  port,
  x,
  y,
  size,
}: {
  port: Viewport;
  x: (f: number) => number;
  y: (v: number) => number;
  size: { width: number; height: number };
}) {
  const nice = (span: number, most: number): number => {
    const raw = span / most;
    const power = 10 ** Math.floor(Math.log10(raw));
    return [1, 2, 5, 10].map((m) => m * power).find((s) => s >= raw)!;
  };
  const lines = (low: number, high: number, step: number): number[] =>
    Array.from({ length: Math.floor(high / step) - Math.ceil(low / step) + 1 }, (_, i) => (Math.ceil(low / step) + i) * step);
  const stepV = nice(port.high - port.low, Math.max(2, size.height / 34));
  const stepF = Math.max(1, nice(port.last - port.first, 12));
  return (
    <g
      className="curve-grid"
      onPointerDown={(e) => view.set({ frame: Math.round(port.first + (e.nativeEvent.offsetX / size.width) * (port.last - port.first)) })}
    >
      <rect width={size.width} height={size.height} fill="transparent" />
      {lines(port.low, port.high, stepV).map((v) => (
        <g key={v}>
          <line x1={0} x2={size.width} y1={y(v)} y2={y(v)} className={Math.abs(v) < 1e-9 ? 'zero' : ''} />
          <text x={4} y={y(v) - 3}>
            {Number(v.toPrecision(4))}
          </text>
        </g>
      ))}
      {lines(port.first, port.last, stepF).map((f) => (
        <g key={f}>
          <line x1={x(f)} x2={x(f)} y1={0} y2={size.height} />
          <text x={x(f) + 3} y={size.height - 4}>
            {f}
          </text>
        </g>
      ))}
    </g>
  );
}
